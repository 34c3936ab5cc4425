/** Where no project is named: the newest one is opened. */
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { Navigate } from 'react-router';
import { client, settled } from '../api/client';
import type { Projects } from '../api/types';

export function Home() {
  const { data, error } = useQuery({
    queryKey: ['projects'],
    queryFn: () => settled<Projects>(client.GET('/api/projects')),
  });
  const first = data?.projects[0];
  if (first) return <Navigate to={`/${first.slug}/drivers`} replace />;
  const says = error ? error.message : data ? 'There is no project yet. Start Imbrix with make demo.' : 'Opening …';
  return (
    <Box sx={{ p: 4 }}>
      <Typography>{says}</Typography>
    </Box>
  );
}
