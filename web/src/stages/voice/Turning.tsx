/** Where left and right take each other away over the whole head, and the all-pass that turns one of them. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { client, settled } from '../../api/client';
import type { SideTurn } from '../../api/types';
import type { Work } from '../../state/project';

export function Turning({ work }: { work: Work }) {
  const { project, slug, commit } = work;
  const { data: turn } = useQuery({
    queryKey: ['turn', slug, project.version],
    queryFn: () => settled<SideTurn | null>(client.GET('/api/projects/{slug}/turn', { params: { path: { slug } } })),
  });
  if (!turn) return null;
  return (
    <Box data-testid="turn" sx={{ borderLeft: 3, borderColor: 'primary.main', pl: 1, py: 0.25 }}>
      <Typography sx={{ fontSize: 13, fontWeight: 600 }}>{turn.says}</Typography>
      <Typography sx={{ fontSize: 12 }} color="text.secondary">
        {turn.evidence}
      </Typography>
      <Button variant="outlined" sx={{ mt: 0.5, py: 0 }} onClick={() => void commit(turn.edits, turn.action)}>
        {turn.action}
      </Button>
    </Box>
  );
}
