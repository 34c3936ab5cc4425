/** The seams on the strip: where two ways overlap, and where the two sides do. */
import { useTheme } from '@mui/material/styles';
import type { Driver, Project, Seam, Tune } from '../../api/types';
import { short } from '../../ui/format';
import { partsOf } from '../../state/system';
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

/** A pill at x between the two rows. */
function At({
  x,
  half = HALF,
  text,
  name,
  here,
  project,
  seam,
  seamsOpen,
  onSeam,
}: StripProps & { x: number; half?: number; text: string; name: string; here: Seam }) {
  const { own } = useTheme();
  const open = project.seams.find((one) => one.id === seam);
  const chosen = seamsOpen && (seam === here.id || Boolean(here.name && open?.name === here.name));
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={name}
      aria-pressed={chosen}
      style={{ cursor: 'pointer' }}
      onClick={() => onSeam(here.id)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') onSeam(here.id);
      }}>
      <rect
        x={x - half}
        y={TOP + ROW - TALL}
        width={2 * half}
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

/** The overlap of two ways, at their corner. */
export function Pill(props: StripProps & { here: Seam; width: number }) {
  const { project, tune, here, width } = props;
  const [lower, upper] = waysOf(project, here);
  const set = cornerOf(project, tune, here);
  const text = set ? short(set) : 'set';
  const name = `${text}: seam ${lower.kind} to ${upper.kind}${set ? ` at ${Math.round(set)} Hz` : ''}`;
  return <At {...props} x={pillAt(project, tune, here, width)} text={text} name={name} />;
}

/** The overlap of two subs, between the two of them. */
export function SubsPill(props: StripProps & { here: Seam; width: number }) {
  const { project, tune, here, width } = props;
  const [first] = waysOf(project, here);
  const [low, high] = span(project, tune, first);
  const x = Math.min(toX(Math.max(low, 20), width) + 40, toX(high, width));
  return <At {...props} x={x} text="subs" name={`subs: seam ${partsOf(project, here).join(' to ')}`} />;
}

/** The overlap of the two sides, at the strip's left edge between L and R. */
export function SidesPill(props: StripProps & { here: Seam }) {
  return <At {...props} x={25} half={19} text="L+R" name="L+R: seam left to right" />;
}
