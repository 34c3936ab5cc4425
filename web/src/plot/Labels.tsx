/** Names at the curves, and what the cursor reads. */
import { useTheme } from '@mui/material/styles';
import type { Geometry, Line } from './parts';
import { axisNow, LEFT, RIGHT, toX } from './scale';

/** A label at the curve's highest place that is still free. */
export function Labels({ lines, grid, geometry }: { lines: Line[]; grid: number[]; geometry: Geometry }) {
  const { own } = useTheme();
  const taken: [number, number, number][] = [];
  const [low, high] = axisNow();
  return lines
    .filter((line) => line.label)
    .map((line) => {
      const size = line.label!.length * 6.2;
      const places: [number, number][] = [];
      for (let i = 6; i < grid.length - 6; i += 6) {
        const value = line.values[i];
        if (!Number.isFinite(value) || grid[i] < low || grid[i] > high) continue;
        const y = geometry.y(value) - 7;
        const x = toX(grid[i], geometry.width);
        if (y < geometry.top + 12 || y > geometry.bottom - 4 || x + size > geometry.width - RIGHT) continue;
        if (taken.some(([tx, ty, ts]) => x < tx + ts + 8 && tx < x + size + 8 && Math.abs(ty - y) < 15)) continue;
        if (x < LEFT + 70 && y < geometry.top + 24) continue;
        places.push([x, y]);
      }
      if (!places.length) return null;
      const [x, y] = places.reduce((best, place) => (place[1] < best[1] - 0.5 ? place : best));
      taken.push([x, y, size]);
      return (
        <text
          key={line.id}
          x={x}
          y={y}
          fill={line.colour}
          stroke={own.plot}
          strokeWidth={3}
          paintOrder="stroke"
          style={{ pointerEvents: 'none' }}>
          {line.label}
        </text>
      );
    });
}

export function Cursor({
  index,
  grid,
  lines,
  geometry,
}: {
  index: number;
  grid: number[];
  lines: Line[];
  geometry: Geometry;
}) {
  const { own } = useTheme();
  const x = toX(grid[index], geometry.width);
  const named = lines.filter((line) => line.label && Number.isFinite(line.values[index]));
  const rows = named.sort((a, b) => b.values[index] - a.values[index]).slice(0, 8);
  const wide = 150;
  const left = x + wide + 20 > geometry.width ? x - wide - 10 : x + 10;
  const hertz = grid[index];
  return (
    <g style={{ pointerEvents: 'none' }}>
      <line x1={x} x2={x} y1={geometry.top} y2={geometry.bottom} stroke={own.quiet} strokeDasharray="3 3" />
      {named.map((line) => {
        const y = geometry.y(line.values[index]);
        return (
          y > geometry.top &&
          y < geometry.bottom && <circle key={line.id} cx={x} cy={y} r={3.2} fill={line.colour} stroke={own.plot} />
        );
      })}
      {rows.length > 0 && (
        <>
          <rect
            x={left}
            y={geometry.top + 8}
            width={wide}
            height={22 + rows.length * 15}
            rx={4}
            fill={own.panel}
            stroke={own.line}
          />
          <text x={left + 8} y={geometry.top + 23} fill={own.text} fontWeight={600}>
            {hertz >= 1000 ? `${(hertz / 1000).toFixed(2)} kHz` : `${hertz.toFixed(1)} Hz`}
          </text>
          {rows.map((line, n) => (
            <g key={line.id}>
              <text x={left + 8} y={geometry.top + 39 + n * 15} fill={line.colour}>
                {line.label}
              </text>
              <text x={left + wide - 8} y={geometry.top + 39 + n * 15} fill={line.colour} textAnchor="end">
                {line.values[index].toFixed(1).replace('-', '−')}
              </text>
            </g>
          ))}
        </>
      )}
    </g>
  );
}
