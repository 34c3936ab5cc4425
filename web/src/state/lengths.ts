/** The units in which a path of sound, or the time that it takes, is told. */

/** Metres a second at 20 °C: the server says the same of a path. */
const SPEED = 343.2;

export type Length = 'mm' | 'cm' | 'in' | 'samples';
export const LENGTHS: Length[] = ['mm', 'cm', 'in', 'samples'];

interface Scale {
  /** So many of it are one metre. */
  perMetre: (rate: number) => number;
  digits: number;
  /** What an arrow key steps by; with Shift ten times as much. */
  step: (rate: number) => number;
}

const sample = (rate: number) => SPEED / rate;

export const SCALES: Record<Length, Scale> = {
  mm: { perMetre: () => 1e3, digits: 0, step: (rate) => sample(rate) * 1e3 },
  cm: { perMetre: () => 100, digits: 1, step: (rate) => sample(rate) * 100 },
  in: { perMetre: () => 1 / 0.0254, digits: 2, step: (rate) => sample(rate) / 0.0254 },
  samples: { perMetre: (rate) => rate / SPEED, digits: 0, step: () => 1 },
};

export const nextLength = (now: Length): Length => LENGTHS[(LENGTHS.indexOf(now) + 1) % LENGTHS.length];
