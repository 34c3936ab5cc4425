/** What may come before the main pulse, over a plot in time: its corner is dragged or moved by keys. */
import { useTheme } from '@mui/material/styles';
import { drag } from '../../plot/drag';
import type { TimeGeometry } from '../../plot/TimePlot';
import { usePick } from '../../state/window';
import { plain } from '../../ui/format';

const MOST_MS = 45;
const LEVELS: [number, number] = [-80, -6];

export function PreRinging({ geometry, percent }: { geometry: TimeGeometry; percent: boolean }) {
  const { own } = useTheme();
  const { wish, set } = usePick('wish', 'set');
  if (wish.phase === 'keep') return null;
  const { toX, toMs, toY, toValue } = geometry;
  const share = 100 * 10 ** (wish.pre_db / 20);
  const x = toX(-wish.pre_ms);
  const y = toY(percent ? share : wish.pre_db);
  const put = (ms: number, level: number) =>
    set({
      wish: {
        ...wish,
        pre_ms: Math.round(Math.max(0.1, Math.min(MOST_MS, ms)) * 10) / 10,
        pre_db: Math.round(Math.max(LEVELS[0], Math.min(LEVELS[1], level))),
      },
    });
  const levelOf = (value: number) => (percent ? 20 * Math.log10(Math.max(1e-4, Math.abs(value) / 100)) : value);
  return (
    <g
      role="slider"
      tabIndex={0}
      aria-label="What may come before the pulse"
      aria-valuenow={wish.pre_ms}
      aria-valuetext={`${wish.pre_db} dB earlier than ${plain(wish.pre_ms)} ms`}
      style={{ cursor: 'move' }}
      onKeyDown={(event) => {
        const ms = { ArrowLeft: 1, ArrowRight: -1 }[event.key] ?? 0;
        const db = { ArrowUp: 1, ArrowDown: -1 }[event.key] ?? 0;
        if (!ms && !db) return;
        event.preventDefault();
        event.stopPropagation();
        const far = event.shiftKey ? 5 : 1;
        put(wish.pre_ms + 0.1 * far * ms, wish.pre_db + far * db);
      }}
      onPointerDown={(event) =>
        drag(
          event,
          (px, py) => put(-toMs(px), levelOf(toValue(py))),
          () => undefined,
        )
      }>
      <line x1={x} x2={x} y1={geometry.top} y2={geometry.bottom} stroke={own.clay} strokeDasharray="2 3" />
      <rect x={x - 12} y={y - 12} width={24} height={24} fill="transparent" />
      <path d={`M ${x} ${y - 7} l 7 7 l -7 7 l -7 -7 z`} fill={own.clay} />
      <text x={x - 12} y={y - 8} textAnchor="end" fill={own.clayText} fontSize={11}>
        {`${wish.pre_db} dB before ${plain(wish.pre_ms)} ms`}
      </text>
    </g>
  );
}
