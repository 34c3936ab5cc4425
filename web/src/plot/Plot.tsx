/** One plot on the shared frequency axis: lines by uPlot, what can be touched as children in an SVG above. */
import { useTheme } from '@mui/material/styles';
import Box from '@mui/material/Box';
import React, { useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import uPlot from 'uplot';
import 'uplot/dist/uPlot.min.css';
import { FONT } from '../frame/theme';
import { useDesk } from '../store';
import { drag } from './drag';
import { PlotTools } from './PlotTools';
import { axisNow, FINE, LEFT, RIGHT, TICKS, toHertz, toX } from './scale';
import { SpanReading } from './SpanReading';
import { axisTo, rangeTo } from './zoom';
import { useSize } from './useSize';
import { useWheel } from './useWheel';

export interface Line {
  id: string; values: ArrayLike<number>; colour: string; width: number; dash?: number[]; label?: string;
}
export interface Geometry { width: number; height: number; top: number; bottom: number; y: (value: number) => number }
export interface Shade { between: [string, string]; fill: string; from?: number; to?: number }

interface Props {
  name: string; unit: string; grid: number[]; lines: Line[]; range: [number, number]; height: number;
  step?: number; shades?: Shade[]; children?: (geometry: Geometry) => ReactNode;
  readings?: boolean;
  /** Whether a stretch dragged over is read off here: the figures are those of the main plot. */
  spans?: boolean;
}

const TOP = 8;
const BOTTOM = 6;

export function Plot({ name, unit, grid, lines, range: fitted, height, step = 10, shades = [], children, readings = true, spans = true }: Props) {
  const { own } = useTheme();
  const axis = useDesk((desk) => desk.zoom.axis);
  const chosen = useDesk((desk) => desk.zoom.ranges[name]);
  const span = useDesk((desk) => desk.span);
  const set = useDesk((desk) => desk.set);
  const range = chosen ?? fitted;
  const [dragged, setDragged] = useState<[number, number] | null>(null);
  const [box, setBox] = useState<[number, number, number, number] | null>(null);
  const [holder, { width }] = useSize<HTMLDivElement>();
  const canvas = useRef<HTMLDivElement>(null);
  const chart = useRef<uPlot | null>(null);
  const [at, setAt] = useState<number | null>(null);
  const live = useRef({ range, shades, lines });
  live.current = { range, shades, lines };
  const structure = lines.map((l) => `${l.id}:${l.colour}:${l.width}:${l.dash ?? ''}`).join('|');

  const data = useMemo(() => {
    const rows = lines.map((line) => {
      const row = new Array<number | null>(line.values.length);
      for (let i = 0; i < row.length; i++) row[i] = Number.isFinite(line.values[i]) ? line.values[i] : null;
      return row;
    });
    return [grid, ...rows] as uPlot.AlignedData;
  }, [lines, grid]);
  const held = useRef(data);
  held.current = data;

  useEffect(() => {
    if (!canvas.current || width < 100 || height < 40) return;
    const axis = { stroke: own.quiet, font: `11px ${FONT}`, ticks: { show: false } };
    const options: uPlot.Options = {
      width, height, padding: [TOP, RIGHT, BOTTOM, 0], legend: { show: false }, pxAlign: false,
      scales: { x: { time: false, distr: 3, range: () => axisNow() }, y: { range: () => live.current.range } },
      axes: [
        { ...axis, show: false },
        {
          ...axis, size: LEFT, gap: 6, grid: { stroke: own.grid, width: 1 },
          splits: (_u, _i, low, high) => ticks(low, high, step),
          values: (_u, splits) => splits.map((v) => (v < 0 ? `−${-v}` : `${v}`)),
        },
      ],
      series: [{}, ...live.current.lines.map((line) => ({
        stroke: line.colour, width: line.width, dash: line.dash, points: { show: false }, spanGaps: false,
      }))],
      cursor: { show: false },
      hooks: {
        drawAxes: [(u) => verticals(u, own.grid, own.line)],
        drawClear: [(u) => { u.ctx.fillStyle = own.plot; u.ctx.fillRect(u.bbox.left, u.bbox.top, u.bbox.width, u.bbox.height); }],
        drawSeries: [],
        draw: [(u) => live.current.shades.forEach((shade) => fillBetween(u, shade, live.current.lines))],
      },
    };
    chart.current = new uPlot(options, held.current, canvas.current);
    return () => { chart.current?.destroy(); chart.current = null; };
  }, [width, height, structure, own, step]);

  useEffect(() => {
    chart.current?.setData(data);
    document.documentElement.dataset.drawn = String(Number(document.documentElement.dataset.drawn ?? 0) + 1);
  }, [data, range, shades, axis]);

  const inner = height - TOP - BOTTOM;
  const [low, high] = range;
  const geometry: Geometry = {
    width, height, top: TOP, bottom: height - BOTTOM,
    y: (value) => TOP + ((high - value) / (high - low)) * inner,
  };
  const index = at === null || width === 0 ? null : nearest(grid, at, width);
  useWheel(holder, (event) => {
    if ((event.target as Element).closest('[data-own-wheel]')) return;
    event.preventDefault();
    const box = holder.current!.getBoundingClientRect();
    const factor = event.deltaY + event.deltaX > 0 ? 1.25 : 0.8;
    if (event.shiftKey) {
      const centre = high - ((event.clientY - box.top - TOP) / inner) * (high - low);
      rangeTo(name, [centre - (centre - low) * factor, centre + (high - centre) * factor]);
      return;
    }
    const centre = toHertz(event.clientX - box.left, width);
    axisTo(centre * (axis[0] / centre) ** factor, centre * (axis[1] / centre) ** factor);
  });
  // With Shift a box is dragged open: what is in it fills the plot, along either axis that it is wide on.
  const zoomBox = (event: React.PointerEvent<HTMLElement>, x0: number) => {
    const y0 = event.clientY - event.currentTarget.getBoundingClientRect().top;
    let corner: [number, number] = [x0, y0];
    const level = (y: number) => high - ((y - TOP) / inner) * (high - low);
    drag(event, (x, y) => {
      corner = [x, y];
      setBox([Math.min(x0, x), Math.min(y0, y), Math.abs(x - x0), Math.abs(y - y0)]);
    }, () => {
      setBox(null);
      const [x, y] = corner;
      if (Math.abs(x - x0) > 8) axisTo(toHertz(Math.min(x0, x), width), toHertz(Math.max(x0, x), width));
      if (Math.abs(y - y0) > 8) rangeTo(name, [level(Math.max(y0, y)), level(Math.min(y0, y))]);
    });
  };
  const select = (event: React.PointerEvent<HTMLElement>) => {
    if (event.button !== 0 || (!event.shiftKey && (!readings || !spans))) return;
    const begun = event.clientX - event.currentTarget.getBoundingClientRect().left;
    let to: number | null = null;
    if (event.shiftKey) {
      zoomBox(event, begun);
      return;
    }
    drag(event, (x) => {
      if (to === null && Math.abs(x - begun) < 5) return;
      to = x;
      setDragged([toHertz(Math.min(begun, x), width), toHertz(Math.max(begun, x), width)]);
    }, () => {
      setDragged(null);
      if (to !== null) set({ span: [toHertz(Math.min(begun, to), width), toHertz(Math.max(begun, to), width)] });
      else set({ span: null });
    });
  };
  const stepCursor = (event: React.KeyboardEvent) => {
    const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!way || event.target !== event.currentTarget) return;
    event.preventDefault();
    const here = at === null ? Math.sqrt(axis[0] * axis[1]) : toHertz(at, width);
    if (event.shiftKey) {
      const places = (useDesk.getState().picture?.facts.extremes?.at ?? []).map(([hertz]) => hertz);
      const next = way > 0 ? places.find((hertz) => hertz > here * 1.004) : [...places].reverse().find((hertz) => hertz < here / 1.004);
      if (next) setAt(toX(next, width));
    } else setAt(toX(Math.min(axis[1], Math.max(axis[0], here * 2 ** (way / 96))), width));
  };
  const marked = dragged ?? (readings && spans ? span : null);

  return (
    <Box ref={holder} role="group" aria-label={name} tabIndex={0} onKeyDown={stepCursor} onPointerDown={select} sx={{ position: 'relative', height, width: '100%', '&:focus-visible': { outlineOffset: '-2px' } }}
      onPointerMove={(event) => setAt(event.clientX - event.currentTarget.getBoundingClientRect().left)}
      onPointerLeave={() => setAt(null)}>
      <Box ref={canvas} aria-hidden sx={{ position: 'absolute', inset: 0 }} />
      {width > 0 && (
        <svg width={width} height={height} style={{ position: 'absolute', inset: 0, touchAction: 'none' }} fontSize={11}>
          <text x={LEFT + 8} y={TOP + 16} fill={own.quiet}>{unit}</text>
          {marked && <rect x={Math.max(LEFT, toX(marked[0], width))} y={TOP} width={Math.max(1, toX(marked[1], width) - Math.max(LEFT, toX(marked[0], width)))} height={Math.max(1, inner)} fill={own.sum} opacity={0.08} data-testid="span" />}
          {box && <rect x={box[0]} y={box[1]} width={box[2]} height={box[3]} fill={own.clay} opacity={0.15} stroke={own.clay} />}
          {children?.(geometry)}
          <Labels lines={lines} grid={grid} geometry={geometry} />
          {readings && index !== null && <Cursor index={index} grid={grid} lines={lines} geometry={geometry} />}
        </svg>
      )}
      {readings && spans && <SpanReading />}
      {lines.length > 0 && <PlotTools name={name} shown={() => ({ title: name, unit, grid, lines, range, step, ground: own.plot, text: own.text, quiet: own.quiet, grid_colour: own.line })} />}
    </Box>
  );
}

function ticks(low: number, high: number, step: number): number[] {
  const found = [];
  for (let v = Math.ceil(low / step) * step; v <= high + 1e-6; v += step) found.push(v);
  return found;
}

function verticals(u: uPlot, fine: string, strong: string) {
  const { ctx, bbox } = u;
  ctx.save();
  ctx.lineWidth = devicePixelRatio;
  for (const [list, colour] of [[FINE, fine], [TICKS, strong]] as const) {
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

function fillBetween(u: uPlot, shade: Shade, lines: Line[]) {
  const [a, b] = shade.between.map((id) => lines.find((line) => line.id === id)?.values);
  if (!a || !b) return;
  const { ctx, bbox } = u;
  const grid = u.data[0];
  const inside: number[] = [];
  for (let i = 0; i < grid.length; i++) {
    if (grid[i] >= (shade.from ?? 0) && grid[i] <= (shade.to ?? Infinity) && Number.isFinite(a[i]) && Number.isFinite(b[i])) inside.push(i);
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

function nearest(grid: number[], x: number, width: number): number | null {
  if (x < LEFT || x > width - RIGHT) return null;
  const hertz = toHertz(x, width);
  let low = 0;
  let high = grid.length - 1;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (grid[middle] < hertz) low = middle; else high = middle;
  }
  return hertz - grid[low] < grid[high] - hertz ? low : high;
}

/** A label at the curve's highest place that is still free. */
function Labels({ lines, grid, geometry }: { lines: Line[]; grid: number[]; geometry: Geometry }) {
  const { own } = useTheme();
  const taken: [number, number, number][] = [];
  const [low, high] = axisNow();
  return lines.filter((line) => line.label).map((line) => {
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
    return <text key={line.id} x={x} y={y} fill={line.colour} stroke={own.plot} strokeWidth={3} paintOrder="stroke" style={{ pointerEvents: 'none' }}>{line.label}</text>;
  });
}

function Cursor({ index, grid, lines, geometry }: { index: number; grid: number[]; lines: Line[]; geometry: Geometry }) {
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
        return y > geometry.top && y < geometry.bottom && <circle key={line.id} cx={x} cy={y} r={3.2} fill={line.colour} stroke={own.plot} />;
      })}
      {rows.length > 0 && (
        <>
          <rect x={left} y={geometry.top + 8} width={wide} height={22 + rows.length * 15} rx={4} fill={own.panel} stroke={own.line} />
          <text x={left + 8} y={geometry.top + 23} fill={own.text} fontWeight={600}>
            {hertz >= 1000 ? `${(hertz / 1000).toFixed(2)} kHz` : `${hertz.toFixed(1)} Hz`}
          </text>
          {rows.map((line, n) => (
            <g key={line.id}>
              <text x={left + 8} y={geometry.top + 39 + n * 15} fill={line.colour}>{line.label}</text>
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
