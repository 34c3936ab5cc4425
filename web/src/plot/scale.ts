/** The shared frequency axis and what goes with it, in pixels. */

export const LOW = 20;
export const HIGH = 20000;
export const LEFT = 52;
export const RIGHT = 12;

const DECADES = Math.log10(HIGH / LOW);

export const toX = (hertz: number, width: number): number =>
  LEFT + (Math.log10(hertz / LOW) / DECADES) * (width - LEFT - RIGHT);
export const toHertz = (x: number, width: number): number =>
  Math.min(HIGH, Math.max(LOW, LOW * 10 ** (((x - LEFT) / (width - LEFT - RIGHT)) * DECADES)));

export const TICKS = [20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 20000];
export const FINE = [30, 40, 60, 70, 80, 90, 300, 400, 600, 700, 800, 900, 3000, 4000, 6000, 7000, 8000, 9000];
export const tickText = (hertz: number): string =>
  hertz === 20000 ? '20k Hz' : hertz >= 1000 ? `${hertz / 1000}k` : `${hertz}`;

/** Limits of a level axis that hold the top of what is shown: a height of 50 dB, in steps of 5. */
export function levelRange(curves: { values: ArrayLike<number> }[], height = 50): [number, number] {
  let top = -Infinity;
  for (const { values } of curves) for (let i = 0; i < values.length; i++) if (values[i] > top) top = values[i];
  if (!Number.isFinite(top)) return [50, 100];
  const high = Math.ceil((top + 3) / 5) * 5;
  return [high - height, high];
}
