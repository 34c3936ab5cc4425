/** How high and low the plot of a closer look reaches. */
import type { Below, Lens } from '../../api/types';
import type { Line } from '../../plot/parts';

const FIXED: Partial<Record<Below, [number, number]>> = {
  phase: [-180, 180],
  minimum: [-180, 180],
  envelope: [-60, 3],
  impulse: [-105, 105],
  step: [-105, 105],
};

const known = (lines: Line[]): number[] => lines.flatMap((line) => Array.from(line.values).filter(Number.isFinite));

/** Limits of harmonics in the unit they are drawn in. */
function ofDistortion(lines: Line[], unit: Lens['unit']): [number, number] {
  if (unit === 'db') return [-90, -10];
  const all = known(lines.filter((line) => line.label));
  const top = all.length ? Math.max(...all) : 1;
  if (unit === 'percent') return [0, Math.max(0.5, Math.ceil(top * 11) / 10)];
  return [Math.ceil(top / 10) * 10 - 100, Math.ceil((top + 2) / 10) * 10];
}

/** Limits that hold what a closer look shows, a few stray points aside. */
export function rangeOf(below: Below, lines: Line[], unit: Lens['unit']): [number, number] {
  const fixed = FIXED[below];
  if (fixed) return fixed;
  if (below === 'distortion') return ofDistortion(lines, unit);
  const all = known(lines).sort((a, b) => a - b);
  const pick = (share: number) => all[Math.floor(share * (all.length - 1))] ?? 0;
  const [low, high] = [pick(0.04), pick(0.96)];
  if (below === 'difference' || below === 'sides')
    return [Math.min(-3, Math.floor(low - 1)), Math.max(3, Math.ceil(high + 1))];
  const pad = Math.max((high - low) * 0.15, below === 'group-delay' ? 0.5 : 45);
  return [Math.floor(low - pad), Math.ceil(high + pad)];
}

/** A step that is 1, 2, 5 or 10 times a power of ten and no smaller than the one wanted. */
export const nice = (wanted: number): number => {
  const base = 10 ** Math.floor(Math.log10(wanted));
  return base * ([1, 2, 5].find((one) => base * one >= wanted) ?? 10);
};
