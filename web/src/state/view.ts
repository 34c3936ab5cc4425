/** What the server is asked to draw, from what this window looks at. */
import type { Project, Stage, View } from '../api/types';
import { belowOf, offered } from './below';
import type { WindowState } from './window';

/** The driver that is looked at: the one that was chosen, else in Drivers the first of the round. */
export const selectionOf = (chosen: string, stage: Stage, project?: Project): string =>
  chosen || (stage === 'drivers' ? (project?.round.turns[0]?.channel ?? '') : '');

const takeOf = (stage: Stage, now: WindowState): number | null => {
  if (stage === 'proof') return now.proofTake;
  if (stage === 'drivers') return now.olderTake;
  return stage === 'rig' && now.part === 'input' ? now.rawTake : null;
};

const sourcePartOf = (now: WindowState): string => {
  if (now.sourcePart === 'sum') return now.sourceSum;
  return now.sourcePart === 'feeds' && now.sourceInput ? `feeds-${now.sourceInput}` : now.sourcePart;
};

const partOf = (stage: Stage, now: WindowState): string => {
  if (stage === 'rig') return now.part;
  if (stage === 'handover') return now.fixed;
  if (stage === 'voice') return now.taps ? 'taps' : '';
  if (stage === 'source') return sourcePartOf(now);
  return stage === 'drivers' && (now.tab === 'impedance' || now.tab === 'passive') ? now.tab : '';
};

/** The view of a stage. */
export const viewOf = (stage: Stage, now: WindowState, project?: Project): View => ({
  stage,
  smoothing: now.smoothing,
  selection: selectionOf(now.selection, stage, project),
  seam: now.seam,
  take: takeOf(stage, now),
  compare: now.compare,
  before: now.before,
  ranged: offered(stage).length > 0 && now.ranged,
  part: partOf(stage, now),
  below: belowOf(stage, now.below),
  gate_ms: offered(stage).length ? now.gate : 0,
  lens: now.lens,
  span_low_hz: now.span?.[0] ?? null,
  span_high_hz: now.span?.[1] ?? null,
  pre_ms: stage === 'voice' && now.taps ? now.wish.pre_ms : 0,
  pre_db: stage === 'voice' && now.taps ? now.wish.pre_db : 0,
  raw_from: now.rawShown[0],
  raw_to: now.rawShown[1],
  mark_from: now.rawMarked[0],
  mark_to: now.rawMarked[1],
  low_hz: now.low,
  high_hz: now.high,
});
