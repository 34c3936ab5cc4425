/** Bands at the mid-band frequencies of third octaves: another way to see and turn peaking bands. */
import type { Band, Edit } from '../../api/types';
import { qOf } from '../../state/width';
import { putBand } from './bands';

/** Nominal ones, ISO 266. */
export const THIRDS_HZ = [
  20, 25, 31.5, 40, 50, 63, 80, 100, 125, 160, 200, 250, 315, 400, 500, 630, 800, 1000, 1250, 1600, 2000, 2500, 3150,
  4000, 5000, 6300, 8000, 10000, 12500, 16000, 20000,
];
/** A third of an octave wide (common practice). */
export const THIRD_Q = Number(qOf(1 / 3).toFixed(2));

/** Whether a band is one of them: a processor rounds a little. */
const isThird = (one: Band, hz: number) =>
  one.kind === 'peaking' &&
  !one.off &&
  Math.abs(Math.log2(one.frequency_hz / hz)) < 0.01 &&
  Math.abs(one.q - THIRD_Q) < 0.05;

/** The gain at each of them, in dB, and how many bands are none of them. */
export function thirdsOf(bands: Band[]): { gains: number[]; others: number } {
  const gains = THIRDS_HZ.map((hz) => bands.find((one) => isThird(one, hz))?.gain_db ?? 0);
  const others = bands.filter((one) => !THIRDS_HZ.some((hz) => isThird(one, hz))).length;
  return { gains, others };
}

/** The edit that gives one of them a gain; at nought its band goes, and its room with it. */
export function setThird(selection: string, bands: Band[], hz: number, gain_db: number): Edit | null {
  const at = bands.findIndex((one) => isThird(one, hz));
  if (at < 0 && !gain_db) return null;
  const fresh: Band = { kind: 'peaking', frequency_hz: hz, gain_db, q: THIRD_Q, off: false };
  const index = at < 0 ? bands.length : at;
  return putBand(selection, index, gain_db ? { ...(bands[at] ?? fresh), gain_db } : null);
}
