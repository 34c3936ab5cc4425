/** Revisions: name one, go back to one, lay one beside the present. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import InputBase from '@mui/material/InputBase';
import Typography from '@mui/material/Typography';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { client, settled } from '../api/client';
import type { Revision } from '../api/types';
import { clock } from '../ui/format';
import { usePick } from '../state/window';
import type { Work } from '../state/project';

export function Revisions({ work, onClose, onSystem }: { work: Work; onClose: () => void; onSystem: () => void }) {
  const { slug, project, act } = work;
  const { compare, set } = usePick('compare', 'set');
  const queries = useQueryClient();
  const key = ['revisions', slug, project.revision.id];
  const { data = [] } = useQuery({
    queryKey: key,
    queryFn: () => settled<Revision[]>(client.GET('/api/projects/{slug}/revisions', { params: { path: { slug } } })),
  });
  const at = (id: number) => ({ params: { path: { slug, revision_id: id } } });
  const rename = (one: Revision, name: string) => {
    if (name.trim() === (one.name ?? '')) return;
    void act(async () => {
      queries.setQueryData(
        key,
        await settled(
          client.PUT('/api/projects/{slug}/revisions/{revision_id}/name', { ...at(one.id), body: { name } }),
        ),
      );
      return settled(client.GET('/api/projects/{slug}', { params: { path: { slug } } }));
    });
  };
  const restore = (one: Revision) =>
    void act(() => settled(client.POST('/api/projects/{slug}/revisions/{revision_id}/restore', at(one.id)))).then(
      onClose,
    );
  return (
    <Dialog open onClose={onClose} transitionDuration={0} fullWidth maxWidth="md" aria-labelledby="revisions-title">
      <DialogTitle id="revisions-title" sx={{ display: 'flex', justifyContent: 'space-between' }}>
        Revisions
        <Button variant="outlined" onClick={onSystem} data-testid="open-system">
          Projects, system, processor
        </Button>
      </DialogTitle>
      <DialogContent sx={{ maxHeight: 520 }}>
        <Typography color="text.secondary" sx={{ fontSize: 12.5, mb: 1 }}>
          Every change is one. Name those you want to find again; “Compare” lays its predicted curve
          {' beside the present one in Seams, Voice and Proof.'}
        </Typography>
        {data.map((one) => (
          <Box
            key={one.id}
            sx={{
              display: 'flex',
              alignItems: 'center',
              gap: 1.5,
              py: 0.25,
              borderTop: 1,
              borderColor: 'divider',
              fontSize: 13,
            }}>
            <Box sx={{ width: 34, fontWeight: 600 }}>{one.number}</Box>
            <Box sx={{ width: 46, color: 'text.secondary' }}>{clock(one.created)}</Box>
            <Box sx={{ flex: 1, minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
              {one.summary}
            </Box>
            <InputBase
              defaultValue={one.name ?? ''}
              placeholder="name"
              inputProps={{ 'aria-label': `Name of revision ${one.number}`, maxLength: 80 }}
              sx={{ width: 150, fontSize: 13, border: 1, borderColor: 'divider', borderRadius: 1, px: 1 }}
              onBlur={(event) => rename(one, event.target.value)}
              onKeyDown={(event) => {
                if (event.key === 'Enter') rename(one, (event.target as HTMLInputElement).value);
              }}
            />
            <Button
              disabled={one.id === project.revision.id}
              onClick={() => set({ compare: compare === one.id ? null : one.id })}>
              {compare === one.id ? 'Stop comparing' : 'Compare'}
            </Button>
            <Button disabled={one.id === project.revision.id} onClick={() => restore(one)}>
              Go back to it
            </Button>
          </Box>
        ))}
      </DialogContent>
    </Dialog>
  );
}
