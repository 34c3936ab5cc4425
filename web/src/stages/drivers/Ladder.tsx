/** A way's ladder, amplifier on the left, driver on the right: series parts on the rail, shunts under it. */
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import type { PassiveBranch, PassivePart } from '../../api/types';
import { drag } from '../../plot/drag';
import { plain } from '../../ui/format';

const HIGH = 62;
const RAIL = 18;
const WIDE = 300;
/** So many pixels double a value. */
const PER_OCTAVE = 48;
/** A coil is round, a capacitor a gap, a resistor a bar: drawn as plain marks, named by their letters. */
const CORNERS: Record<PassivePart['kind'], number> = { coil: 8, capacitor: 0, resistor: 2 };

export function Ladder({
  branch,
  parts,
  hue,
  chosen,
  choose,
  out = [],
  onValue,
}: {
  branch: PassiveBranch;
  parts: PassivePart[];
  hue: string;
  chosen: string;
  choose: (name: string) => void;
  /** By step whether it is not there: bridged where it stands in series, open where it stands across. */
  out?: boolean[];
  /** A part was turned to another value, by dragging it up and down or by the arrow keys. */
  onValue?: (part: PassivePart, value: number) => void;
}) {
  const { own } = useTheme();
  const [held, setHeld] = useState<{ name: string; value: number } | null>(null);
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
      {held && (
        <text x={WIDE / 2} y={HIGH - 2} textAnchor="middle" fill={own.clayText} fontSize={12}>
          {sayOf(parts, held)}
        </text>
      )}
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
                  style={{ cursor: onValue ? 'ns-resize' : 'pointer' }}
                  onClick={() => choose(one.name)}
                  onKeyDown={(event) => {
                    if (event.key === 'Enter') choose(one.name);
                    const way = { ArrowUp: 1, ArrowDown: -1 }[event.key];
                    if (!way || !onValue) return;
                    event.preventDefault();
                    event.stopPropagation();
                    onValue(one, one.value * 2 ** ((way * (event.shiftKey ? 4 : 1)) / 12));
                  }}
                  onPointerDown={(event) => {
                    if (!onValue) return;
                    const from = event.clientY - event.currentTarget.ownerSVGElement!.getBoundingClientRect().top;
                    let value = one.value;
                    choose(one.name);
                    drag(
                      event,
                      (_px, py) => {
                        value = one.value * 2 ** ((from - py) / PER_OCTAVE);
                        setHeld({ name: one.name, value });
                      },
                      () => {
                        setHeld(null);
                        if (value !== one.value) onValue(one, value);
                      },
                    );
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

function sayOf(parts: PassivePart[], held: { name: string; value: number }): string {
  const part = parts.find((one) => one.name === held.name);
  return part ? `${part.name} ${plain(held.value * part.factor, 2)} ${part.unit}` : '';
}
