/** Points of the target: moved by keys, kept a third of an octave apart. */
import type { Bend } from '../../api/types';

const APART = 2 ** (1 / 3);
const MOST = 24;

/** The point after a key, or null for a key that moves nothing. */
export function moved(one: Bend, key: string, coarse: boolean): Bend | null {
  const octave = 2 ** (coarse ? 1 / 3 : 1 / 24);
  const level = coarse ? 1 : 0.1;
  switch (key) {
    case 'ArrowLeft':
      return { ...one, frequency_hz: one.frequency_hz / octave };
    case 'ArrowRight':
      return { ...one, frequency_hz: one.frequency_hz * octave };
    case 'ArrowUp':
      return { ...one, level_db: Math.round((one.level_db + level) * 10) / 10 };
    case 'ArrowDown':
      return { ...one, level_db: Math.round((one.level_db - level) * 10) / 10 };
    default:
      return null;
  }
}

/** A point in the place of the n-th, no nearer to its neighbours than they may be. */
export function clampBend(bends: Bend[], n: number, wanted: Bend): Bend {
  const others = bends.filter((_one, at) => at !== n).map((one) => one.frequency_hz);
  const was = bends[n].frequency_hz;
  const least = Math.max(20, ...others.filter((one) => one < was).map((one) => one * APART));
  const most = Math.min(20000, ...others.filter((one) => one > was).map((one) => one / APART));
  return {
    frequency_hz: Math.min(Math.max(wanted.frequency_hz, least), most),
    level_db: Math.min(Math.max(wanted.level_db, -MOST), MOST),
  };
}
