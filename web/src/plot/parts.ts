/** What plots are made of, and what of it is painted straight onto the canvas. */
import type uPlot from 'uplot';
import { axisNow, FINE, LEFT, RIGHT, TICKS, toHertz } from './scale';

export interface Line {
  id: string;
  values: ArrayLike<number>;
  colour: string;
  width: number;
  dash?: number[];
  label?: string;
}
export interface Geometry {
  width: number;
  height: number;
  top: number;
  bottom: number;
  y: (value: number) => number;
}
export interface Shade {
  between: [string, string];
  fill: string;
  from?: number;
  to?: number;
}

export function ticks(low: number, high: number, step: number): number[] {
  const found = [];
  for (let v = Math.ceil(low / step) * step; v <= high + 1e-6; v += step) found.push(v);
  return found;
}

export function verticals(u: uPlot, fine: string, strong: string) {
  const { ctx, bbox } = u;
  ctx.save();
  ctx.lineWidth = devicePixelRatio;
  for (const [list, colour] of [
    [FINE, fine],
    [TICKS, strong],
  ] as const) {
    ctx.strokeStyle = colour;
    ctx.beginPath();
    for (const hertz of list) {
      if (hertz < axisNow()[0] || hertz > axisNow()[1]) continue;
      const x = Math.round(u.valToPos(hertz, 'x', true)) + 0.5;
      ctx.moveTo(x, bbox.top);
      ctx.lineTo(x, bbox.top + bbox.height);
    }
    ctx.stroke();
  }
  ctx.restore();
}

/** What lies between the least and the most of a curve, `id:least` and `id:most`. */
export const rangesOf = (lines: Line[]): Shade[] =>
  lines
    .filter((line) => line.id.endsWith(':least'))
    .map(({ id, colour }) => ({ between: [id, id.replace(/:least$/, ':most')], fill: `${colour.slice(0, 7)}2e` }));

export function fillBetween(u: uPlot, shade: Shade, lines: Line[]) {
  const [a, b] = shade.between.map((id) => lines.find((line) => line.id === id)?.values);
  if (!a || !b) return;
  const { ctx, bbox } = u;
  const grid = u.data[0];
  const inside: number[] = [];
  for (let i = 0; i < grid.length; i++) {
    if (
      grid[i] >= (shade.from ?? 0) &&
      grid[i] <= (shade.to ?? Infinity) &&
      Number.isFinite(a[i]) &&
      Number.isFinite(b[i])
    )
      inside.push(i);
  }
  if (inside.length < 2) return;
  ctx.save();
  ctx.beginPath();
  ctx.rect(bbox.left, bbox.top, bbox.width, bbox.height);
  ctx.clip();
  ctx.beginPath();
  for (const i of inside) ctx.lineTo(u.valToPos(grid[i], 'x', true), u.valToPos(a[i], 'y', true));
  for (const i of inside.reverse()) ctx.lineTo(u.valToPos(grid[i], 'x', true), u.valToPos(b[i], 'y', true));
  ctx.closePath();
  ctx.fillStyle = shade.fill;
  ctx.fill();
  ctx.restore();
}

/** The place on the grid nearest to a pixel; null outside of the plot. */
export function nearest(grid: number[], x: number, width: number): number | null {
  if (x < LEFT || x > width - RIGHT) return null;
  const hertz = toHertz(x, width);
  let low = 0;
  let high = grid.length - 1;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (grid[middle] < hertz) low = middle;
    else high = middle;
  }
  return hertz - grid[low] < grid[high] - hertz ? low : high;
}
