/** Whether curves show the range of all takes and places about them, and what of it is told in figures. */
import Button from '@mui/material/Button';
import type { Picture } from '../../api/types';
import { plain } from '../../ui/format';
import { usePick } from '../../state/window';

export function RangeToggle() {
  const { ranged, set } = usePick('ranged', 'set');
  return (
    <Button
      size="small"
      sx={{ minWidth: 0, px: 0.5, fontSize: 12 }}
      aria-pressed={ranged}
      title="What other takes and other places of the microphone show, about every curve (V)"
      data-testid="range"
      onClick={() => set({ ranged: !ranged })}>
      {ranged ? 'Hide range' : 'Range'}
    </Button>
  );
}

/** The range in words: over which takes or places, and of the figures from the least to the most. */
export function rangeWords(ranges: Picture['facts']['ranges']): string {
  if (!ranges) return '';
  const { says, loss, plus_minus } = ranges;
  const figures = [
    ...(loss ? [`${plain(loss[0])} to ${plain(loss[1])} dB lost`] : []),
    ...(plus_minus ? [`±${plain(plus_minus[0])} to ±${plain(plus_minus[1])} dB`] : []),
  ];
  return [says, figures.join(', ')].filter(Boolean).join(': ');
}
