/** Figures as a tuner reads them: real minus signs, units always. */

export const signed = (value: number, digits = 1): string => {
  const text = Math.abs(value).toFixed(digits);
  return `${value < 0 && Number(text) !== 0 ? '−' : '+'}${text}`;
};
export const plain = (value: number, digits = 1): string => value.toFixed(digits).replace('-', '−');
export const hertz = (value: number): string =>
  value >= 1000
    ? `${(value / 1000).toFixed(value >= 9950 ? 1 : 2).replace(/\.?0+$/, '')} kHz`
    : `${Math.round(value)} Hz`;
export const short = (value: number): string =>
  value >= 1000 ? `${(value / 1000).toFixed(1).replace(/\.0$/, '')}k` : `${Math.round(value)}`;
/** A sentence of the server with real minus signs. */
export const minus = (text: string): string => text.replace(/(^|[\s(])-(?=\d)/g, '$1−');

/** The time of day of a moment; one that says no zone is meant as UTC. */
export const clock = (iso: string): string => {
  const moment = new Date(/(Z|[+-]\d\d:\d\d)$/.test(iso) ? iso : `${iso}Z`);
  return moment.toLocaleTimeString([], { hour: '2-digit', minute: '2-digit', hour12: false });
};

/** The step in which a level is moved: a tenth of a decibel, or what the processor keeps where that is coarser. */
export const stepOf = (range: { step: number }): number => Math.max(0.1, range.step);
