/** Where no project is named: the newest one is opened, or the first one begun. */
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { lazy, Suspense } from 'react';
import { Navigate, useNavigate } from 'react-router';
import { client, settled } from '../api/client';
import type { Model, Projects } from '../api/types';
import { OpenFile } from './ProjectFile';

const NewProject = lazy(() => import('./NewProject').then((loaded) => ({ default: loaded.NewProject })));

export function Home() {
  const navigate = useNavigate();
  const { data, error } = useQuery({
    queryKey: ['projects'],
    queryFn: () => settled<Projects>(client.GET('/api/projects')),
  });
  const first = data?.projects[0];
  const { data: models } = useQuery({
    queryKey: ['models'],
    queryFn: () => settled<Model[]>(client.GET('/api/models')),
    enabled: data !== undefined && first === undefined,
  });
  if (first) return <Navigate to={`/${first.slug}/drivers`} replace />;
  if (!data || !models)
    return (
      <Box sx={{ p: 4 }}>
        <Typography>{error ? error.message : 'Opening …'}</Typography>
      </Box>
    );
  return (
    <Box
      component="main"
      sx={{ maxWidth: 460, mx: 'auto', mt: '12vh', p: 3, borderRadius: 1, bgcolor: 'background.paper' }}>
      <Typography component="h1" sx={{ fontSize: 22, fontWeight: 600, mb: 1 }}>
        Begin with a system
      </Typography>
      <Typography sx={{ fontSize: 13.5, mb: 2 }} color="text.secondary">
        There is no project here yet. Say what drivers there are and what processor feeds them; both can be changed
        later. Every driver begins behind a high-pass that does it no harm. Then set the rig up, and record the drivers
        one by one.
      </Typography>
      <Box sx={{ mb: 2 }}>
        <OpenFile onOpened={(slug) => navigate(`/${slug}/drivers`)} />
      </Box>
      <Suspense fallback={null}>
        <NewProject known={data} models={models} onBegun={(slug) => navigate(`/${slug}/rig`)} />
      </Suspense>
    </Box>
  );
}
