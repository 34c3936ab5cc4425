/** Where a gate knows nothing: hatched on every plot of levels that it concerns. */
import { useTheme } from '@mui/material/styles';
import { hertz } from '../../ui/format';
import type { Geometry } from '../../plot/parts';
import { LEFT, RIGHT, toX } from '../../plot/scale';
import { useWindow } from '../../state/window';

export function GateHatch({ width, top, bottom }: Geometry) {
  const { own } = useTheme();
  const lowest = useWindow((state) => state.picture?.facts.lowest_hz ?? 0);
  if (lowest <= 20) return null;
  const end = Math.max(LEFT, Math.min(width - RIGHT, toX(lowest, width)));
  return (
    <g style={{ pointerEvents: 'none' }} data-testid="gate-hatch">
      <defs>
        <pattern id="hatch" width={7} height={7} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1={0} x2={0} y1={0} y2={7} stroke={own.quiet} strokeOpacity={0.35} />
        </pattern>
      </defs>
      <rect x={LEFT} y={top} width={end - LEFT} height={bottom - top} fill="url(#hatch)" />
      <text x={LEFT + 8} y={bottom - 8} fill={own.quiet}>{`the gate knows nothing below ${hertz(lowest)}`}</text>
    </g>
  );
}
