/** What a plot says where it has nothing to show: not before a picture is there that has nothing. */
import { useTheme } from '@mui/material/styles';
import { useWindow } from '../../state/window';

export function NothingYet({ x, y, children }: { x: number; y: number; children: string }) {
  const { own } = useTheme();
  const come = useWindow((now) => now.picture !== null);
  return come ? (
    <text x={x} y={y} textAnchor="middle" fill={own.quiet}>
      {children}
    </text>
  ) : null;
}
