/** How wide a band is, told as its Q or in octaves between the points where half of its gain in dB is left. */

export type Width = 'Q' | 'octaves';

/** Octaves of a bell of some Q (closed form): its edges lie at f / r and f r with r - 1 / r = 1 / Q. */
export const octavesOf = (q: number): number => (2 / Math.LN2) * Math.asinh(1 / (2 * q));

export const qOf = (octaves: number): number => 1 / (2 * Math.sinh((Math.LN2 / 2) * octaves));
