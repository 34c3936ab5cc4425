/** The stages that exist, in the order of the work. */
import type { Stage } from '../api/types';

export const STAGE_LIST: { id: Stage; name: string }[] = [
  { id: 'rig', name: 'Rig' },
  { id: 'drivers', name: 'Drivers' },
  { id: 'seams', name: 'Seams' },
  { id: 'voice', name: 'Voice' },
  { id: 'proof', name: 'Proof' },
  { id: 'handover', name: 'Handover' },
];
