/** A way's ladder, amplifier on the left, driver on the right: series parts on the rail, shunts under it. */
import { useTheme } from '@mui/material/styles';
import type { PassiveBranch, PassivePart } from '../../api/types';

const HIGH = 62;
const RAIL = 18;
const WIDE = 300;
/** A coil is round, a capacitor a gap, a resistor a bar: drawn as plain marks, named by their letters. */
const CORNERS: Record<PassivePart['kind'], number> = { coil: 8, capacitor: 0, resistor: 2 };

export function Ladder({
  branch,
  parts,
  hue,
  chosen,
  choose,
  out = [],
}: {
  branch: PassiveBranch;
  parts: PassivePart[];
  hue: string;
  chosen: string;
  choose: (name: string) => void;
  /** By step whether it is not there: bridged where it stands in series, open where it stands across. */
  out?: boolean[];
}) {
  const { own } = useTheme();
  const count = branch.steps.length;
  const pitch = (WIDE - 60) / Math.max(1, count);
  return (
    <svg width={WIDE} height={HIGH} role="group" aria-label="Ladder" fontSize={10}>
      <line x1={6} x2={WIDE - 26} y1={RAIL} y2={RAIL} stroke={own.quiet} />
      <circle cx={6} cy={RAIL} r={3} fill={own.quiet} />
      <rect x={WIDE - 26} y={RAIL - 9} width={20} height={18} rx={9} fill="none" stroke={hue} strokeWidth={2} />
      <text x={WIDE - 16} y={RAIL + 4} textAnchor="middle" fill={own.text}>
        {branch.inverted ? '−' : '+'}
      </text>
      {branch.steps.map((step, n) => {
        const mine = parts.filter((one) => one.step === n);
        const x = 18 + pitch * (n + 0.5);
        const shunt = step.stands === 'shunt';
        return (
          <g key={n} opacity={out[n] ? 0.35 : 1}>
            {shunt && <line x1={x} x2={x} y1={RAIL} y2={HIGH - 4} stroke={own.quiet} />}
            {shunt && <line x1={x - 7} x2={x + 7} y1={HIGH - 4} y2={HIGH - 4} stroke={own.quiet} />}
            {mine.map((one, k) => {
              const w = Math.min(26, pitch - 2) / (step.beside ? 1 : shunt ? 1 : mine.length);
              const cx = shunt || step.beside ? x : x + (k - (mine.length - 1) / 2) * w;
              const cy = shunt
                ? RAIL + 22 + (k - (mine.length - 1) / 2) * 15
                : step.beside
                  ? RAIL + (k - 0.5) * 15
                  : RAIL;
              const tall = shunt && mine.length > 1 ? 13 : 16;
              return (
                <g
                  key={one.name}
                  role="button"
                  tabIndex={0}
                  aria-label={`${one.name}, ${one.kind} ${shunt ? 'across' : 'in series'}`}
                  aria-pressed={out.length ? !out[n] : chosen === one.name}
                  style={{ cursor: 'pointer' }}
                  onClick={() => choose(one.name)}
                  onKeyDown={(event) => {
                    if (event.key === 'Enter') choose(one.name);
                  }}>
                  <rect
                    x={cx - w / 2}
                    y={cy - tall / 2}
                    width={w}
                    height={tall}
                    rx={CORNERS[one.kind]}
                    fill={own.raised}
                    stroke={chosen === one.name ? own.clay : hue}
                    strokeDasharray={one.kind === 'capacitor' ? '4 2' : undefined}
                  />
                  <text x={cx} y={cy + 3.5} textAnchor="middle" fill={own.text}>
                    {one.name}
                  </text>
                </g>
              );
            })}
          </g>
        );
      })}
    </svg>
  );
}
