/** What can stand under the main plot of each stage. */
import type { Below, Stage } from '../api/types';

const ALL: { value: Below; text: string }[] = [
  { value: 'phase', text: 'phase' }, { value: 'unwrapped', text: 'phase, unwrapped' }, { value: 'group-delay', text: 'group delay' },
  { value: 'minimum', text: 'minimum, excess phase' }, { value: 'impulse', text: 'impulse' }, { value: 'envelope', text: 'envelope' }, { value: 'step', text: 'step' },
  { value: 'waterfall', text: 'decay, later on' }, { value: 'spectrogram', text: 'decay, spectrogram' }, { value: 'distortion', text: 'distortion' },
  { value: 'angles', text: 'angles' }, { value: 'difference', text: 'takes, difference' },
];
const USUAL: Partial<Record<Stage, string>> = { drivers: 'nothing below', seams: 'phase between', voice: 'correction', proof: 'difference' };
const NOT: Partial<Record<Stage, Below[]>> = { seams: ['difference'], voice: ['difference', 'angles'], proof: ['difference', 'angles'] };

/** What a stage offers, what it usually shows first; nothing in a stage without closer looks. */
export const offered = (stage: Stage): { value: Below; text: string }[] => {
  const usual = USUAL[stage];
  return usual ? [{ value: '', text: usual }, ...ALL.filter((one) => !NOT[stage]?.includes(one.value))] : [];
};

/** What was chosen, where the stage offers it; else what it usually shows. */
export const belowOf = (stage: Stage, chosen: Below): Below => (offered(stage).some((one) => one.value === chosen) ? chosen : '');
