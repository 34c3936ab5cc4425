/** What can be done by key or by name, for the selection and the stage. */
import { useEffect, useLayoutEffect, useRef } from 'react';
import { client, settled } from '../api/client';
import type { Stage } from '../api/types';
import { atWhole, fitSelection, inARow, recordForStage } from '../stages/common/doing';
import { STAGE_LIST } from '../stages/list';
import { back, fit } from '../plot/zoom';
import { useWindow } from '../state/window';
import type { Work } from '../state/project';
import { stepOf } from '../ui/format';
import { pressed, type Action } from '../stages/common/action';
import { useImageActions } from '../stages/proof/imageActions';
import { typingActions } from '../stages/handover/typing';
import { useListenActions } from '../stages/proof/listenActions';

/** What is laid over the page. */
export type Sheet = 'keys' | 'journal' | 'finder' | 'unsent' | 'system' | 'plan' | null;

export function useActions(
  work: Work,
  selection: string,
  go: (stage: Stage) => void,
  open: (sheet: Sheet) => void,
  press: () => void,
): Action[] {
  const { project, tune, stage, commit, act, undo, redo, recording, slug, stop } = work;
  const { set } = useWindow.getState();
  const path = { params: { path: { slug } } };
  const channel = selection ? tune.channels[selection] : null;
  const change = (values: { inverted?: boolean; muted?: boolean }) => {
    if (selection) void commit([{ do: 'channel', channel: selection, ...values }]);
  };
  // Steps are relative: keys that repeat faster than the server answers add up, and so do those of two windows.
  const step = (values: { gain_db?: number; delay_s?: number; octaves?: number }) => {
    if (selection) void commit([{ do: 'step', channel: selection, gain_db: 0, delay_s: 0, octaves: 0, ...values }]);
  };
  const delay = (samples: number) => {
    const delay_s = samples / project.link.limits.rate;
    if (stage === 'seams' && !atWhole()) void commit([{ do: 'step-seam', seam: useWindow.getState().seam, delay_s }]);
    else step({ delay_s });
  };
  const gainStep = stepOf(project.link.limits.gain_db);
  const next = () => {
    const ids = project.layout.drivers.map((d) => d.id);
    if (stage === 'seams') {
      const all = project.seams.map((s) => s.id);
      set({ seam: all[(all.indexOf(useWindow.getState().seam) + 1) % all.length] });
    } else if (stage === 'drivers') {
      const order = project.round.turns;
      const at = order.findIndex((one) => one.channel === selection);
      const after = [...order.slice(at + 1), ...order.slice(0, at + 1)];
      set({ selection: (after.find((one) => one.state !== 'skipped') ?? after[0]).channel, olderTake: null });
    } else set({ selection: ids[(ids.indexOf(selection) + 1) % ids.length], band: null });
  };
  const image = useImageActions(work);
  const listen = useListenActions(work);
  const list: Action[] = [
    ...image,
    ...listen,
    ...typingActions(work),
    {
      id: 'record',
      name: recording ? 'Stop the recording' : 'Record',
      key: 'Space',
      match: pressed(' '),
      run: () => (recording ? stop() : recordForStage(work, selection)),
    },
    {
      id: 'in-a-row',
      name: 'Record the drivers that wait, one after another',
      key: '',
      match: () => false,
      run: () => {
        if (recording || project.link.by_hand) return;
        go('drivers');
        inARow(work);
      },
    },
    { id: 'next', name: stage === 'seams' ? 'Next seam' : 'Next driver', key: 'N', match: pressed('n'), run: next },
    {
      id: 'step',
      name: 'Do the next step',
      key: 'Enter',
      // Enter on a button presses that button.
      match: (e) => e.key === 'Enter' && !(e.target as HTMLElement).closest('button, a, [role="button"], [tabindex]'),
      run: press,
    },
    { id: 'plan', name: 'Plan of the job', key: 'G', match: pressed('g'), run: () => open('plan') },
    {
      id: 'solo',
      name: 'Solo the selection',
      key: 'S',
      match: pressed('s'),
      run: () => {
        if (selection) void commit([{ do: 'solo', channel: tune.solo === selection ? null : selection }]);
      },
    },
    {
      id: 'mute',
      name: 'Mute the selection',
      key: 'M',
      match: pressed('m'),
      run: () => channel && change({ muted: !channel.muted }),
    },
    {
      id: 'polarity',
      name: stage === 'seams' ? 'Turn the polarity at the seam' : 'Turn the polarity',
      key: 'P',
      match: pressed('p'),
      run: () => {
        const facts = useWindow.getState().picture?.facts;
        if (stage === 'seams' && !atWhole())
          void commit([{ do: 'seam', seam: useWindow.getState().seam, invert: !facts?.inverted }]);
        else if (channel) change({ inverted: !channel.inverted });
      },
    },
    {
      id: 'earlier',
      name: 'Earlier (Shift: ten steps)',
      key: ',',
      match: (e) => e.key === ',' || e.key === ';',
      run: (e) => delay(e?.shiftKey ? -10 : -1),
    },
    {
      id: 'later',
      name: 'Later (Shift: ten steps)',
      key: '.',
      match: (e) => e.key === '.' || e.key === ':',
      run: (e) => delay(e?.shiftKey ? 10 : 1),
    },
    {
      id: 'lower',
      name: 'Corner lower (Shift: coarse)',
      key: '[',
      match: (e) => e.key === '[' || e.key === '{',
      run: (e) => step({ octaves: e?.shiftKey ? -1 / 6 : -1 / 48 }),
    },
    {
      id: 'higher',
      name: 'Corner higher (Shift: coarse)',
      key: ']',
      match: (e) => e.key === ']' || e.key === '}',
      run: (e) => step({ octaves: e?.shiftKey ? 1 / 6 : 1 / 48 }),
    },
    {
      id: 'louder',
      name: 'Gain up (Shift: 1 dB)',
      key: '↑',
      match: pressed('arrowup'),
      run: (e) => step({ gain_db: gainStep * (e?.shiftKey ? 10 : 1) }),
    },
    {
      id: 'softer',
      name: 'Gain down (Shift: 1 dB)',
      key: '↓',
      match: pressed('arrowdown'),
      run: (e) => step({ gain_db: -gainStep * (e?.shiftKey ? 10 : 1) }),
    },
    {
      id: 'fit',
      name: 'Fit the selection to the target',
      key: 'F',
      match: pressed('f'),
      run: () => stage === 'voice' && void fitSelection(work, selection),
    },
    {
      id: 'before',
      name: 'Before and after',
      key: 'B',
      match: pressed('b'),
      run: () => set({ before: !useWindow.getState().before }),
    },
    {
      id: 'range',
      name: 'Range of all takes and places about the curves',
      key: 'V',
      match: pressed('v'),
      run: () => set({ ranged: !useWindow.getState().ranged }),
    },
    { id: 'fit-view', name: 'Fit the axes', key: 'Home', match: pressed('home'), run: fit },
    { id: 'back-view', name: 'Back to the axes before', key: 'End', match: pressed('end'), run: back },
    {
      id: 'undo',
      name: 'Undo',
      key: 'Ctrl Z',
      match: (e) => (e.ctrlKey || e.metaKey) && !e.shiftKey && e.key.toLowerCase() === 'z',
      run: undo,
    },
    {
      id: 'redo',
      name: 'Redo',
      key: 'Ctrl Shift Z',
      match: (e) => (e.ctrlKey || e.metaKey) && e.shiftKey && e.key.toLowerCase() === 'z',
      run: redo,
    },
    {
      id: 'send',
      name: 'Send to the processor',
      key: '',
      match: () => false,
      run: () => void act(() => settled(client.POST('/api/projects/{slug}/processor/send', path))),
    },
    {
      id: 'discard',
      name: 'Discard the last take',
      key: 'Backspace',
      match: pressed('backspace'),
      run: () => {
        // What was just kept may not be in the project's state yet: it is the last one all the same.
        const { progress } = useWindow.getState();
        const fresh = progress?.stage === 'kept' && progress.purpose === 'driver' ? progress.take_id : null;
        const known = project.takes.find((one) => one.id === fresh);
        const last =
          fresh !== null && !known?.discarded
            ? fresh
            : project.takes.find((one) => one.purpose === 'driver' && !one.discarded)?.id;
        if (stage === 'drivers' && last)
          void act(() =>
            settled(
              client.PUT('/api/projects/{slug}/takes/{take_id}/discarded', {
                params: { path: { slug, take_id: last } },
                body: { discarded: true },
              }),
            ),
          );
      },
    },
    {
      id: 'redo-take',
      name: 'Redo the last take',
      key: 'R',
      match: pressed('r'),
      run: () => {
        const last = project.takes.find((one) => one.purpose === 'driver');
        if (stage !== 'drivers' || !last || recording) return;
        set({ selection: last.channels[0] });
        recordForStage(work, last.channels[0]);
      },
    },
    {
      id: 'input',
      name: 'Look at any input',
      key: '',
      match: () => false,
      run: () => {
        set({ part: 'input' });
        go('rig');
      },
    },
    {
      id: 'impedance',
      name: 'Impedance of the selection',
      key: '',
      match: () => false,
      run: () => {
        set({ tab: 'impedance' });
        go('drivers');
      },
    },
    { id: 'system', name: 'Projects and system', key: '', match: () => false, run: () => open('system') },
    { id: 'journal', name: 'Journal and revisions', key: '', match: () => false, run: () => open('journal') },
    {
      id: 'finder',
      name: 'Find an action',
      key: 'Ctrl K',
      match: (e) => (e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'k',
      run: () => open('finder'),
    },
    { id: 'keys', name: 'Show the keys', key: '?', match: (e) => e.key === '?', run: () => open('keys') },
    ...STAGE_LIST.map((one) => ({
      id: one.id,
      name: `Go to ${one.name}`,
      key: one.key,
      match: pressed(one.key),
      run: () => go(one.id),
    })),
  ];
  const latest = useRef(list);
  // With what is shown, not after it: a key that comes at once must not meet what was.
  useLayoutEffect(() => {
    latest.current = list;
  });
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (target.closest('input, textarea, [contenteditable]')) return;
      if (target.closest('[role="dialog"], [role="listbox"], [role="menu"]')) return;
      if (event.key.startsWith('Arrow') && target.closest('[role="slider"], [role="combobox"], [role="radiogroup"]'))
        return;
      const action = latest.current.find((one) => one.match(event));
      if (!action) return;
      event.preventDefault();
      action.run(event);
    };
    const stopClick = (event: KeyboardEvent) => {
      // Space is for sound, whatever has the focus: a focused button must not be pressed by it as well.
      const target = event.target as HTMLElement;
      if (event.key === ' ' && !target.closest('input, textarea, [role="dialog"], [role="listbox"], [role="menu"]'))
        event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    window.addEventListener('keyup', stopClick, true);
    return () => {
      window.removeEventListener('keydown', onKey);
      window.removeEventListener('keyup', stopClick, true);
    };
  }, []);
  return list;
}
