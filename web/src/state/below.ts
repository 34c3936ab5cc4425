/** What can stand under the main plot of each stage. */
import type { Below, Stage } from '../api/types';

const ALL: { value: Below; text: string }[] = [
  { value: 'phase', text: 'Below: phase' },
  { value: 'unwrapped', text: 'Below: unwrapped' },
  { value: 'group-delay', text: 'Below: group delay' },
  { value: 'minimum', text: 'Below: minimum phase' },
  { value: 'impulse', text: 'Below: impulse' },
  { value: 'envelope', text: 'Below: envelope' },
  { value: 'step', text: 'Below: step' },
  { value: 'waterfall', text: 'Below: decay' },
  { value: 'spectrogram', text: 'Below: spectrogram' },
  { value: 'distortion', text: 'Below: distortion' },
  { value: 'angles', text: 'Below: angles' },
  { value: 'difference', text: 'Below: differences' },
  { value: 'sides', text: 'Below: left less right' },
];
const USUAL: Partial<Record<Stage, string>> = {
  drivers: 'Below: nothing',
  seams: 'Below: between',
  voice: 'Below: correction',
  proof: 'Below: difference',
};
const NOT: Partial<Record<Stage, Below[]>> = {
  seams: ['difference'],
  voice: ['difference', 'angles'],
  proof: ['difference', 'angles'],
};

/** What a stage offers, what it usually shows first; nothing in a stage without closer looks. */
export const offered = (stage: Stage): { value: Below; text: string }[] => {
  const usual = USUAL[stage];
  return usual ? [{ value: '', text: usual }, ...ALL.filter((one) => !NOT[stage]?.includes(one.value))] : [];
};

/** What was chosen, where the stage offers it; else what it usually shows. */
export const belowOf = (stage: Stage, chosen: Below): Below =>
  offered(stage).some((one) => one.value === chosen) ? chosen : '';
