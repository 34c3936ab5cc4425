/** The line above a plot: what is shown, under which conditions, and how it is smoothed. */
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import type { ReactNode } from 'react';
import { Choice } from '../frame/Field';
import { useDesk } from '../store';
import { Hint } from './Hint';

const SMOOTHINGS = [
  { value: 0, text: 'unsmoothed' }, { value: 48, text: '1/48 octave' }, { value: 24, text: '1/24 octave' },
  { value: 12, text: '1/12 octave' }, { value: 6, text: '1/6 octave' }, { value: 3, text: '1/3 octave' }, { value: 1, text: '1 octave' }, { value: -1, text: 'as hearing does' },
];

export const HEAD_HEIGHT = 40;

/** `hint` says for a beginner what is shown and what a good one looks like. */
export function PlotHead({ title, says, aside, hint, smoothed = true }: { title: string; says?: ReactNode; aside?: ReactNode; hint?: string; smoothed?: boolean }) {
  const { smoothing, hints, set } = useDesk();
  return (
    <>
    <Box sx={{ height: HEAD_HEIGHT, display: 'flex', alignItems: 'center', gap: 2, pl: '52px', pr: '12px' }}>
      <Typography component="h2" noWrap sx={{ fontSize: 17, fontWeight: 600, flexShrink: 0 }}>{title}</Typography>
      <Typography noWrap color="text.secondary" sx={{ fontSize: 12.5, minWidth: 0, flexShrink: 1000 }}>{says}</Typography>
      <Typography noWrap color="text.secondary" component="div" sx={{ fontSize: 12, ml: 'auto', minWidth: 0 }}>{aside}</Typography>
      {smoothed && <Box sx={{ width: 118, flexShrink: 0 }}>
        <Choice label="Smoothing" hideLabel value={smoothing === 'hearing' ? -1 : smoothing ?? 0} options={SMOOTHINGS} onChange={(value) => set({ smoothing: value < 0 ? 'hearing' : value || null })} />
      </Box>}
    </Box>
    {hint && hints && <Hint says={hint} />}
    </>
  );
}
