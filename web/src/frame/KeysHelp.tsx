import Box from '@mui/material/Box';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import type { Action } from '../stages/common/action';

export function KeysHelp({ actions, onClose }: { actions: Action[]; onClose: () => void }) {
  return (
    <Dialog open onClose={onClose} transitionDuration={0} aria-labelledby="keys-title">
      <DialogTitle id="keys-title">Keys</DialogTitle>
      <DialogContent>
        <Box
          component="dl"
          sx={{ display: 'grid', gridTemplateColumns: '110px 1fr 110px 1fr', gap: '4px 16px', m: 0, fontSize: 13 }}>
          {actions
            // The first of a key has it: parts of a stage come before what the key does elsewhere.
            .filter((one, n) => one.key && actions.findIndex((other) => other.key === one.key) === n)
            .map((one) => (
              <Box key={one.id} sx={{ display: 'contents' }}>
                <Box component="dt" sx={{ fontWeight: 600 }}>
                  {one.key}
                </Box>
                <Box component="dd" sx={{ m: 0 }}>
                  {one.name}
                </Box>
              </Box>
            ))}
        </Box>
        <Typography sx={{ fontSize: 12.5, mt: 2 }} color="text.secondary">
          <Link href="/api/docs">The API, for scripts</Link>
          {' · '}
          <Link href="/api/diagnostics.zip" download>
            Diagnostics for a bug report
          </Link>
          {': versions and the log, no sound.'}
        </Typography>
      </DialogContent>
    </Dialog>
  );
}
