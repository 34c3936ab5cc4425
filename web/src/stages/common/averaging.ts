/** How spectra are averaged, as choices: seconds above zero, all at zero, a count and then held below. */

export const AVERAGES: { value: number; text: string }[] = [
  ...[0.3, 1, 3, 10].map((one) => ({ value: one, text: `over ${one} s` })),
  { value: 0, text: 'over all' },
  ...[10, 100].map((one) => ({ value: -one, text: `${one}, then hold` })),
];

export const WINDOWS: { value: string; text: string }[] = [
  { value: 'hann', text: 'Hann' },
  { value: 'blackmanharris', text: 'Blackman-Harris' },
  { value: 'flattop', text: 'Flat top' },
  { value: 'boxcar', text: 'Rectangular' },
];
