/** The seams on the strip: where two ways overlap, and where the two sides do. */
import { useTheme } from '@mui/material/styles';
import type { Driver, Project, Seam, Tune } from '../../api/types';
import { short } from '../../ui/format';
import { toX } from '../scale';
import { ROW, span, TOP, type StripProps } from './span';

/** Half the width and half the height of a pill in pixels: low enough to leave the words of both rows free. */
const HALF = 18;
const TALL = 8;

const waysOf = (project: Project, seam: Seam): [Driver, Driver] => {
  const driver = (id: string) => project.layout.drivers.find((one) => one.id === id)!;
  return [driver(seam.lowers[0]), driver(seam.uppers[0])];
};

/** The corner of a seam in hertz: between its two ends where both are set. */
function cornerOf(project: Project, tune: Tune, seam: Seam): number | undefined {
  const [lower, upper] = waysOf(project, seam);
  const corner = tune.channels[lower.id].low_pass?.corner_hz;
  const next = project.guarded.includes(upper.id) && !corner ? undefined : tune.channels[upper.id].high_pass?.corner_hz;
  return corner && next ? Math.sqrt(corner * next) : (corner ?? next);
}

/** Where the pill of a seam stands, in pixels: at its corner, else in the middle of what both ways can do. */
function pillAt(project: Project, tune: Tune, seam: Seam, width: number): number {
  const [lower, upper] = waysOf(project, seam);
  const [low] = span(project, tune, upper);
  const [, high] = span(project, tune, lower);
  return toX(cornerOf(project, tune, seam) ?? Math.sqrt(Math.max(low, 25) * Math.min(high, 15000)), width);
}

export function Pill({
  project,
  tune,
  seam,
  seamsOpen,
  seamHere,
  width,
  onSeam,
}: StripProps & { seamHere: Seam; width: number }) {
  const { own } = useTheme();
  const [lower, upper] = waysOf(project, seamHere);
  const set = cornerOf(project, tune, seamHere);
  const x = pillAt(project, tune, seamHere, width);
  const chosen = seamsOpen && project.seams.find((s) => s.id === seam)?.name === seamHere.name;
  const text = set ? short(set) : 'set';
  const name = `${text}: seam ${lower.kind} to ${upper.kind}${set ? ` at ${Math.round(set)} Hz` : ''}`;
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={name}
      aria-pressed={chosen}
      style={{ cursor: 'pointer' }}
      onClick={() => onSeam(seamHere.id)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') onSeam(seamHere.id);
      }}>
      <rect
        x={x - HALF}
        y={TOP + ROW - TALL}
        width={2 * HALF}
        height={2 * TALL}
        rx={TALL}
        fill={chosen ? own.clay : own.panel}
        stroke={own.line}
      />
      <text x={x} y={TOP + ROW + 4} textAnchor="middle" fontWeight={600} fill={chosen ? own.onClay : own.text}>
        {text}
      </text>
    </g>
  );
}

/** The overlap of the two sides, at the strip's left edge between L and R. */
export function SidesPill({ project, seam, seamsOpen, onSeam }: StripProps & { width: number }) {
  const { own } = useTheme();
  const here = project.seams.find((s) => s.ways === null);
  if (!here) return null;
  const chosen = seamsOpen && seam === here.id;
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label="L+R: seam left to right"
      aria-pressed={chosen}
      style={{ cursor: 'pointer' }}
      onClick={() => onSeam(here.id)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') onSeam(here.id);
      }}>
      <rect
        x={6}
        y={TOP + ROW - TALL}
        width={38}
        height={2 * TALL}
        rx={TALL}
        fill={chosen ? own.clay : own.panel}
        stroke={own.line}
      />
      <text x={25} y={TOP + ROW + 4} textAnchor="middle" fontWeight={600} fill={chosen ? own.onClay : own.text}>
        L+R
      </text>
    </g>
  );
}
