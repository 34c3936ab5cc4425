/** The largest delay that FIR taps correct, over a plot of group delay: the same to both sides, dragged or by keys. */
import { useTheme } from '@mui/material/styles';
import { drag } from '../../plot/drag';
import type { Geometry } from '../../plot/parts';
import { LEFT, RIGHT } from '../../plot/scale';
import { usePick } from '../../state/window';
import { plain } from '../../ui/format';

const LEAST_MS = 0.01;
const MOST_MS = 50;
const STEP = 1.1;

export function TapsDelay({ geometry, range }: { geometry: Geometry; range: [number, number] }) {
  const { own } = useTheme();
  const { wish, set } = usePick('wish', 'set');
  if (wish.phase === 'keep') return null;
  const { width, top, bottom } = geometry;
  const inside = (y: number) => Math.max(top, Math.min(bottom, y));
  const [high, low] = [inside(geometry.y(wish.group_delay_ms)), inside(geometry.y(-wish.group_delay_ms))];
  const x = width - RIGHT - 60;
  const put = (ms: number) =>
    set({ wish: { ...wish, group_delay_ms: Number(Math.max(LEAST_MS, Math.min(MOST_MS, ms)).toPrecision(3)) } });
  const toMs = (y: number) => range[1] - ((y - top) / (bottom - top)) * (range[1] - range[0]);
  return (
    <g
      role="slider"
      tabIndex={0}
      aria-label="Largest delay that is corrected"
      aria-valuenow={wish.group_delay_ms}
      aria-valuetext={`${plain(wish.group_delay_ms, 2)} ms`}
      style={{ cursor: 'ns-resize' }}
      onKeyDown={(event) => {
        const way = { ArrowUp: 1, ArrowDown: -1 }[event.key];
        if (!way) return;
        event.preventDefault();
        event.stopPropagation();
        put(wish.group_delay_ms * STEP ** (way * (event.shiftKey ? 5 : 1)));
      }}
      onPointerDown={(event) =>
        drag(
          event,
          (_x, y) => put(Math.abs(toMs(y))),
          () => undefined,
        )
      }>
      {[high, low].map((y, n) => (
        <g key={n}>
          <line x1={LEFT} x2={width - RIGHT} y1={y} y2={y} stroke={own.clay} strokeDasharray="5 3" />
          <rect x={LEFT} y={y - 5} width={width - RIGHT - LEFT} height={10} fill="transparent" />
          <rect x={x - 13} y={y - 3} width={26} height={6} rx={3} fill={own.clay} stroke={own.plot} />
        </g>
      ))}
      <text x={x - 18} y={high - 5} textAnchor="end" fill={own.clayText} fontSize={11}>
        {`corrected up to ${plain(wish.group_delay_ms, 2)} ms`}
      </text>
    </g>
  );
}
