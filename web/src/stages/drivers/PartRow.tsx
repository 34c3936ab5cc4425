/** A part of a network: its value to be turned, a textbook's beside it, what heats it. */
import CloseIcon from '@mui/icons-material/CloseOutlined';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import { useTheme } from '@mui/material/styles';
import type { PassivePart } from '../../api/types';
import { NumberField } from '../../ui/Field';
import { plain } from '../../ui/format';

export function PartRow({
  part,
  chosen,
  onValue,
  onRemove,
}: {
  part: PassivePart;
  chosen: boolean;
  onValue: (value: number) => void;
  onRemove: () => void;
}) {
  const { own } = useTheme();
  const shown = part.value * part.factor;
  const digits = shown < 1 ? 3 : shown < 100 ? 2 : 0;
  const said = [
    part.textbook === null ? '' : `book ${plain(part.textbook * part.factor, 2)}`,
    part.watts >= 0.05 ? `${plain(part.watts)} W` : '',
  ].filter(Boolean);
  return (
    <Box
      title={`Off by its tolerance it moves the sum by ${plain(part.moves_db, 2)} dB rms`}
      sx={{ borderLeft: `2px solid ${chosen ? own.clay : 'transparent'}`, pl: 0.5 }}>
      <Box sx={{ display: 'flex', alignItems: 'flex-end' }}>
        <NumberField
          label={part.name}
          unit={part.unit}
          digits={digits}
          value={shown}
          factor
          step={1 / 12}
          coarse={1 / 3}
          min={1e-4}
          max={10000}
          onCommit={(value) => onValue(value / part.factor)}
        />
        <IconButton size="small" aria-label={`Take ${part.name} out`} sx={{ p: 0.25, mb: 0.5 }} onClick={onRemove}>
          <CloseIcon sx={{ fontSize: 14 }} />
        </IconButton>
      </Box>
      <Box sx={{ fontSize: 11, color: own.quiet, minHeight: 15 }}>{said.join(' · ')}</Box>
    </Box>
  );
}
