/** The units in which a path of sound, or the time that it takes, is told. */

export type Length = 'mm' | 'cm' | 'in' | 'samples';
export const LENGTHS: Length[] = ['mm', 'cm', 'in', 'samples'];
export const DIGITS: Record<Length, number> = { mm: 0, cm: 1, in: 2, samples: 0 };

/** Millimetres in one of a unit; how far sound comes in a sample is known to the server. */
export const millimetres = (unit: Length, sample_mm: number): number =>
  ({ mm: 1, cm: 10, in: 25.4, samples: sample_mm })[unit];

export const nextLength = (now: Length): Length => LENGTHS[(LENGTHS.indexOf(now) + 1) % LENGTHS.length];
