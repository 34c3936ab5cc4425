/** Where an address names no project: a demonstration that is not made yet is made, else the projects are offered. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Link as To } from 'react-router';
import { client, Refusal, settled } from '../api/client';
import type { Demo } from '../api/types';

export default function Missing({ slug }: { slug: string }) {
  const queries = useQueryClient();
  const [refused, setRefused] = useState('');
  const { data } = useQuery({
    queryKey: ['demos'],
    queryFn: () => settled<Demo[]>(client.GET('/api/demos')),
    refetchInterval: 700,
    staleTime: 0,
  });
  const demo = data?.find((one) => one.slug === slug);
  const { key, state } = demo ?? {};
  const make = async (which: string) => {
    setRefused('');
    try {
      await settled(client.POST('/api/demos/{key}', { params: { path: { key: which } } }));
    } catch (error) {
      setRefused(error instanceof Refusal ? error.message : String(error));
    }
  };
  useEffect(() => {
    if (key && state === 'missing') void make(key);
    if (state === 'made') {
      void queries.invalidateQueries({ queryKey: ['projects'] });
      void queries.resetQueries({ queryKey: ['project', slug] });
    }
  }, [key, state, slug, queries]);
  if (!data) return null;
  if (!demo)
    return (
      <Box component="main" sx={{ maxWidth: 460, mx: 'auto', mt: '12vh', p: 3 }}>
        <Typography component="h1" sx={{ fontSize: 22, fontWeight: 600, mb: 1 }}>
          There is no project at this address
        </Typography>
        <Typography sx={{ fontSize: 13.5, mb: 2 }} color="text.secondary">
          {`Nothing here is called “${slug}”. `}
          {'It may have been given another name, or belong to another data folder.'}
        </Typography>
        <Link component={To} to="/">
          Open the newest project
        </Link>
      </Box>
    );
  const says = refused || demo.message;
  const failed = Boolean(refused) || state === 'failed';
  return (
    <Box component="main" sx={{ maxWidth: 460, mx: 'auto', mt: '12vh', p: 3 }} data-testid="making">
      <Typography component="h1" sx={{ fontSize: 22, fontWeight: 600, mb: 1 }}>
        {demo.project}
      </Typography>
      <Typography sx={{ fontSize: 13.5, mb: 2 }} color="text.secondary">
        {`${demo.name}: ${demo.says}. It is set up once: each of its ${demo.drivers} drivers is played through the `}
        {'stand-ins and recorded, and its impedance is measured. That takes some seconds, and is kept.'}
      </Typography>
      {!failed && <LinearProgress variant="determinate" value={demo.done * 100} aria-label="How far it is" />}
      <Typography
        role={failed ? 'alert' : 'status'}
        sx={{ fontSize: 13, mt: 1, color: (t) => (failed ? t.own.clayText : t.own.quiet) }}>
        {says || 'Beginning'}
      </Typography>
      {failed && (
        <Box sx={{ display: 'flex', gap: 1, mt: 1.5 }}>
          <Button variant="contained" onClick={() => void make(demo.key)}>
            Try again
          </Button>
          <Button variant="outlined" component={To} to="/">
            Open the newest project
          </Button>
        </Box>
      )}
    </Box>
  );
}
