/** A band to be dragged. */
import { useTheme } from '@mui/material/styles';
import type { Band, Limits } from '../../api/types';
import { plain, stepOf } from '../../ui/format';
import { drag } from '../../plot/drag';
import { hasGain } from './bands';
import type { Geometry } from '../../plot/parts';
import { toHertz, toX } from '../../plot/scale';

export function BandHandle({
  one,
  can,
  n,
  chosen,
  colour,
  geometry,
  range,
  choose,
  change,
  remove,
}: {
  one: Band;
  can: Limits;
  n: number;
  chosen: boolean;
  colour: string;
  geometry: Geometry;
  /** What the plot shows, in dB. */
  range: [number, number];
  choose: () => void;
  change: (band: Band, done: boolean) => void;
  remove: () => void;
}) {
  const { own } = useTheme();
  const { width, y, top, bottom } = geometry;
  const { least, most } = can.band_gain_db;
  const step = stepOf(can.band_gain_db);
  const gain = hasGain(one) ? one.gain_db : 0;
  const px = toX(one.frequency_hz, width);
  const py = Math.min(bottom - 8, Math.max(top + 8, y(gain)));
  const at = (x: number, h: number): Band => {
    const level = range[1] - ((h - top) / (bottom - top)) * (range[1] - range[0]);
    return {
      ...one,
      frequency_hz: toHertz(x, width),
      gain_db: hasGain(one) ? Math.max(least, Math.min(most, Math.round(level / step) * step)) : 0,
    };
  };
  const key = (event: React.KeyboardEvent) => {
    const coarse = event.shiftKey;
    const next: Partial<Band> | null =
      event.key === 'ArrowLeft'
        ? { frequency_hz: one.frequency_hz * 2 ** (coarse ? -1 / 6 : -1 / 48) }
        : event.key === 'ArrowRight'
          ? { frequency_hz: one.frequency_hz * 2 ** (coarse ? 1 / 6 : 1 / 48) }
          : event.key === 'ArrowUp'
            ? { gain_db: one.gain_db + step * (coarse ? 10 : 1) }
            : event.key === 'ArrowDown'
              ? { gain_db: one.gain_db - step * (coarse ? 10 : 1) }
              : event.key === '+'
                ? { q: one.q * (coarse ? 1.4 : 1.1) }
                : event.key === '-'
                  ? { q: one.q / (coarse ? 1.4 : 1.1) }
                  : null;
    if (event.key === 'Delete') remove();
    if (!next && event.key !== 'Delete') return;
    event.preventDefault();
    event.stopPropagation();
    if (next) change({ ...one, ...next }, true);
  };
  return (
    <g
      role="slider"
      tabIndex={0}
      aria-label={`Band ${n + 1}`}
      aria-valuenow={one.gain_db}
      aria-valuetext={`${Math.round(one.frequency_hz)} Hz, ${plain(one.gain_db)} dB, Q ${plain(one.q, 2)}`}
      style={{ cursor: 'move' }}
      data-testid={`band-${n}`}
      onFocus={choose}
      onKeyDown={key}
      data-own-wheel
      onWheel={(event) =>
        change({ ...one, q: Math.max(0.3, Math.min(20, one.q * (event.deltaY < 0 ? 1.1 : 1 / 1.1))) }, true)
      }
      onPointerDown={(event) => {
        choose();
        let to: Band | null = null;
        drag(
          event,
          (x, h) => {
            to = at(x, h);
            change(to, false);
          },
          () => to && change(to, true),
        );
      }}>
      <polygon
        points={`${px - 7},${py - 6} ${px + 7},${py - 6} ${px + 10},${py + 6} ${px - 10},${py + 6}`}
        fill={chosen ? own.clay : colour}
        stroke={own.plot}
      />
      <text x={px} y={py + 4} textAnchor="middle" fontSize={9} fontWeight={600} fill={own.plot}>
        {n + 1}
      </text>
    </g>
  );
}
