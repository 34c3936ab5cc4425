/** What the processor does not do yet, found by reading it back. */
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { client, settled } from '../api/client';
import { ChangeTable } from '../stages/common/ChangeTable';
import type { Work } from '../state/project';

export function Unsent({ work, onClose }: { work: Work; onClose: () => void }) {
  const { project, slug, act } = work;
  const send = () =>
    void act(() => settled(client.POST('/api/projects/{slug}/processor/send', { params: { path: { slug } } }))).then(
      onClose,
    );
  const count = project.link.unsent.length;
  return (
    <Dialog open onClose={onClose} transitionDuration={0} fullWidth maxWidth="sm" aria-labelledby="unsent-title">
      <DialogTitle id="unsent-title">
        {count ? `${count} unsent changes` : 'The processor does what the tune says'}
      </DialogTitle>
      <DialogContent sx={{ maxHeight: 460 }}>
        {count ? <ChangeTable changes={project.link.unsent} /> : 'Read back and compared: no difference.'}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Close</Button>
        {count > 0 && (
          <Button variant="contained" onClick={send}>
            Send to the processor
          </Button>
        )}
      </DialogActions>
    </Dialog>
  );
}
