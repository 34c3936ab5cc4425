/** The stages, in the order of the work. */
import type { Stage } from '../api/types';

export const STAGE_LIST: { id: Stage; name: string; key: string }[] = [
  { id: 'rig', name: 'Rig', key: '1' },
  { id: 'source', name: 'Source', key: '2' },
  { id: 'drivers', name: 'Drivers', key: '3' },
  { id: 'seams', name: 'Seams', key: '4' },
  { id: 'voice', name: 'Voice', key: '5' },
  { id: 'proof', name: 'Proof', key: '6' },
  { id: 'handover', name: 'Handover', key: '7' },
];
