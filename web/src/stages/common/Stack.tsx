/**
 * The room of the plots: a head and one or two plots that share the frequency axis. `extra` is what the head needs
 * beyond its line and its hint.
 */
import Box from '@mui/material/Box';
import type { ReactNode } from 'react';
import { useSize } from '../../plot/useSize';
import { useWindow } from '../../state/window';
import { HINT_HEIGHT } from './Hint';
import { HEAD_HEIGHT } from './PlotHead';

export function Stack({
  head,
  lower = 0,
  extra = 0,
  hinted = true,
  children,
}: {
  head: ReactNode;
  lower?: number;
  extra?: number;
  hinted?: boolean;
  children: (main: number, lower: number) => ReactNode;
}) {
  const [ref, { height }] = useSize<HTMLDivElement>();
  const hints = useWindow((state) => state.hints);
  const room = height - HEAD_HEIGHT - extra - (hinted && hints ? HINT_HEIGHT : 0);
  const second = Math.round(room * lower);
  return (
    <Box ref={ref} sx={{ minHeight: 0, overflow: 'hidden' }}>
      {head}
      {room > 80 && children(room - second, second)}
    </Box>
  );
}
