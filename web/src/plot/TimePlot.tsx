/**
 * Curves against time in milliseconds from the arrival: wheel zooms, drag moves, double click fits; the gate's end can
 * be dragged.
 */
import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { useState, type ReactNode } from 'react';
import { plain } from '../ui/format';
import { drag } from './drag';
import { PictureTools } from './tools/PictureTools';
import { rowsOf } from './tools/drawn';
import { LEFT, RIGHT } from './scale';
import { useSize } from './useSize';
import { useWheel } from './useWheel';

export interface TimeLine {
  id: string;
  x: Float32Array;
  values: Float32Array;
  colour: string;
  width: number;
  dash?: number[];
  label?: string;
}

/** Where a moment and a value stand in the plot, and the other way round. */
export interface TimeGeometry {
  toX: (ms: number) => number;
  toMs: (x: number) => number;
  toY: (value: number) => number;
  toValue: (y: number) => number;
  top: number;
  bottom: number;
}

interface Props {
  name: string;
  unit: string;
  lines: TimeLine[];
  range: [number, number];
  height: number;
  /** From where to where is shown first, in milliseconds. */
  fit?: [number, number];
  gate: number;
  from?: number;
  onFrom?: (ms: number) => void;
  reflection: number | null;
  onGate: (ms: number) => void;
  children?: (geometry: TimeGeometry) => ReactNode;
}

const FIT: [number, number] = [-2, 20];
const TOP = 8;
const BOTTOM = 22;

export function TimePlot({
  name,
  unit,
  lines,
  range,
  height,
  fit = FIT,
  gate,
  from = 0,
  onFrom,
  reflection,
  onGate,
  children,
}: Props) {
  const { own } = useTheme();
  const [holder, { width }] = useSize<HTMLDivElement>();
  const [span, setSpan] = useState<[number, number]>(fit);
  const [at, setAt] = useState<number | null>(null);
  const [dragged, setDragged] = useState<number | null>(null);
  const [begun, setBegun] = useState<number | null>(null);
  const inner = Math.max(1, width - LEFT - RIGHT);
  const first = fit === FIT ? -3 : -45;
  const toX = (ms: number) => LEFT + ((ms - span[0]) / (span[1] - span[0])) * inner;
  const toMs = (x: number) => span[0] + ((x - LEFT) / inner) * (span[1] - span[0]);
  const toY = (value: number) => TOP + ((range[1] - value) / (range[1] - range[0])) * (height - TOP - BOTTOM);
  const toValue = (y: number) => range[1] - ((y - TOP) / Math.max(1, height - TOP - BOTTOM)) * (range[1] - range[0]);

  useWheel(holder, (event) => {
    event.preventDefault();
    const centre = toMs(event.clientX - holder.current!.getBoundingClientRect().left);
    const factor = event.deltaY > 0 ? 1.25 : 0.8;
    setSpan([
      Math.max(first, centre + (span[0] - centre) * factor),
      Math.min(40, centre + (span[1] - centre) * factor),
    ]);
  });

  const wide = span[1] - span[0];
  const step = [0.1, 0.2, 0.5, 1, 2, 5, 10].find((one) => wide / one <= 14) ?? 20;
  const ticks = Array.from(
    { length: Math.floor(span[1] / step) - Math.ceil(span[0] / step) + 1 },
    (_, n) => (Math.ceil(span[0] / step) + n) * step,
  );
  const shown = dragged ?? gate;
  const begin = begun ?? from;
  const readings =
    at === null ? [] : lines.filter((line) => line.label).map((line) => ({ line, value: nearest(line, at) }));
  return (
    <Box
      ref={holder}
      role="group"
      aria-label={name}
      sx={{ position: 'relative', height, width: '100%' }}
      onDoubleClick={() => setSpan(fit)}
      onPointerMove={(event) => setAt(toMs(event.clientX - event.currentTarget.getBoundingClientRect().left))}
      onPointerLeave={() => setAt(null)}>
      {width > 0 && (
        <svg
          width={width}
          height={height}
          fontSize={11}
          style={{ display: 'block', touchAction: 'none', cursor: 'grab' }}
          onPointerDown={(event) => {
            const begun = event.clientX;
            const box = event.currentTarget.getBoundingClientRect();
            const from = span;
            drag(
              event,
              (x) => {
                const by = ((x - (begun - box.left)) / inner) * (from[1] - from[0]);
                setSpan([Math.max(first, from[0] - by), Math.min(40, from[1] - by)]);
              },
              () => undefined,
            );
          }}>
          <defs>
            <clipPath id="time-clip">
              <rect x={LEFT} y={TOP} width={inner} height={Math.max(1, height - TOP - BOTTOM)} />
            </clipPath>
          </defs>
          <rect x={LEFT} y={TOP} width={inner} height={Math.max(1, height - TOP - BOTTOM)} fill={own.plot} />
          {ticks.map((ms) => (
            <g key={ms}>
              <line
                x1={toX(ms)}
                x2={toX(ms)}
                y1={TOP}
                y2={height - BOTTOM}
                stroke={Math.abs(ms) < 1e-9 ? own.line : own.grid}
              />
              {toX(ms) < width - RIGHT - 26 && (
                <text x={toX(ms)} y={height - 8} fill={own.quiet} textAnchor="middle">
                  {plain(ms, step < 1 ? 1 : 0)}
                </text>
              )}
            </g>
          ))}
          <text x={width - RIGHT} y={height - 8} fill={own.quiet} textAnchor="end">
            ms
          </text>
          <text x={LEFT + 8} y={TOP + 14} fill={own.quiet}>
            {unit}
          </text>
          {[range[0], (range[0] + range[1]) / 2, range[1]].map((value) => (
            <text key={value} x={LEFT - 6} y={toY(value) + 4} fill={own.quiet} textAnchor="end">
              {plain(value, 0)}
            </text>
          ))}
          <g clipPath="url(#time-clip)">
            {lines.map((line) => (
              <path
                key={line.id}
                d={path(line, toX, toY, span)}
                fill="none"
                stroke={line.colour}
                strokeWidth={line.width}
                strokeDasharray={line.dash?.join(' ')}
              />
            ))}
            {reflection !== null && (
              <g>
                <line
                  x1={toX(reflection)}
                  x2={toX(reflection)}
                  y1={TOP}
                  y2={height - BOTTOM}
                  stroke={own.quiet}
                  strokeDasharray="4 3"
                />
                <text
                  x={toX(reflection) + 5}
                  y={height - BOTTOM - 6}
                  fill={own.quiet}>{`first reflection, ${plain(reflection, 2)} ms`}</text>
              </g>
            )}
            {shown > 0 && (
              <g>
                <rect
                  x={toX(shown)}
                  y={TOP}
                  width={Math.max(0, width - RIGHT - toX(shown))}
                  height={Math.max(1, height - TOP - BOTTOM)}
                  fill={own.ground}
                  opacity={0.6}
                />
                <rect
                  x={LEFT}
                  y={TOP}
                  width={Math.max(0, toX(-begin) - LEFT)}
                  height={Math.max(1, height - TOP - BOTTOM)}
                  fill={own.ground}
                  opacity={0.6}
                />
                {onFrom && (
                  <Edge
                    name="Start of the gate"
                    at={-begin}
                    x={toX(-begin)}
                    bottom={height - BOTTOM}
                    limits={[-500, -0.1]}
                    toMs={toMs}
                    onDrag={(ms) => setBegun(ms === null ? null : -ms)}
                    onSet={(ms) => onFrom(-ms)}
                  />
                )}
                <Edge
                  name="End of the gate"
                  at={shown}
                  x={toX(shown)}
                  bottom={height - BOTTOM}
                  limits={[0.5, 500]}
                  toMs={toMs}
                  onDrag={setDragged}
                  onSet={onGate}
                />
                <text
                  x={toX(shown) + 6}
                  y={TOP + 14}
                  fill={
                    own.clayText
                  }>{`gate ends at ${plain(shown)} ms: true above ${Math.round(1000 / shown)} Hz`}</text>
              </g>
            )}
            {children?.({ toX, toMs, toY, toValue, top: TOP, bottom: height - BOTTOM })}
          </g>
          {at !== null && at > span[0] && at < span[1] && (
            <g style={{ pointerEvents: 'none' }}>
              <line x1={toX(at)} x2={toX(at)} y1={TOP} y2={height - BOTTOM} stroke={own.quiet} strokeDasharray="3 3" />
              <text x={width - RIGHT - 6} y={TOP + 14} textAnchor="end" fill={own.text}>
                {`${plain(at, 2)} ms · ` +
                  `${readings.map(({ line, value }) => `${line.label} ${plain(value, 1)}`).join(' · ')}`}
              </text>
            </g>
          )}
        </svg>
      )}
      {lines.length > 0 && (
        <PictureTools
          name={name}
          holder={holder}
          legend={lines}
          table={(between) => rowsOf('ms', lines, span, between)}
        />
      )}
    </Box>
  );
}

interface EdgeProps {
  name: string;
  at: number;
  x: number;
  bottom: number;
  limits: [number, number];
  toMs: (x: number) => number;
  onDrag: (ms: number | null) => void;
  onSet: (ms: number) => void;
}

/** One end of the gate: dragged, or stepped with the arrow keys (Shift: coarse). */
function Edge({ name, at, x, bottom, limits: [least, most], toMs, onDrag, onSet }: EdgeProps) {
  const { own } = useTheme();
  const within = (ms: number) => Math.max(least, Math.min(most, Math.round(ms * 10) / 10));
  return (
    <g
      role="slider"
      tabIndex={0}
      aria-label={name}
      aria-valuemin={least}
      aria-valuemax={most}
      aria-valuenow={at}
      aria-valuetext={`${plain(at)} ms`}
      style={{ cursor: 'ew-resize' }}
      onKeyDown={(event) => {
        const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
        if (!way) return;
        event.preventDefault();
        event.stopPropagation();
        onSet(within(at + way * (event.shiftKey ? 2 : 0.2)));
      }}
      onPointerDown={(event) => {
        let to: number | null = null;
        drag(
          event,
          (px) => {
            to = within(toMs(px));
            onDrag(to);
          },
          () => {
            onDrag(null);
            if (to !== null) onSet(to);
          },
        );
      }}>
      <rect x={x - 7} y={TOP} width={14} height={Math.max(1, bottom - TOP)} fill="transparent" />
      <line x1={x} x2={x} y1={TOP} y2={bottom} stroke={own.clay} strokeWidth={2} />
    </g>
  );
}

function path(
  line: TimeLine,
  toX: (ms: number) => number,
  toY: (value: number) => number,
  [low, high]: [number, number],
): string {
  const points: string[] = [];
  for (let i = 0; i < line.x.length; i++) {
    if (line.x[i] < low - 0.2 || line.x[i] > high + 0.2) continue;
    points.push(`${toX(line.x[i]).toFixed(1)},${toY(line.values[i]).toFixed(1)}`);
  }
  return points.length ? `M${points.join('L')}` : '';
}

function nearest(line: TimeLine, ms: number): number {
  const step = line.x[1] - line.x[0];
  return line.values[Math.max(0, Math.min(line.values.length - 1, Math.round((ms - line.x[0]) / step)))];
}
