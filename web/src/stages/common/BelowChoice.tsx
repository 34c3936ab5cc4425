/** What stands under the main plot, and how closely one looks. */
import Tune from '@mui/icons-material/TuneOutlined';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import Typography from '@mui/material/Typography';
import type { Stage } from '../../api/types';
import { Choice } from '../../ui/Field';
import { Float, useAnchor } from '../../ui/Float';
import { useWindow, usePick } from '../../state/window';
import { belowOf, offered } from '../../state/below';
import { CloserFacts } from './CloserFacts';
import { HintToggle } from './Hint';
import { RangeToggle } from './RangeToggle';

export function BelowChoice({ stage }: { stage: Stage }) {
  const { below, set } = usePick('below', 'set');
  const { anchor, open, onClose } = useAnchor();
  const here = belowOf(stage, below);
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5, flexShrink: 0 }}>
      <HintToggle />
      <RangeToggle />
      <Box sx={{ width: 158 }}>
        <Choice
          label="Below the plot"
          hideLabel
          value={here}
          options={offered(stage)}
          onChange={(value) => set({ below: value })}
        />
      </Box>
      {here && (
        <>
          <IconButton
            size="small"
            aria-label="How closely"
            title="Gate, window, units, and what comes of them"
            onClick={open}
            sx={{ p: 0.25 }}>
            <Tune sx={{ fontSize: 18 }} />
          </IconButton>
          <Float
            name="How closely"
            anchor={anchor}
            onClose={onClose}
            width={340}
            sx={{ display: 'flex', flexDirection: 'column', gap: 1 }}>
            <CloserFacts />
            <Nothing />
          </Float>
        </>
      )}
    </Box>
  );
}

/** A closer look without anything to set says so. */
function Nothing() {
  const facts = useWindow((state) => state.picture?.facts);
  const below = useWindow((state) => state.picture?.view.below ?? '');
  if (!facts?.lacking && !['minimum', 'angles', 'difference', 'sides'].includes(below)) return null;
  return (
    <Typography sx={{ fontSize: 12.5 }} color="text.secondary">
      {facts?.lacking
        ? `${facts.lacking.charAt(0).toUpperCase()}${facts.lacking.slice(1)}.`
        : 'There is nothing to set here.'}
    </Typography>
  );
}

/** A word at the head of a plot, and the choice beside it. */
export function Aside({ says, stage }: { says: string; stage: Stage }) {
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, minWidth: 0 }}>
      <Box component="span" sx={{ maxWidth: 132, '@media (max-width: 1150px)': { display: 'none' } }}>
        {says}
      </Box>
      <BelowChoice stage={stage} />
    </Box>
  );
}
