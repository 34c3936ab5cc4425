/** How near to a loudspeaker on a stand the microphone goes, and what a gate keeps there. */
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { NumberField } from '../../ui/Field';
import { Section } from '../../ui/Panel';
import type { StageProps } from '../props';
import { useRigChange } from './useRigChange';

export function Nearest({ work }: Pick<StageProps, 'work'>) {
  const { rig, place } = work.project;
  const change = useRigChange(work);
  const found = place.nearest;
  if (!found && place.key) return null;
  return (
    <Section title="Before a loudspeaker on its stand">
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'flex-end' }}>
        <Box sx={{ width: 96, flex: 'none' }}>
          <NumberField
            label="Height over floor"
            unit="m"
            value={rig.height_m ?? found?.height_m ?? 1}
            step={0.05}
            min={0.05}
            max={50}
            digits={2}
            onCommit={(height_m) => change({ height_m })}
          />
        </Box>
        <Typography sx={{ fontSize: 12 }} color="text.secondary" data-testid="nearest">
          {found
            ? `Microphone ${found.distance_m.toFixed(2)} m before it, as high as it. The floor answers ` +
              `${(found.gate_s * 1e3).toFixed(1)} ms later, ${found.under_db.toFixed(0)} dB lower: ` +
              `a gate up to there keeps what is above ${found.from_hz.toFixed(0)} Hz.`
            : 'Say how high it stands, to be told where the microphone goes and what a gate keeps there.'}
        </Typography>
      </Box>
    </Section>
  );
}
