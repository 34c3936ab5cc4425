/** One plot on the shared frequency axis: lines by uPlot, what can be touched as children in an SVG above. */
import { useTheme } from '@mui/material/styles';
import Box from '@mui/material/Box';
import React, { useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import uPlot from 'uplot';
import 'uplot/dist/uPlot.min.css';
import { FONT } from '../ui/theme';
import { useWindow } from '../state/window';
import { drag } from './drag';
import { PlotTools } from './tools/PlotTools';
import { Cursor, Labels } from './Labels';
import { fillBetween, nearest, rangesOf, ticks, verticals, type Geometry, type Line, type Shade } from './parts';
import { axisNow, LEFT, RIGHT, toHertz, toX } from './scale';
import { SpanReading } from './tools/SpanReading';
import { axisTo, rangeTo } from './zoom';
import { useSize } from './useSize';
import { useWheel } from './useWheel';

interface Props {
  name: string;
  unit: string;
  grid: number[];
  lines: Line[];
  range: [number, number];
  height: number;
  step?: number;
  shades?: Shade[];
  children?: (geometry: Geometry) => ReactNode;
  readings?: boolean;
  /** Whether a stretch dragged over is read off here: the figures are those of the main plot. */
  spans?: boolean;
}

const TOP = 8;
const BOTTOM = 6;

export function Plot({
  name,
  unit,
  grid,
  lines,
  range: fitted,
  height,
  step = 10,
  shades = [],
  children,
  readings = true,
  spans = true,
}: Props) {
  const { own } = useTheme();
  const axis = useWindow((state) => state.zoom.axis);
  const chosen = useWindow((state) => state.zoom.ranges[name]);
  const span = useWindow((state) => state.span);
  const set = useWindow((state) => state.set);
  const range = chosen ?? fitted;
  const [dragged, setDragged] = useState<[number, number] | null>(null);
  const [box, setBox] = useState<[number, number, number, number] | null>(null);
  const [holder, { width }] = useSize<HTMLDivElement>();
  const canvas = useRef<HTMLDivElement>(null);
  const chart = useRef<uPlot | null>(null);
  const [at, setAt] = useState<number | null>(null);
  const shaded = [...shades, ...rangesOf(lines)];
  const live = useRef({ range, shades: shaded, lines });
  live.current = { range, shades: shaded, lines };
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
      width,
      height,
      padding: [TOP, RIGHT, BOTTOM, 0],
      legend: { show: false },
      pxAlign: false,
      scales: { x: { time: false, distr: 3, range: () => axisNow() }, y: { range: () => live.current.range } },
      axes: [
        { ...axis, show: false },
        {
          ...axis,
          size: LEFT,
          gap: 6,
          grid: { stroke: own.grid, width: 1 },
          splits: (_u, _i, low, high) => ticks(low, high, step),
          values: (_u, splits) => splits.map((v) => (v < 0 ? `−${-v}` : `${v}`)),
        },
      ],
      series: [
        {},
        ...live.current.lines.map((line) => ({
          stroke: line.colour,
          width: line.width,
          dash: line.dash,
          points: { show: false },
          spanGaps: false,
        })),
      ],
      cursor: { show: false },
      hooks: {
        drawAxes: [(u) => verticals(u, own.grid, own.line)],
        drawClear: [
          (u) => {
            u.ctx.fillStyle = own.plot;
            u.ctx.fillRect(u.bbox.left, u.bbox.top, u.bbox.width, u.bbox.height);
          },
        ],
        drawSeries: [],
        draw: [(u) => live.current.shades.forEach((shade) => fillBetween(u, shade, live.current.lines))],
      },
    };
    chart.current = new uPlot(options, held.current, canvas.current);
    return () => {
      chart.current?.destroy();
      chart.current = null;
    };
  }, [width, height, structure, own, step]);

  useEffect(() => {
    chart.current?.setData(data);
    document.documentElement.dataset.drawn = String(Number(document.documentElement.dataset.drawn ?? 0) + 1);
  }, [data, range, shades, axis]);

  const inner = height - TOP - BOTTOM;
  const [low, high] = range;
  const geometry: Geometry = {
    width,
    height,
    top: TOP,
    bottom: height - BOTTOM,
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
    drag(
      event,
      (x, y) => {
        corner = [x, y];
        setBox([Math.min(x0, x), Math.min(y0, y), Math.abs(x - x0), Math.abs(y - y0)]);
      },
      () => {
        setBox(null);
        const [x, y] = corner;
        if (Math.abs(x - x0) > 8) axisTo(toHertz(Math.min(x0, x), width), toHertz(Math.max(x0, x), width));
        if (Math.abs(y - y0) > 8) rangeTo(name, [level(Math.max(y0, y)), level(Math.min(y0, y))]);
      },
    );
  };
  const select = (event: React.PointerEvent<HTMLElement>) => {
    if (event.button !== 0 || (!event.shiftKey && (!readings || !spans))) return;
    const begun = event.clientX - event.currentTarget.getBoundingClientRect().left;
    let to: number | null = null;
    if (event.shiftKey) {
      zoomBox(event, begun);
      return;
    }
    drag(
      event,
      (x) => {
        if (to === null && Math.abs(x - begun) < 5) return;
        to = x;
        setDragged([toHertz(Math.min(begun, x), width), toHertz(Math.max(begun, x), width)]);
      },
      () => {
        setDragged(null);
        if (to !== null) set({ span: [toHertz(Math.min(begun, to), width), toHertz(Math.max(begun, to), width)] });
        else set({ span: null });
      },
    );
  };
  const stepCursor = (event: React.KeyboardEvent) => {
    const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!way || event.target !== event.currentTarget) return;
    event.preventDefault();
    const here = at === null ? Math.sqrt(axis[0] * axis[1]) : toHertz(at, width);
    if (event.shiftKey) {
      const places = (useWindow.getState().picture?.facts.extremes?.at ?? []).map(([hertz]) => hertz);
      const next =
        way > 0
          ? places.find((hertz) => hertz > here * 1.004)
          : [...places].reverse().find((hertz) => hertz < here / 1.004);
      if (next) setAt(toX(next, width));
    } else setAt(toX(Math.min(axis[1], Math.max(axis[0], here * 2 ** (way / 96))), width));
  };
  const marked = dragged ?? (readings && spans ? span : null);

  return (
    <Box
      ref={holder}
      role="group"
      aria-label={name}
      tabIndex={0}
      onKeyDown={stepCursor}
      onPointerDown={select}
      sx={{ position: 'relative', height, width: '100%', '&:focus-visible': { outlineOffset: '-2px' } }}
      onPointerMove={(event) => setAt(event.clientX - event.currentTarget.getBoundingClientRect().left)}
      onPointerLeave={() => setAt(null)}>
      <Box ref={canvas} aria-hidden sx={{ position: 'absolute', inset: 0 }} />
      {width > 0 && (
        <svg
          width={width}
          height={height}
          style={{ position: 'absolute', inset: 0, touchAction: 'none' }}
          fontSize={11}>
          <text x={LEFT + 8} y={TOP + 16} fill={own.quiet}>
            {unit}
          </text>
          {marked && (
            <rect
              x={Math.max(LEFT, toX(marked[0], width))}
              y={TOP}
              width={Math.max(1, toX(marked[1], width) - Math.max(LEFT, toX(marked[0], width)))}
              height={Math.max(1, inner)}
              fill={own.sum}
              opacity={0.08}
              data-testid="span"
            />
          )}
          {box && (
            <rect
              x={box[0]}
              y={box[1]}
              width={box[2]}
              height={box[3]}
              fill={own.clay}
              opacity={0.15}
              stroke={own.clay}
            />
          )}
          {children?.(geometry)}
          <Labels lines={lines} grid={grid} geometry={geometry} />
          {readings && index !== null && <Cursor index={index} grid={grid} lines={lines} geometry={geometry} />}
        </svg>
      )}
      {readings && spans && <SpanReading />}
      {lines.length > 0 && (
        <PlotTools
          name={name}
          shown={() => ({
            title: name,
            unit,
            grid,
            lines,
            range,
            step,
            ground: own.plot,
            text: own.text,
            quiet: own.quiet,
            grid_colour: own.line,
          })}
        />
      )}
    </Box>
  );
}
