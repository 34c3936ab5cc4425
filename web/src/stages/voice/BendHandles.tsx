/** The points that the target is bent by, on the target itself: dragged, moved by keys, taken away. */
import { useTheme } from '@mui/material/styles';
import type { Bend } from '../../api/types';
import { drag } from '../../plot/drag';
import type { Geometry } from '../../plot/parts';
import { toHertz, toX } from '../../plot/scale';
import { hertz, signed } from '../../ui/format';
import { clampBend, moved } from './bends';

interface Props {
  bends: Bend[];
  /** The target's level at a frequency, points included. */
  level: (hertz: number) => number;
  geometry: Geometry;
  /** Decibels of a pixel, held while something is dragged. */
  perPixel: number;
  change: (bends: Bend[], done: boolean) => void;
  hold: (held: boolean) => void;
}

export function BendHandles({ bends, level, geometry, perPixel, change, hold }: Props) {
  const { own } = useTheme();
  const { width, y, top } = geometry;
  const put = (n: number, bend: Bend | null) =>
    bends.flatMap((one, at) => (at !== n ? [one] : bend ? [clampBend(bends, n, bend)] : []));
  return bends.map((one, n) => (
    <g
      key={n}
      role="slider"
      tabIndex={0}
      aria-label={`Point ${n + 1} of the target`}
      aria-valuenow={one.level_db}
      aria-valuetext={`${hertz(one.frequency_hz)}, ${signed(one.level_db)} dB`}
      data-testid={`bend-${n}`}
      style={{ cursor: 'move' }}
      onKeyDown={(event) => {
        if (event.key === 'Delete') change(put(n, null), true);
        const next = moved(one, event.key, event.shiftKey);
        if (!next && event.key !== 'Delete') return;
        event.preventDefault();
        event.stopPropagation();
        if (next) change(put(n, next), true);
      }}
      onPointerDown={(event) => {
        const box = event.currentTarget.ownerSVGElement!.getBoundingClientRect();
        const begun = event.clientY - box.top;
        let to: Bend[] | null = null;
        hold(true);
        drag(
          event,
          (x, py) => {
            const level_db = Math.round((one.level_db + (begun - py) * perPixel) * 10) / 10;
            to = put(n, { frequency_hz: Math.round(toHertz(x, width)), level_db });
            change(to, false);
          },
          () => {
            hold(false);
            if (to) change(to, true);
          },
        );
      }}>
      <circle
        cx={toX(one.frequency_hz, width)}
        cy={Math.max(top + 7, y(level(one.frequency_hz)))}
        r={6}
        fill={own.plot}
        stroke={own.clay}
        strokeWidth={2.5}
      />
    </g>
  ));
}
