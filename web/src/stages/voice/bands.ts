/** The bands of a channel, or those common to all. */
import type { Band, BandKind, Edit } from '../../api/types';
import type { Work } from '../../state/project';

export const KINDS: { value: BandKind; text: string }[] = [
  { value: 'peaking', text: 'Peaking' },
  { value: 'low_shelf', text: 'Low shelf' },
  { value: 'high_shelf', text: 'High shelf' },
  { value: 'notch', text: 'Notch' },
  { value: 'all_pass', text: 'All-pass' },
  { value: 'all_pass_1', text: 'All-pass, first order' },
];
/** Whether a band's gain says what it does. */
export const hasGain = ({ kind }: Band) => kind !== 'notch' && kind !== 'all_pass' && kind !== 'all_pass_1';

export const bandsOf = (work: Work, selection: string): Band[] =>
  selection ? work.tune.channels[selection].bands : work.tune.common;
export const putBand = (selection: string, index: number, band: Band | null): Edit => ({
  do: 'band',
  channel: selection || null,
  index,
  band,
});
