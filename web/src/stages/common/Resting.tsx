/** What is proposed and laid over the plots while one rests on it, by pointer or by focus. */
import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { useEffect, useRef, type ReactNode } from 'react';

export function Resting({
  testId,
  first,
  onShow,
  children,
}: {
  testId: string;
  /** Whether it is what is proposed first. */
  first: boolean;
  onShow: (shown: boolean) => void;
  children: ReactNode;
}) {
  const { own } = useTheme();
  const show = useRef(onShow);
  useEffect(() => {
    show.current = onShow;
  });
  // Who leaves the stage by a key leaves nothing drawn behind.
  useEffect(() => () => show.current(false), []);
  return (
    <Box
      data-testid={testId}
      onPointerEnter={() => onShow(true)}
      onPointerLeave={() => onShow(false)}
      onFocus={() => onShow(true)}
      onBlur={() => onShow(false)}
      sx={{
        bgcolor: own.raised,
        borderRadius: 0.75,
        px: 1,
        py: 0.5,
        fontSize: 12.5,
        borderLeft: `3px solid ${first ? own.clay : 'transparent'}`,
      }}>
      {children}
    </Box>
  );
}
