/** The span that FIR taps correct, over the plot: its ends are dragged or moved by keys, what is beyond is dimmed. */
import { useTheme } from '@mui/material/styles';
import type { Geometry } from '../../plot/parts';
import { drag } from '../../plot/drag';
import { LEFT, RIGHT, toHertz, toX } from '../../plot/scale';
import { usePick } from '../../state/window';
import { hertz } from '../../ui/format';

const LEAST_WIDE = 1.5;
const HALF = 4;

export function TapsSpan({ geometry }: { geometry: Geometry }) {
  const { own } = useTheme();
  const { wish, set } = usePick('wish', 'set');
  const { width, top, bottom } = geometry;
  const inside = (at: number) => Math.max(LEFT, Math.min(width - RIGHT, toX(at, width)));
  const low = inside(wish.low_hz);
  const high = inside(wish.high_hz);
  const put = (end: 'low_hz' | 'high_hz', wanted: number) => {
    const at = Math.round(
      end === 'low_hz'
        ? Math.max(20, Math.min(wanted, wish.high_hz / LEAST_WIDE))
        : Math.min(20000, Math.max(wanted, wish.low_hz * LEAST_WIDE)),
    );
    set({ wish: { ...wish, [end]: at } });
  };
  const ends = [
    ['low_hz', 'Lower end of the span', low],
    ['high_hz', 'Upper end of the span', high],
  ] as const;
  return (
    <>
      {[
        [LEFT, low],
        [high, width - RIGHT],
      ].map(([from, to], n) => (
        <rect
          key={n}
          x={from}
          y={top}
          width={Math.max(0, to - from)}
          height={bottom - top}
          fill={own.ground}
          opacity={0.55}
          style={{ pointerEvents: 'none' }}
        />
      ))}
      {ends.map(([end, name, x]) => (
        <g
          key={end}
          role="slider"
          tabIndex={0}
          aria-label={name}
          aria-valuenow={wish[end]}
          aria-valuetext={hertz(wish[end])}
          style={{ cursor: 'ew-resize' }}
          onKeyDown={(event) => {
            const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
            if (!way) return;
            event.preventDefault();
            event.stopPropagation();
            put(end, wish[end] * 2 ** ((way * (event.shiftKey ? 4 : 1)) / 12));
          }}
          onPointerDown={(event) =>
            drag(
              event,
              (px) => put(end, toHertz(px, width)),
              () => undefined,
            )
          }>
          <rect x={x - HALF} y={top} width={2 * HALF} height={bottom - top} fill="transparent" />
          <line x1={x} x2={x} y1={top} y2={bottom} stroke={own.clay} strokeDasharray="5 3" />
          <rect x={x - HALF} y={(top + bottom) / 2 - 12} width={2 * HALF} height={24} rx={3} fill={own.clay} />
        </g>
      ))}
    </>
  );
}
