/** A small dialog that hangs on the button which opened it, and a way to open one. */
import Popover from '@mui/material/Popover';
import type { SxProps } from '@mui/material/styles';
import { useState, type MouseEvent, type ReactNode, type SyntheticEvent } from 'react';

interface Props {
  name: string;
  anchor: HTMLElement | null;
  onClose: () => void;
  /** Whether it hangs below its button or stands above it. */ above?: boolean;
  width?: number;
  sx?: SxProps;
  children: ReactNode;
}

const kept = (event: SyntheticEvent) => event.stopPropagation();

export function Float({ name, anchor, onClose, above, width, sx, children }: Props) {
  const own = {
    width,
    p: 1.5,
    bgcolor: 'background.paper',
    backgroundImage: 'none',
    border: 1,
    borderColor: 'divider',
  };
  return (
    <Popover
      open={Boolean(anchor)}
      anchorEl={anchor}
      onClose={onClose}
      transitionDuration={0}
      anchorOrigin={{ vertical: above ? 'top' : 'bottom', horizontal: 'right' }}
      transformOrigin={{ vertical: above ? 'bottom' : 'top', horizontal: 'right' }}
      onPointerDown={kept}
      onDoubleClick={kept}
      slotProps={{ paper: { role: 'dialog', 'aria-label': name, sx: { ...own, ...sx } } as object }}>
      {children}
    </Popover>
  );
}

/** The button that a float hangs on while it is open: what to hand to `Float`, and what opens it. */
export function useAnchor() {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return {
    anchor,
    open: (event: MouseEvent<HTMLElement>) => setAnchor(event.currentTarget),
    onClose: () => setAnchor(null),
  };
}
