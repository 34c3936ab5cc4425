/** How much taps may lift and cut, drawn over the correction: each limit is dragged or moved by keys. */
import { useTheme } from '@mui/material/styles';
import type { Geometry } from '../../plot/parts';
import { toX } from '../../plot/scale';
import { usePick } from '../../state/window';
import { LimitHandle } from './LimitHandle';
import { stretches, widest, withLimit, type Limit } from './tapLimits';

const SIDES = [
  { limit: 'boost_db', sign: 1, name: 'Boost' },
  { limit: 'cut_db', sign: -1, name: 'Cut' },
] as const satisfies { limit: Limit; sign: number; name: string }[];

export function TapLimits({ geometry, range }: { geometry: Geometry; range: [number, number] }) {
  const { own } = useTheme();
  const { wish, set } = usePick('wish', 'set');
  const { width, top, bottom, y } = geometry;
  const all = stretches(wish);
  const perPixel = (range[1] - range[0]) / (bottom - top);
  const inside = (level: number) => Math.max(top, Math.min(bottom, y(level)));
  return SIDES.map(({ limit, sign, name }) => {
    const steps = all.flatMap(({ from, to, is }) => {
      const level = inside(sign * is[limit]);
      return [`${toX(from, width)},${level}`, `${toX(to, width)},${level}`];
    });
    const edge = sign > 0 ? top : bottom;
    const whole = [`${toX(wish.low_hz, width)},${edge}`, ...steps, `${toX(wish.high_hz, width)},${edge}`];
    return (
      <g key={limit}>
        <polygon points={whole.join(' ')} fill={own.clay} opacity={0.1} style={{ pointerEvents: 'none' }} />
        <polyline points={steps.join(' ')} fill="none" stroke={own.clay} strokeDasharray="5 3" />
        {widest(all).map(({ n, from, to, is }) => (
          <LimitHandle
            key={n}
            name={n < 0 ? `${name} limit` : `${name} limit of band ${n + 1}`}
            says={`${sign > 0 ? '+' : '−'}${is[limit]} dB`}
            value={is[limit]}
            x={toX(Math.sqrt(from * to), width)}
            y={inside(sign * is[limit])}
            above={sign < 0}
            perPixel={sign * perPixel}
            put={(value) => set({ wish: withLimit(wish, n, limit, value) })}
          />
        ))}
      </g>
    );
  });
}
