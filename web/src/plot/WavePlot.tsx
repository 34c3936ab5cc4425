/** A waveform against seconds: wheel zooms down to samples, drag marks a stretch, double click shows the whole. */
import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import { plain } from '../ui/format';
import { drag } from './drag';
import { PictureTools } from './tools/PictureTools';
import { rowsOf } from './tools/drawn';
import { LEFT, RIGHT } from './scale';
import { useSize } from './useSize';
import { useWheel } from './useWheel';

interface Props {
  name: string;
  x: Float32Array;
  least: Float32Array;
  most: Float32Array;
  span: [number, number];
  whole: [number, number];
  height: number;
  marked: [number, number];
  onSpan?: (span: [number, number]) => void;
  onMark?: (span: [number, number]) => void;
}

const TOP = 8;
const BOTTOM = 22;
const SHORTEST_S = 0.0005;

export function WavePlot({ name, x, least, most, span, whole, height, marked, onSpan, onMark }: Props) {
  const { own } = useTheme();
  const [holder, { width }] = useSize<HTMLDivElement>();
  const [dragged, setDragged] = useState<[number, number] | null>(null);
  const inner = Math.max(1, width - LEFT - RIGHT);
  const tall = Math.max(1, height - TOP - BOTTOM);
  const toX = (s: number) => LEFT + ((s - span[0]) / Math.max(1e-9, span[1] - span[0])) * inner;
  const toS = (px: number) =>
    Math.min(whole[1], Math.max(whole[0], span[0] + ((px - LEFT) / inner) * (span[1] - span[0])));
  let peak = 1e-6;
  for (let i = 0; i < least.length; i++) peak = Math.max(peak, Math.abs(least[i]), Math.abs(most[i]));
  const toY = (value: number) => TOP + (0.5 - value / peak / 2.1) * tall;
  useWheel(holder, (event) => {
    if (!onSpan) return;
    event.preventDefault();
    const centre = toS(event.clientX - holder.current!.getBoundingClientRect().left);
    const factor = event.deltaY > 0 ? 1.6 : 0.625;
    let [from, to] = [centre + (span[0] - centre) * factor, centre + (span[1] - centre) * factor];
    if (to - from < SHORTEST_S) [from, to] = [centre - SHORTEST_S / 2, centre + SHORTEST_S / 2];
    onSpan([Math.max(whole[0], from), Math.min(whole[1], to)]);
  });
  const select = (event: React.PointerEvent<HTMLElement>) => {
    if (event.button !== 0 || !onMark) return;
    const begun = event.clientX - event.currentTarget.getBoundingClientRect().left;
    let to: number | null = null;
    drag(
      event,
      (px) => {
        if (to === null && Math.abs(px - begun) < 5) return;
        to = px;
        setDragged([toS(Math.min(begun, px)), toS(Math.max(begun, px))]);
      },
      () => {
        setDragged(null);
        onMark(to === null ? [0, 0] : [toS(Math.min(begun, to)), toS(Math.max(begun, to))]);
      },
    );
  };
  const wide = span[1] - span[0];
  const step = STEPS.find((one) => wide / one <= 10) ?? 60;
  const ticks = Array.from(
    { length: Math.max(0, Math.floor(span[1] / step) - Math.ceil(span[0] / step) + 1) },
    (_, n) => (Math.ceil(span[0] / step) + n) * step,
  );
  const milli = wide < 0.8;
  const shown = dragged ?? (marked[1] > marked[0] ? marked : null);
  const points = wide > 0 && inner / x.length > 6;
  return (
    <Box
      ref={holder}
      role="group"
      aria-label={name}
      sx={{
        position: 'relative',
        height,
        width: '100%',
        touchAction: 'none',
        cursor: onMark ? 'crosshair' : 'default',
      }}
      onPointerDown={select}
      onDoubleClick={() => onSpan?.([0, 0])}>
      {width > 0 && (
        <svg width={width} height={height} fontSize={11} style={{ display: 'block' }}>
          <rect x={LEFT} y={TOP} width={inner} height={tall} fill={own.plot} />
          {ticks.map((s) => (
            <g key={s}>
              <line x1={toX(s)} x2={toX(s)} y1={TOP} y2={TOP + tall} stroke={own.grid} />
              {toX(s) < width - RIGHT - 26 && (
                <text x={toX(s)} y={height - 8} fill={own.quiet} textAnchor="middle">
                  {plain(milli ? s * 1000 : s, digits(milli ? step * 1000 : step))}
                </text>
              )}
            </g>
          ))}
          <text x={width - RIGHT} y={height - 8} fill={own.quiet} textAnchor="end">
            {milli ? 'ms' : 's'}
          </text>
          <line x1={LEFT} x2={width - RIGHT} y1={toY(0)} y2={toY(0)} stroke={own.line} />
          <text x={LEFT - 6} y={toY(peak) + 8} fill={own.quiet} textAnchor="end">
            {share(peak)}
          </text>
          <text x={LEFT - 6} y={toY(0) + 4} fill={own.quiet} textAnchor="end">
            0
          </text>
          <text x={LEFT - 6} y={toY(-peak)} fill={own.quiet} textAnchor="end">
            {share(-peak)}
          </text>
          {shown && (
            <rect
              x={toX(shown[0])}
              y={TOP}
              width={Math.max(1, toX(shown[1]) - toX(shown[0]))}
              height={tall}
              fill={own.sum}
              opacity={0.14}
              data-testid="marked"
            />
          )}
          <path
            d={outline(x, least, most, toX, toY)}
            fill={own.good}
            stroke={own.good}
            strokeWidth={1}
            strokeLinejoin="round"
            fillOpacity={points ? 0 : 1}
          />
          {points && Array.from(x, (s, i) => <circle key={i} cx={toX(s)} cy={toY(least[i])} r={2} fill={own.good} />)}
          <text x={LEFT + 8} y={TOP + 14} fill={own.quiet} stroke={own.plot} strokeWidth={3} paintOrder="stroke">
            % of full scale
          </text>
        </svg>
      )}
      {onMark && (
        <PictureTools
          name={name}
          holder={holder}
          table={(between) =>
            rowsOf(
              's',
              [
                { label: 'least', x, values: least },
                { label: 'most', x, values: most },
              ],
              span,
              between,
            )
          }
        />
      )}
    </Box>
  );
}

const STEPS = [1, 2, 5]
  .flatMap((one) => [-5, -4, -3, -2, -1, 0, 1].map((power) => one * 10 ** power))
  .sort((a, b) => a - b);
const digits = (step: number): number => Math.max(0, Math.ceil(-Math.log10(step) - 1e-9));
const share = (value: number): string =>
  plain(100 * value, Math.abs(value) >= 0.1 ? 0 : Math.abs(value) >= 0.001 ? 2 : 4);

function outline(
  x: Float32Array,
  least: Float32Array,
  most: Float32Array,
  toX: (s: number) => number,
  toY: (v: number) => number,
): string {
  if (!x.length) return '';
  const there: string[] = [];
  const back: string[] = [];
  for (let i = 0; i < x.length; i++) {
    const px = toX(x[i]).toFixed(1);
    there.push(`${px},${toY(most[i]).toFixed(1)}`);
    if (least[i] !== most[i]) back.push(`${px},${toY(least[i]).toFixed(1)}`);
  }
  return `M${there.join('L')}${back.length ? `L${back.reverse().join('L')}Z` : ''}`;
}
