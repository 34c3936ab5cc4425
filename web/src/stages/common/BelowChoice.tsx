/** What stands under the main plot, and how closely one looks. */
import Tune from '@mui/icons-material/TuneOutlined';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import Popover from '@mui/material/Popover';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import type { Stage } from '../../api/types';
import { Choice } from '../../ui/Field';
import { useWindow, usePick } from '../../state/window';
import { belowOf, offered } from '../../state/below';
import { CloserFacts } from './CloserFacts';
import { HintToggle } from './Hint';

export function BelowChoice({ stage }: { stage: Stage }) {
  const { below, set } = usePick('below', 'set');
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const here = belowOf(stage, below);
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5, flexShrink: 0 }}>
      <HintToggle />
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
            onClick={(event) => setAnchor(event.currentTarget)}
            sx={{ p: 0.25 }}>
            <Tune sx={{ fontSize: 18 }} />
          </IconButton>
          <Popover
            open={Boolean(anchor)}
            anchorEl={anchor}
            onClose={() => setAnchor(null)}
            transitionDuration={0}
            anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
            transformOrigin={{ vertical: 'top', horizontal: 'right' }}
            slotProps={{
              paper: {
                role: 'dialog',
                'aria-label': 'How closely',
                sx: {
                  width: 340,
                  p: 1.5,
                  display: 'flex',
                  flexDirection: 'column',
                  gap: 1,
                  bgcolor: 'background.paper',
                  backgroundImage: 'none',
                  border: 1,
                  borderColor: 'divider',
                },
              } as object,
            }}>
            <CloserFacts />
            <Nothing />
          </Popover>
        </>
      )}
    </Box>
  );
}

/** A closer look without anything to set says so. */
function Nothing() {
  const facts = useWindow((desk) => desk.picture?.facts);
  const below = useWindow((desk) => desk.picture?.view.below ?? '');
  if (!facts?.lacking && !['minimum', 'angles', 'difference'].includes(below)) return null;
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
