/** The room of the plots: a head and one or two plots that share the frequency axis. */
import Box from '@mui/material/Box';
import type { ReactNode } from 'react';
import { useSize } from '../plot/useSize';
import { HEAD_HEIGHT } from './PlotHead';

export function Stack({ head, lower = 0, children }: { head: ReactNode; lower?: number; children: (main: number, lower: number) => ReactNode }) {
  const [ref, { height }] = useSize<HTMLDivElement>();
  const room = height - HEAD_HEIGHT;
  const second = Math.round(room * lower);
  return (
    <Box ref={ref} sx={{ minHeight: 0, overflow: 'hidden' }}>
      {head}
      {room > 80 && children(room - second, second)}
    </Box>
  );
}
