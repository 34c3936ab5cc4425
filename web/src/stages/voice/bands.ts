/** The bands of a channel, or those common to all. */
import type { Band, Edit } from '../../api/types';
import type { Work } from '../../state/project';

export const bandsOf = (work: Work, selection: string): Band[] =>
  selection ? work.tune.channels[selection].bands : work.tune.common;
export const putBand = (selection: string, index: number, band: Band | null): Edit => ({
  do: 'band',
  channel: selection || null,
  index,
  band,
});
