/** The line above a plot: what is shown, under which conditions, and how it is smoothed. */
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import type { ReactNode } from 'react';
import { Choice } from '../../ui/Field';
import { usePick } from '../../state/window';
import { Hint } from './Hint';
import { rangeWords } from './RangeToggle';

const SMOOTHINGS = [
  { value: 0, text: 'unsmoothed' },
  { value: 48, text: '1/48 octave' },
  { value: 24, text: '1/24 octave' },
  { value: 12, text: '1/12 octave' },
  { value: 6, text: '1/6 octave' },
  { value: 3, text: '1/3 octave' },
  { value: 1, text: '1 octave' },
  { value: -1, text: 'as hearing does' },
];

export const HEAD_HEIGHT = 44;
const NARROW = { fontSize: 16, '@media (max-width: 1150px)': { fontSize: 15, gap: 1 } };

/** `hint` says for a beginner what is shown and what a good one looks like. */
export function PlotHead({
  title,
  says,
  aside,
  hint,
  smoothed = true,
}: {
  title: string;
  says?: ReactNode;
  aside?: ReactNode;
  hint?: string;
  smoothed?: boolean;
}) {
  const { smoothing, hints, picture, set } = usePick('smoothing', 'hints', 'picture', 'set');
  const range = rangeWords(picture?.facts.ranges);
  return (
    <>
      <Box
        sx={{ height: HEAD_HEIGHT, display: 'flex', alignItems: 'center', gap: 2, pl: '52px', pr: '12px', ...NARROW }}>
        <Box sx={{ minWidth: 0, flex: 1 }}>
          <Typography
            component="h2"
            noWrap
            title={title}
            sx={{ fontSize: 'inherit', fontWeight: 600, lineHeight: '18px' }}>
            {title}
          </Typography>
          {/* Beneath the title rather than beside it: nothing is cut off. Two lines of it have room. */}
          <Typography color="text.secondary" sx={{ fontSize: 11.5, lineHeight: says ? '13px' : 0, maxHeight: 26 }}>
            {says}
          </Typography>
        </Box>
        <Typography color="text.secondary" component="div" sx={{ fontSize: 12, lineHeight: '15px', flexShrink: 0 }}>
          {aside}
        </Typography>
        {smoothed && (
          <Box sx={{ width: 118, flexShrink: 0 }}>
            <Choice
              label="Smoothing"
              hideLabel
              value={smoothing === 'hearing' ? -1 : (smoothing ?? 0)}
              options={SMOOTHINGS}
              onChange={(value) => set({ smoothing: value < 0 ? 'hearing' : value || null })}
            />
          </Box>
        )}
      </Box>
      {hint && hints && <Hint says={hint} />}
      {range && (
        // Over the plot below, where its lines leave most room.
        <Box sx={{ position: 'relative', height: 0, zIndex: 1, pointerEvents: 'none' }}>
          <Typography
            data-testid="range-says"
            color="text.secondary"
            sx={{
              position: 'absolute',
              right: 18,
              top: 12,
              px: 0.5,
              fontSize: 11.5,
              lineHeight: '15px',
              bgcolor: (t) => t.own.plot,
            }}>
            {range}
          </Typography>
        </Box>
      )}
    </>
  );
}
