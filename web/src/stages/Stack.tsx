/** The room of the plots: a head and one or two plots that share the frequency axis. */
import Box from '@mui/material/Box';
import { useLayoutEffect, useRef, useState, type ReactNode } from 'react';
import { HEAD_HEIGHT } from './PlotHead';

export function Stack({ head, lower = 0, children }: { head: ReactNode; lower?: number; children: (main: number, lower: number) => ReactNode }) {
  const ref = useRef<HTMLDivElement>(null);
  const [height, setHeight] = useState(0);
  useLayoutEffect(() => {
    const observer = new ResizeObserver(([entry]) => setHeight(Math.floor(entry.contentRect.height)));
    if (ref.current) observer.observe(ref.current);
    return () => observer.disconnect();
  }, []);
  const room = height - HEAD_HEIGHT;
  const second = Math.round(room * lower);
  return (
    <Box ref={ref} sx={{ minHeight: 0, overflow: 'hidden' }}>
      {head}
      {room > 80 && children(room - second, second)}
    </Box>
  );
}
