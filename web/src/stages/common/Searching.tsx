/** A long search under way: how far it is, and how to stop it. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import { useQuery } from '@tanstack/react-query';
import { client, settled } from '../../api/client';

const EVERY_MS = 400;

/** `onStop` is done as well when somebody has enough. */
export function Searching({ slug, onStop }: { slug: string; onStop?: () => void }) {
  const path = { params: { path: { slug } } };
  const { data } = useQuery({
    queryKey: ['search', slug],
    queryFn: () => settled<{ what: string; share: number }>(client.GET('/api/projects/{slug}/search', path)),
    refetchInterval: EVERY_MS,
    gcTime: 0,
  });
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
      <LinearProgress
        sx={{ flex: 1 }}
        variant={data?.share ? 'determinate' : 'indeterminate'}
        value={100 * (data?.share ?? 0)}
        aria-label="Searching"
      />
      <Button
        size="small"
        data-testid="stop-search"
        sx={{ minWidth: 0, py: 0 }}
        onClick={() => {
          void settled(client.POST('/api/projects/{slug}/search/stop', path));
          onStop?.();
        }}>
        Stop
      </Button>
    </Box>
  );
}
