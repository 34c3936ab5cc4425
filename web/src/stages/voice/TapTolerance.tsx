/** How far from its target taps leave a level as it is: the range about the target, dragged or moved by keys. */
import { useTheme } from '@mui/material/styles';
import type { Geometry } from '../../plot/parts';
import { toX } from '../../plot/scale';
import { usePick } from '../../state/window';
import { LimitHandle } from './LimitHandle';
import { stretches, widest, withLimit } from './tapLimits';

interface Props {
  geometry: Geometry;
  range: [number, number];
  grid: ArrayLike<number>;
  target: ArrayLike<number>;
}

export function TapTolerance({ geometry, range, grid, target }: Props) {
  const { own } = useTheme();
  const { wish, set } = usePick('wish', 'set');
  const { width, top, bottom, y } = geometry;
  const all = stretches(wish);
  const over: string[] = [];
  const under: string[] = [];
  for (const { from, to, is } of all) {
    for (let i = 0; i < grid.length; i += 1) {
      if (grid[i] < from || grid[i] > to) continue;
      const px = toX(grid[i], width);
      over.push(`${px},${y(target[i] + is.tolerance_db)}`);
      under.unshift(`${px},${y(target[i] - is.tolerance_db)}`);
    }
  }
  const levelAt = (hertz: number) => {
    let i = 0;
    while (i < grid.length - 1 && grid[i] < hertz) i += 1;
    return target[i];
  };
  return (
    <>
      <polygon
        points={[...over, ...under].join(' ')}
        fill={own.clay}
        opacity={0.16}
        style={{ pointerEvents: 'none' }}
      />
      {widest(all).map(({ n, from, to, is }) => {
        const middle = Math.sqrt(from * to);
        return (
          <LimitHandle
            key={n}
            name={n < 0 ? 'Tolerance' : `Tolerance of band ${n + 1}`}
            says={`±${is.tolerance_db} dB`}
            value={is.tolerance_db}
            x={toX(middle, width)}
            y={Math.max(top + 8, Math.min(bottom - 18, y(levelAt(middle) + is.tolerance_db)))}
            above
            perPixel={(range[1] - range[0]) / (bottom - top)}
            put={(value) => set({ wish: withLimit(wish, n, 'tolerance_db', value) })}
          />
        );
      })}
    </>
  );
}
