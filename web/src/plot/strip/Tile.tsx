/** A tile: one channel over its band, its ends to be dragged. */
import { useTheme } from '@mui/material/styles';
import type { KeyboardEvent, ReactNode } from 'react';
import type { Driver } from '../../api/types';
import { plain } from '../../ui/format';
import { drag } from '../drag';
import { toHertz, toX } from '../scale';
import { rowOf, tiesOf } from '../../state/system';
import { ROW, slant, span, TOP, type StripProps } from './span';
import { hueOf } from '../../ui/theme';

export function Tile({
  project,
  tune,
  driver,
  selection,
  width,
  onSelect,
  onCorner,
}: StripProps & { driver: Driver; width: number }) {
  const { own } = useTheme();
  const channel = tune.channels[driver.id];
  const hue = hueOf(own, driver);
  const [low, high, known] = span(project, tune, driver);
  const first = toX(low, width);
  const last = toX(high, width);
  const row = rowOf(project, driver);
  const y = TOP + (row === 'right' ? ROW : 0);
  const tall = row === 'both' ? 2 * ROW : ROW;
  const chosen = driver.id === selection;
  const crossed = Boolean(channel.low_pass || (channel.high_pass && !project.guarded.includes(driver.id)));
  const silent = channel.muted || (tune.solo !== null && tune.solo !== driver.id);
  const [a, b] = [slant(channel.high_pass) / 2, slant(channel.low_pass) / 2];
  const shape = `${first + a},${y} ${last - b},${y} ${last + b},${y + tall} ${first - a},${y + tall}`;
  const tied = tiesOf(tune, driver, project);
  const words = `${driver.name}, ${plain(channel.gain_db)} dB, ${plain(channel.delay_s * 1e3, 2)} ms${
    channel.inverted ? ', inverted' : ''
  }${silent ? ', muted' : ''}${tied.length ? `, ${tied.join(' and ')} as on the other side` : ''}`;
  const handle = (end: 'high_pass' | 'low_pass', x: number): ReactNode => {
    const corner = channel[end];
    const hertz = corner?.corner_hz ?? (end === 'high_pass' ? low : high);
    const step = (event: KeyboardEvent) => {
      const way = { ArrowLeft: -1, ArrowRight: 1, ArrowDown: -1, ArrowUp: 1 }[event.key];
      if (!way) return;
      event.preventDefault();
      event.stopPropagation();
      onCorner(driver.id, end, hertz * 2 ** (way / (event.shiftKey ? 6 : 48)), true);
    };
    const name = `${driver.name} ${end === 'high_pass' ? 'high-pass' : 'low-pass'} corner`;
    return (
      <rect
        key={end}
        x={x - 6}
        y={y}
        width={12}
        height={tall}
        fill="transparent"
        style={{ cursor: 'ew-resize' }}
        tabIndex={0}
        role="slider"
        aria-label={name}
        aria-valuemin={20}
        aria-valuemax={20000}
        aria-valuenow={Math.round(hertz)}
        aria-valuetext={corner ? `${Math.round(hertz)} Hz` : 'off'}
        onKeyDown={step}
        onPointerDown={(event) => {
          onSelect(driver.id);
          let at: number | null = null;
          drag(
            event,
            (px) => {
              at = toHertz(px, width);
              onCorner(driver.id, end, at, false);
            },
            () => at !== null && onCorner(driver.id, end, at, true),
          );
        }}
      />
    );
  };
  return (
    <g opacity={silent ? 0.55 : 1}>
      <g
        role="button"
        tabIndex={0}
        aria-label={words}
        aria-pressed={chosen}
        style={{ cursor: 'pointer' }}
        onClick={() => onSelect(driver.id)}
        onKeyDown={(event) => {
          if (event.key === 'Enter') onSelect(driver.id);
        }}>
        <polygon
          points={shape}
          fill={hue}
          fillOpacity={!crossed ? (chosen ? 0.2 : 0.05) : chosen ? 0.36 : known ? 0.16 : 0.03}
          stroke={hue}
          strokeWidth={chosen ? 2 : 1}
          strokeDasharray={driver.side === 'right' ? '5 3' : undefined}
        />
      </g>
      {handle('high_pass', first)}
      {handle('low_pass', last)}
    </g>
  );
}
