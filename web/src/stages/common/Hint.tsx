/** A short line for a beginner: what a view shows and what a good one looks like; it can be turned off. */
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useWindow, usePick } from '../../state/window';

export const HINT_HEIGHT = 20;

export function Hint({ says }: { says: string | undefined }) {
  const hints = useWindow((state) => state.hints);
  return (
    <Typography
      noWrap
      data-testid={says && hints ? 'hint' : undefined}
      color="text.secondary"
      title={says}
      sx={{ height: HINT_HEIGHT, fontSize: 12, lineHeight: `${HINT_HEIGHT}px`, pl: '60px', pr: '12px' }}>
      {hints ? says : ''}
    </Typography>
  );
}

export function HintToggle() {
  const { hints, set } = usePick('hints', 'set');
  const turn = () => {
    localStorage.setItem('imbrix-hints', hints ? 'off' : 'on');
    set({ hints: !hints });
  };
  return (
    <Button size="small" sx={{ minWidth: 0, px: 0.5, fontSize: 12 }} aria-pressed={hints} onClick={turn}>
      {hints ? 'Hide hints' : 'Hints'}
    </Button>
  );
}
