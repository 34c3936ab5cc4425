/** The shared frequency axis and what goes with it, in pixels. All plots and the band strip stand on it. */

export const LOW = 20;
export const HIGH = 20000;
export const LEFT = 52;
export const RIGHT = 12;

/** The stretch that is shown; changed through the store's `axis` only, so that everything on it is drawn anew. */
const shown = { low: LOW, high: HIGH };
export const axisNow = (): [number, number] => [shown.low, shown.high];
export function setAxis(low: number, high: number) {
  shown.low = low;
  shown.high = high;
}

export const toX = (hertz: number, width: number): number =>
  LEFT + (Math.log(hertz / shown.low) / Math.log(shown.high / shown.low)) * (width - LEFT - RIGHT);
export const toHertz = (x: number, width: number): number =>
  Math.min(HIGH, Math.max(LOW, shown.low * (shown.high / shown.low) ** ((x - LEFT) / (width - LEFT - RIGHT))));

export const TICKS = [20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 20000];
export const FINE = [30, 40, 60, 70, 80, 90, 300, 400, 600, 700, 800, 900, 3000, 4000, 6000, 7000, 8000, 9000];
/** The ticks that are named: more of them where less is shown. */
export const ticksNow = (): number[] => {
  const all =
    shown.high / shown.low < 60 ? [...TICKS, ...FINE, 150, 250, 1500, 2500, 15000].sort((a, b) => a - b) : TICKS;
  return all.filter((hertz) => hertz >= shown.low * 0.999 && hertz <= shown.high * 1.001);
};
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
