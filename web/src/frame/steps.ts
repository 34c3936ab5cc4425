/** What pressing a step of the plan does in this window: it goes to the place, selects, and does or begins it. */
import { useState } from 'react';
import { send } from '../api/client';
import type { Plan, RigPart, Stage, Step, StepChoice } from '../api/types';
import { WHOLE } from '../stages/common/doing';
import { usePlan } from '../state/plan';
import type { Work } from '../state/project';
import { usePick, useWindow } from '../state/window';

/** The step that comes next, in the words of the line, and what can be done with it and with others. */
export interface Planned {
  plan: Plan | undefined;
  step: Step | undefined;
  name: string;
  why: string;
  does: string;
  button: string;
  /** Whether it cannot be pressed now: something sounds, or what is shown is about to change. */
  busy: boolean;
  press: () => void;
  take: (choice: StepChoice, of?: Step) => void;
  leave: (step: Step, skipped: boolean) => void;
  show: (step: Step) => void;
}

export function usePlanned(work: Work, go: (stage: Stage) => void): Planned {
  const { plan, next: step, old, leave } = usePlan(work);
  const { offered, propose, searching } = usePick('offered', 'propose', 'searching');
  const [acting, setActing] = useState(false);
  const aligning = step?.key === 'align' && offered !== null;
  const show = (one: Step) => {
    useWindow.getState().set(placeOf(one));
    if (one.stage !== work.stage) go(one.stage);
  };
  const take = (choice: StepChoice, of = step) => {
    if (!of) return;
    show(of);
    if (choice.skips) leave(of, true);
    else if (of.key === 'align' && choice.requests.length) useWindow.getState().set({ propose: true });
    else if (choice.requests.length)
      void once(
        work.act(async () => {
          let answer: unknown;
          for (const one of choice.requests) answer = await send(one);
          return answer;
        }),
      );
  };
  // Nothing is pressed twice: until the answer is there, the line still shows what was.
  const once = async (doing: Promise<unknown>) => {
    setActing(true);
    await doing;
    setActing(false);
  };
  const press = () => {
    if (!step || busy) return;
    if (aligning) void once(work.commit(offered.edits, `Aligned: ${offered.title.toLowerCase()}`));
    else take(step.choices[0]);
  };
  const busy = acting || old || propose || searching || work.recording;
  return {
    plan,
    step,
    name: aligning ? 'Take the first proposal' : (step?.name ?? 'Nothing is left to do'),
    why: aligning ? offered.title : (step?.why ?? `the whole ${work.project.stages.proof} about the target, stored`),
    does: aligning
      ? 'look at what it would do, rest on the others, and take it: one undo takes it back'
      : (step?.does ?? 'voice it to taste, listen, hand it over'),
    button: aligning ? 'Use it' : (step?.choices[0].name ?? ''),
    busy,
    press,
    take,
    leave,
    show,
  };
}

/** What has to be selected so that the place of a step is seen. */
function placeOf(step: Step) {
  switch (step.stage) {
    case 'rig':
      return { part: step.part as RigPart };
    case 'source':
      return { sourcePart: 'feeds' as const };
    case 'drivers':
      return { tab: 'record' as const, olderTake: null, ...(step.channel ? { selection: step.channel } : {}) };
    case 'seams':
      return { seam: WHOLE };
    case 'voice':
      return { selection: step.channel, band: null };
    case 'proof':
      return { proofChannels: null, proofTake: null };
    default:
      return {};
  }
}
