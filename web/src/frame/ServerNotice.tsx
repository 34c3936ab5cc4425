/** What is said while the server is gone, and where it has come back as another version than this page. */
import Alert from '@mui/material/Alert';
import Button from '@mui/material/Button';
import { usePick } from '../state/window';

export function ServerNotice() {
  const { linked, outdated } = usePick('linked', 'outdated');
  if (!linked)
    return (
      <Alert severity="warning" variant="outlined" data-testid="unlinked" sx={{ py: 0, fontSize: 12.5 }}>
        The server does not answer. What was shown as saved is on disk. Start it again: this page goes on by itself.
      </Alert>
    );
  if (!outdated) return null;
  const anew = (
    <Button color="inherit" sx={{ whiteSpace: 'nowrap' }} onClick={() => window.location.reload()}>
      Load anew
    </Button>
  );
  return (
    <Alert
      severity="warning"
      variant="outlined"
      action={anew}
      data-testid="outdated"
      sx={{ py: 0, fontSize: 12.5, alignItems: 'center' }}>
      The server is of another version than this page. What is saved stays.
    </Alert>
  );
}
