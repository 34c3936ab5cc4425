/** Find an action by its name and do it. */
import Autocomplete from '@mui/material/Autocomplete';
import Dialog from '@mui/material/Dialog';
import TextField from '@mui/material/TextField';
import type { Action } from '../stages/common/action';

export function Finder({ actions, onClose }: { actions: Action[]; onClose: () => void }) {
  return (
    <Dialog open onClose={onClose} transitionDuration={0} fullWidth maxWidth="sm" aria-label="Find an action">
      <Autocomplete
        options={actions.filter((one) => one.id !== 'finder')}
        getOptionLabel={(one) => one.name}
        openOnFocus
        autoHighlight
        sx={{ p: 2 }}
        renderInput={(params) => <TextField {...params} label="Find an action" autoFocus />}
        onChange={(_event, action) => {
          onClose();
          action?.run();
        }}
      />
    </Dialog>
  );
}
