import '@fontsource/ibm-plex-sans/latin-400.css';
import '@fontsource/ibm-plex-sans/latin-600.css';
import CssBaseline from '@mui/material/CssBaseline';
import { ThemeProvider } from '@mui/material/styles';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { useMemo } from 'react';
import { createRoot } from 'react-dom/client';
import { createBrowserRouter, RouterProvider } from 'react-router';
import { Refusal } from './api/client';
import { Frame } from './frame/Frame';
import { Home } from './frame/Home';
import { makeTheme } from './ui/theme';
import { useWindow } from './state/window';

/** What the server refuses it refuses again; what it did not answer may be answered yet. */
const retry = (count: number, error: Error) => count < 2 && !(error instanceof Refusal && error.status);
const queries = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity, retry } } });
const router = createBrowserRouter([
  { path: '/:slug/:stage', element: <Frame /> },
  { path: '*', element: <Home /> },
]);

function App() {
  const mode = useWindow((state) => state.mode);
  const theme = useMemo(() => makeTheme(mode), [mode]);
  return (
    <ThemeProvider theme={theme}>
      <CssBaseline />
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </ThemeProvider>
  );
}

createRoot(document.getElementById('root')!).render(<App />);
