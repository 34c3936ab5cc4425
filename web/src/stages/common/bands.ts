/** What bands there are, wherever they stand. */
import type { Band, BandKind } from '../../api/types';

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
