/** Level over time and frequency as an image on the shared frequency axis; the cursor reads it. */
import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { useEffect, useRef, useState } from 'react';
import { hertz, plain } from '../ui/format';
import { useWindow } from '../state/window';
import { PictureTools } from './tools/PictureTools';
import { table as asText } from './tools/text';
import { LEFT, RIGHT, ticksNow, toHertz, toX } from './scale';
import { useSize } from './useSize';

interface Props {
  name: string;
  unit: string;
  /** Of the columns. */ frequencies: number[];
  values: Float32Array;
  rows: number;
  times: Float32Array;
  height: number;
  floor: number;
  /** Where the vertical axis is named: round values, from the server. */
  ticks: number[];
}

const TOP = 8;
const BOTTOM = 6;

export function MapPlot({ name, unit, frequencies, values, rows, times, height, floor, ticks }: Props) {
  const { own } = useTheme();
  const axis = useWindow((state) => state.zoom.axis);
  const [holder, { width }] = useSize<HTMLDivElement>();
  const canvas = useRef<HTMLCanvasElement>(null);
  const [at, setAt] = useState<[number, number] | null>(null);
  const columns = frequencies.length;
  const inner = Math.max(1, width - LEFT - RIGHT);
  const tall = Math.max(1, height - TOP - BOTTOM);
  const [first, last] = [times[0], times[times.length - 1]];

  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context || width < 100) return;
    // One pixel for each value, then stretched: the columns are evenly spaced on the logarithmic axis.
    const small = new OffscreenCanvas(columns, rows);
    const paint = small.getContext('2d')!;
    const image = paint.createImageData(columns, rows);
    const stops = [own.plot, own.ways.sub, own.ways.midbass, own.ways.mid, own.text].map(rgb);
    for (let row = 0; row < rows; row++) {
      for (let column = 0; column < columns; column++) {
        const share = Math.max(0, Math.min(1, 1 - values[row * columns + column] / floor)) * (stops.length - 1);
        const k = Math.min(stops.length - 2, Math.floor(share));
        const place = ((rows - 1 - row) * columns + column) * 4;
        for (let c = 0; c < 3; c++) image.data[place + c] = stops[k][c] + (stops[k + 1][c] - stops[k][c]) * (share - k);
        image.data[place + 3] = 255;
      }
    }
    paint.putImageData(image, 0, 0);
    context.imageSmoothingEnabled = true;
    context.clearRect(0, 0, inner, tall);
    const [from, to] = axis.map(
      (one) =>
        0.5 + (Math.log(one / frequencies[0]) / Math.log(frequencies[columns - 1] / frequencies[0])) * (columns - 1),
    );
    context.drawImage(small, from, 0, to - from, rows, 0, 0, inner, tall);
  }, [values, rows, columns, frequencies, width, inner, tall, own, floor, axis]);

  const reading = at && width > 0 ? read(at, values, rows, frequencies, width, tall) : null;
  return (
    <Box
      ref={holder}
      role="group"
      aria-label={name}
      sx={{ position: 'relative', height, width: '100%' }}
      onPointerMove={(event) => {
        const box = event.currentTarget.getBoundingClientRect();
        setAt([event.clientX - box.left, event.clientY - box.top]);
      }}
      onPointerLeave={() => setAt(null)}>
      <canvas ref={canvas} width={inner} height={tall} style={{ position: 'absolute', left: LEFT, top: TOP }} />
      {width > 0 && (
        <svg
          width={width}
          height={height}
          fontSize={11}
          style={{ position: 'absolute', inset: 0, pointerEvents: 'none' }}>
          {ticksNow().map((one) => (
            <line
              key={one}
              x1={toX(one, width)}
              x2={toX(one, width)}
              y1={TOP}
              y2={TOP + tall}
              stroke={own.line}
              opacity={0.5}
            />
          ))}
          {ticks.map((ms) => (
            <text
              key={ms}
              x={LEFT - 6}
              y={TOP + tall - ((ms - first) / (last - first)) * tall + 4}
              textAnchor="end"
              fill={own.quiet}>
              {plain(ms, Number.isInteger(ms) ? 0 : 1)}
            </text>
          ))}
          <rect x={LEFT + 4} y={TOP + 2} width={178} height={17} rx={3} fill={own.panel} opacity={0.9} />
          <text x={LEFT + 8} y={TOP + 14} fill={own.text}>{`${unit} · bright 0 dB, dark ${plain(floor, 0)} dB`}</text>
          {reading && (
            <g>
              <rect x={width - RIGHT - 180} y={TOP + 2} width={178} height={17} rx={3} fill={own.panel} opacity={0.9} />
              <text x={width - RIGHT - 6} y={TOP + 14} textAnchor="end" fill={own.text}>
                {`${hertz(reading.hertz)} · ${plain(times[reading.row], 0)} ${unit} · ${plain(reading.value)} dB`}
              </text>
            </g>
          )}
        </svg>
      )}
      <PictureTools
        name={name}
        holder={holder}
        bottom={14}
        table={(between) => table(values, times, rows, frequencies, unit, between)}
      />
    </Box>
  );
}

/** A row for each frequency, a column for each time or angle. */
function table(
  values: Float32Array,
  times: Float32Array,
  rows: number,
  frequencies: number[],
  unit: string,
  between: string,
): string {
  const head = ['Hz', ...Array.from(times, (one) => `${one.toFixed(1)} ${unit}`)];
  const lines = frequencies.map((hertz, column) => [
    hertz.toFixed(2),
    ...Array.from({ length: rows }, (_, row) => values[row * frequencies.length + column].toFixed(1)),
  ]);
  return asText([head, ...lines], between);
}

function read(
  [x, y]: [number, number],
  values: Float32Array,
  rows: number,
  frequencies: number[],
  width: number,
  tall: number,
) {
  if (x < LEFT || x > width - RIGHT || y < TOP || y > TOP + tall) return null;
  const at = toHertz(x, width);
  const column = frequencies.reduce(
    (best, one, n) => (Math.abs(Math.log(one / at)) < Math.abs(Math.log(frequencies[best] / at)) ? n : best),
    0,
  );
  const row = Math.min(rows - 1, Math.max(0, Math.round((1 - (y - TOP) / tall) * (rows - 1))));
  return { hertz: at, row, value: values[row * frequencies.length + column] };
}

const rgb = (hex: string): [number, number, number] =>
  [1, 3, 5].map((n) => parseInt(hex.slice(n, n + 2), 16)) as [number, number, number];
