/** What pressing a step of the plan does in this window: it goes to the place, selects, and does or begins it. */
import { useEffect, useRef, useState } from 'react';
import { send } from '../api/client';
import type { Plan, RigPart, Stage, Step, StepChoice } from '../api/types';
import { fitWith, WHOLE } from '../stages/common/doing';
import { playBand } from '../stages/proof/image';
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
  /** Whether it cannot be pressed now: something sounds, or what was pressed is being done. */
  doing: boolean;
  /** Whether what is shown is how it stands: it is neither being done nor asked anew. */
  fresh: boolean;
  press: () => void;
  take: (choice: StepChoice, of?: Step) => void;
  leave: (step: Step, skipped: boolean) => Promise<unknown>;
  show: (step: Step) => void;
}

export function usePlanned(work: Work, go: (stage: Stage) => void): Planned {
  const { plan, next: step, old, leave } = usePlan(work);
  const { offered, propose, searching } = usePick('offered', 'propose', 'searching');
  const [acting, setActing] = useState(false);
  const waiting = useRef<string | null>(null);
  const aligning = step?.key === 'align' && offered !== null;
  const show = (one: Step) => {
    useWindow.getState().set(placeOf(one));
    if (one.stage !== work.stage) go(one.stage);
  };
  const take = (choice: StepChoice, of = step) => {
    if (!of) return;
    show(of);
    const { action, request } = choice;
    if (choice.skips) void once(leave(of, true));
    else if (action?.do === 'align') useWindow.getState().set({ propose: true });
    else if (action?.do === 'fit') void once(fitWith(work, action.channels[0] ?? '', action));
    else if (action?.do === 'listen') {
      useWindow.getState().set({ imageBand: { hz: action.hz, octaves: 1 } });
      playBand(work);
    } else if (request) void once(work.act(() => send(request)));
  };
  // Nothing is pressed twice: until the answer is there, the line still shows what was.
  const once = async (doing: Promise<unknown>) => {
    setActing(true);
    await doing;
    setActing(false);
  };
  const doing = acting || propose || searching || work.recording;
  const press = () => {
    if (!step || doing) return;
    if (old) waiting.current = step.key;
    else if (aligning) void once(work.commit(offered.edits, `Aligned: ${offered.title.toLowerCase()}`));
    else take(step.choices[0]);
  };
  // What is pressed while the plan is asked anew is done as soon as it is known that the step still stands.
  useEffect(() => {
    if (waiting.current === null || old) return;
    const stands = step?.key === waiting.current;
    waiting.current = null;
    if (stands) press();
  });
  return {
    plan,
    step,
    name: aligning ? 'Take the first proposal' : (step?.name ?? 'Nothing is left to do'),
    why: aligning ? offered.title : (step?.why ?? ended(work, plan)),
    does: aligning
      ? 'look at what it would do, rest on the others, and take it: one undo takes it back'
      : (step?.does ?? 'voice it to taste, listen, hand it over'),
    button: aligning ? 'Use it' : (step?.choices[0].name ?? ''),
    doing,
    fresh: !doing && !old,
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
    case 'handover':
      return { handoverPart: 'processor' as const };
    case 'seams':
      return { seam: WHOLE };
    case 'voice':
      return { selection: step.channel, band: null };
    case 'proof':
      return { proofChannels: null, proofTake: null, proofPart: step.part === 'image' ? 'image' : 'measure' } as const;
    default:
      return {};
  }
}

/** What the job came to: how the whole measures, and what was left out on the way. */
function ended(work: Work, plan: Plan | undefined): string {
  const { proof } = work.project.stages;
  const left = plan?.steps.filter((one) => one.state === 'skipped').map((one) => one.name.toLowerCase()) ?? [];
  return [
    proof === '—' ? 'the whole was not recorded' : `the whole ${proof} about the target`,
    ...(left.length ? [`left out: ${left.join(', ')}`] : []),
  ].join(' · ');
}
