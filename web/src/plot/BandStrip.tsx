/** The system as a row of overlapping tiles, on the plot's frequency axis to the pixel. */
import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import type { KeyboardEvent, ReactNode } from 'react';
import type { Crossover, Driver, Project, Seam, Tune } from '../api/types';
import { plain, short } from '../format';
import { drag } from './drag';
import { useDesk } from '../store';
import { LEFT, RIGHT, ticksNow, tickText, toHertz, toX } from './scale';
import { useSize } from './useSize';

interface Props {
  project: Project; tune: Tune; selection: string; seam: string; seamsOpen: boolean;
  onSelect: (driver: string) => void; onSeam: (seam: string) => void;
  onCorner: (driver: string, end: 'high_pass' | 'low_pass', hertz: number, done: boolean) => void;
  onMute: (driver: string) => void; onSolo: (driver: string) => void;
}

const ROW = 36;
const TOP = 8;
export const STRIP_HEIGHT = TOP * 2 + ROW * 2 + 24;

export function BandStrip(props: Props) {
  const { project, tune, selection } = props;
  const { own } = useTheme();
  const [holder, { width }] = useSize<HTMLDivElement>();
  useDesk((desk) => desk.zoom.axis);
  const free: Record<string, number> = { left: LEFT, right: LEFT };
  const order = [...project.layout.drivers].sort((a, b) => Number(a.id === selection) - Number(b.id === selection));
  const textAt: Record<string, number> = {};
  for (const driver of project.layout.drivers) {
    const [low] = span(project, tune, driver);
    const sides = driver.side === 'both' ? ['left', 'right'] : [driver.side];
    const x = Math.max(toX(low, width) + 16, ...sides.map((side) => free[side]));
    textAt[driver.id] = x;
    for (const side of sides) free[side] = x + 130;
  }
  return (
    <Box ref={holder} sx={{ bgcolor: 'background.paper', height: STRIP_HEIGHT, width: '100%' }}>
      {width > 0 && (
        <svg width={width} height={STRIP_HEIGHT} fontSize={11} role="group" aria-label="Band strip" style={{ display: 'block', touchAction: 'none' }}>
          <text x={20} y={TOP + 22} fill={own.quiet} fontWeight={600}>L</text>
          <text x={20} y={TOP + ROW + 24} fill={own.quiet} fontWeight={600}>R</text>
          <defs><clipPath id="strip-clip"><rect x={LEFT - 14} y={0} width={Math.max(1, width - LEFT - RIGHT + 28)} height={STRIP_HEIGHT} /></clipPath></defs>
          <g clipPath="url(#strip-clip)">
          {order.map((driver) => <Tile key={driver.id} {...props} driver={driver} width={width} />)}
          {order.map((driver) => <TileText key={driver.id} {...props} driver={driver} x={textAt[driver.id]} width={width} />)}
          {props.project.seams.filter((seam) => seam.ways && seam.side !== 'right' && !(seam.side === 'both' && hasSides(props.project, seam)))
            .map((seam) => <Pill key={seam.id} {...props} seamHere={seam} width={width} />)}
          </g>
          <SidesPill {...props} width={width} />
          {ticksNow().map((hertz) => (
            <text key={hertz} x={toX(hertz, width)} y={STRIP_HEIGHT - 7} fill={own.quiet}
              textAnchor={hertz === 20000 ? 'end' : 'middle'}>{tickText(hertz)}</text>
          ))}
        </svg>
      )}
    </Box>
  );
}

const hasSides = (project: Project, seam: Seam) => project.seams.some((s) => s.name === seam.name && s.side === 'left');

/** From corner to corner, or the usable band where no corner is set. */
function span(project: Project, tune: Tune, driver: Driver): [number, number, boolean] {
  const channel = tune.channels[driver.id];
  const read = project.drivers[driver.id];
  const guarded = project.guarded.includes(driver.id);
  const low = (!guarded && channel.high_pass?.corner_hz) || read?.low_hz || channel.high_pass?.corner_hz || 20;
  const high = channel.low_pass?.corner_hz ?? read?.high_hz ?? 20000;
  return [low, Math.max(high, low * 1.05), Boolean(read || channel.high_pass || channel.low_pass)];
}

const slant = (end: Crossover | null) => (end ? Math.min(26, 340 / end.slope_db) : 4);

function Tile({ project, tune, driver, selection, width, onSelect, onCorner }: Props & { driver: Driver; width: number }) {
  const { own } = useTheme();
  const channel = tune.channels[driver.id];
  const hue = own.ways[driver.kind];
  const [low, high, known] = span(project, tune, driver);
  const first = toX(low, width);
  const last = toX(high, width);
  const y = TOP + (driver.side === 'right' ? ROW : 0);
  const tall = driver.side === 'both' ? 2 * ROW : ROW;
  const chosen = driver.id === selection;
  const crossed = Boolean(channel.low_pass || (channel.high_pass && !project.guarded.includes(driver.id)));
  const silent = channel.muted || (tune.solo !== null && tune.solo !== driver.id);
  const [a, b] = [slant(channel.high_pass) / 2, slant(channel.low_pass) / 2];
  const shape = `${first + a},${y} ${last - b},${y} ${last + b},${y + tall} ${first - a},${y + tall}`;
  const words = `${driver.name}, ${plain(channel.gain_db)} dB, ${plain(channel.delay_s * 1e3, 2)} ms${
    channel.inverted ? ', inverted' : ''}${silent ? ', muted' : ''}`;
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
      <rect key={end} x={x - 6} y={y} width={12} height={tall} fill="transparent" style={{ cursor: 'ew-resize' }} tabIndex={0}
        role="slider" aria-label={name} aria-valuemin={20} aria-valuemax={20000} aria-valuenow={Math.round(hertz)}
        aria-valuetext={corner ? `${Math.round(hertz)} Hz` : 'off'} onKeyDown={step}
        onPointerDown={(event) => {
          onSelect(driver.id);
          let at: number | null = null;
          drag(event, (px) => { at = toHertz(px, width); onCorner(driver.id, end, at, false); },
            () => at !== null && onCorner(driver.id, end, at, true));
        }} />
    );
  };
  return (
    <g opacity={silent ? 0.55 : 1}>
      <g role="button" tabIndex={0} aria-label={words} aria-pressed={chosen} style={{ cursor: 'pointer' }} onClick={() => onSelect(driver.id)}
        onKeyDown={(event) => { if (event.key === 'Enter') onSelect(driver.id); }}>
        <polygon points={shape} fill={hue} fillOpacity={!crossed ? (chosen ? 0.2 : 0.05) : chosen ? 0.36 : known ? 0.16 : 0.03} stroke={hue} strokeWidth={chosen ? 2 : 1}
          strokeDasharray={driver.side === 'right' ? '5 3' : undefined} />
      </g>
      {handle('high_pass', first)}
      {handle('low_pass', last)}
    </g>
  );
}

/** The words on a tile, above all tiles so that they stay readable where these overlap. */
function TileText({ project, tune, driver, x: textX, width, onMute, onSolo }: Props & { driver: Driver; x: number; width: number }) {
  const { own } = useTheme();
  const channel = tune.channels[driver.id];
  // Beside the words, but within the tile where it is narrow.
  const switchX = Math.max(textX + 74, Math.min(textX + 108, toX(span(project, tune, driver)[1], width) - 38));
  const y = TOP + (driver.side === 'right' ? ROW : 0);
  return (
    <g>
      <g style={{ pointerEvents: 'none' }}>
        <text x={textX} y={y + 15} fill={own.text} fontWeight={600}>{driver.name}</text>
        <text x={textX} y={y + 29} fill={own.quiet}>
          {`${plain(channel.gain_db)} · ${plain(channel.delay_s * 1e3, 2)} ms${channel.inverted ? ' · inv' : ''}`}
        </text>
        {driver.side === 'both' && <text x={textX} y={y + 62} fill={own.quiet}>both sides</text>}
        {driver.side === 'both' && <Marks x={textX + 2} y={y + 44} driver={driver} project={project} tune={tune} />}
        {driver.side !== 'both' && <Marks x={textX + driver.name.length * 6.5 + 12} y={y + 11} driver={driver} project={project} tune={tune} />}
      </g>
      <Switch x={switchX} y={y + 4} text="M" on={channel.muted} name={`Mute ${driver.name}`} colour={own.clayText} press={() => onMute(driver.id)} />
      <Switch x={switchX} y={y + 19} text="S" on={tune.solo === driver.id} name={`Solo ${driver.name}`} colour={own.good} press={() => onSolo(driver.id)} />
    </g>
  );
}

/** What there is of a driver: a ring for its take, a bar for its correction. */
function Marks({ x, y, driver, project, tune }: { x: number; y: number; driver: Driver; project: Project; tune: Tune }) {
  const { own } = useTheme();
  const hue = own.ways[driver.kind];
  return (
    <g>
      {project.drivers[driver.id] && <circle cx={x} cy={y} r={3} fill={hue}><title>bare take there</title></circle>}
      {project.impedance[driver.id]?.take_id && <path d={`M${x + 19} ${y - 2}h6m-6 4h6`} stroke={hue} strokeWidth={1.5}><title>impedance there</title></path>}
      {tune.channels[driver.id].bands.length > 0 && (
        <rect x={x + 7} y={y - 3} width={8} height={6} fill={hue}><title>correction there</title></rect>
      )}
    </g>
  );
}

function Switch({ x, y, text, on, name, colour, press }: {
  x: number; y: number; text: string; on: boolean; name: string; colour: string; press: () => void;
}) {
  const { own } = useTheme();
  return (
    <g role="button" tabIndex={0} aria-label={name} aria-pressed={on} style={{ cursor: 'pointer' }}
      onClick={(event) => { event.stopPropagation(); press(); }} onKeyDown={(event) => { if (event.key === 'Enter') press(); }}>
      <rect x={x} y={y} width={16} height={13} rx={3} fill={on ? colour : own.panel} stroke={own.line} />
      <text x={x + 8} y={y + 10} fontSize={10} textAnchor="middle" fill={on ? own.onClay : own.quiet}>{text}</text>
    </g>
  );
}

function Pill({ project, tune, seam, seamsOpen, seamHere, width, onSeam }: Props & { seamHere: Seam; width: number }) {
  const { own } = useTheme();
  const lower = project.layout.drivers.find((d) => d.id === seamHere.lowers[0])!;
  const upper = project.layout.drivers.find((d) => d.id === seamHere.uppers[0])!;
  const corner = tune.channels[lower.id].low_pass?.corner_hz;
  const next = project.guarded.includes(upper.id) && !corner ? undefined : tune.channels[upper.id].high_pass?.corner_hz;
  const set = corner && next ? Math.sqrt(corner * next) : (corner ?? next);
  const [low] = span(project, tune, upper);
  const [, high] = span(project, tune, lower);
  const at = set ?? Math.sqrt(Math.max(low, 25) * Math.min(high, 15000));
  const x = toX(at, width);
  const chosen = seamsOpen && project.seams.find((s) => s.id === seam)?.name === seamHere.name;
  const text = set ? short(set) : 'set';
  const name = `${text}: seam ${lower.kind} to ${upper.kind}${set ? ` at ${Math.round(set)} Hz` : ''}`;
  return (
    <g role="button" tabIndex={0} aria-label={name} aria-pressed={chosen} style={{ cursor: 'pointer' }} onClick={() => onSeam(seamHere.id)}
      onKeyDown={(event) => { if (event.key === 'Enter') onSeam(seamHere.id); }}>
      <rect x={x - 18} y={TOP + ROW - 10} width={36} height={20} rx={10} fill={chosen ? own.clay : own.panel} stroke={own.line} />
      <text x={x} y={TOP + ROW + 4} textAnchor="middle" fontWeight={600} fill={chosen ? own.onClay : own.text}>{text}</text>
    </g>
  );
}

/** The overlap of the two sides, at the strip's left edge between L and R. */
function SidesPill({ project, seam, seamsOpen, onSeam }: Props & { width: number }) {
  const { own } = useTheme();
  const here = project.seams.find((s) => s.ways === null);
  if (!here) return null;
  const chosen = seamsOpen && seam === here.id;
  return (
    <g role="button" tabIndex={0} aria-label="L+R: seam left to right" aria-pressed={chosen} style={{ cursor: 'pointer' }}
      onClick={() => onSeam(here.id)} onKeyDown={(event) => { if (event.key === 'Enter') onSeam(here.id); }}>
      <rect x={6} y={TOP + ROW - 10} width={38} height={20} rx={10} fill={chosen ? own.clay : own.panel} stroke={own.line} />
      <text x={25} y={TOP + ROW + 4} textAnchor="middle" fontWeight={600} fill={chosen ? own.onClay : own.text}>L+R</text>
    </g>
  );
}
