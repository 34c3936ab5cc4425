/** A box to tick, with its words beside it. */
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';

interface Props {
  label: string;
  on: boolean;
  onTurn: (on: boolean) => void;
  testId?: string;
}

export const Tick = ({ label, on, onTurn, testId }: Props) => (
  <FormControlLabel
    data-testid={testId}
    sx={{ m: 0, '& .MuiFormControlLabel-label': { fontSize: 12.5 } }}
    label={label}
    control={
      <Checkbox
        size="small"
        sx={{ p: 0.25, mr: 0.25 }}
        checked={on}
        onChange={(event) => onTurn(event.target.checked)}
      />
    }
  />
);
