import { describe, expect, it } from 'vitest';
import type { Project } from '../api/types';
import { belowOf, offered } from './below';
import { selectionOf, viewOf } from './view';
import { useWindow, type WindowState } from './window';

const project = {
  round: { turns: [{ channel: 'mid-l', state: 'waiting', take_id: null }], method: 'sweep' },
} as unknown as Project;

const looking = (values: Partial<WindowState> = {}): WindowState => ({ ...useWindow.getState(), ...values });

describe('what the server is asked to draw', () => {
  it('is the first driver of the round in Drivers until one is chosen, and nobody elsewhere', () => {
    expect(selectionOf('', 'drivers', project)).toBe('mid-l');
    expect(selectionOf('sub', 'drivers', project)).toBe('sub');
    expect(selectionOf('', 'voice', project)).toBe('');
    expect(selectionOf('', 'drivers', undefined)).toBe('');
  });

  it('names the take that belongs to the stage and to no other', () => {
    const takes = looking({ proofTake: 3, olderTake: 4, rawTake: 5, part: 'input' });
    expect(viewOf('proof', takes, project).take).toBe(3);
    expect(viewOf('drivers', takes, project).take).toBe(4);
    expect(viewOf('rig', takes, project).take).toBe(5);
    expect(viewOf('rig', { ...takes, part: 'device' }, project).take).toBeNull();
    expect(viewOf('seams', takes, project).take).toBeNull();
  });

  it('says which part of a stage is open', () => {
    expect(viewOf('rig', looking({ part: 'level' }), project).part).toBe('level');
    expect(viewOf('drivers', looking({ tab: 'impedance' }), project).part).toBe('impedance');
    expect(viewOf('drivers', looking({ tab: 'takes' }), project).part).toBe('');
    expect(viewOf('voice', looking({ part: 'level' }), project).part).toBe('');
  });

  it('carries spans, marks and limits as numbers or as nothing', () => {
    const view = viewOf('voice', looking({ span: [100, 200], rawShown: [1, 2], rawMarked: [3, 4], low: 50 }), project);
    expect([view.span_low_hz, view.span_high_hz]).toEqual([100, 200]);
    expect([view.raw_from, view.raw_to, view.mark_from, view.mark_to]).toEqual([1, 2, 3, 4]);
    expect([view.low_hz, view.high_hz]).toEqual([50, 16000]);
    expect(viewOf('voice', looking(), project).span_low_hz).toBeNull();
  });

  it('asks for no gate where a stage has no closer look', () => {
    expect(viewOf('handover', looking({ gate: 5 }), project).gate_ms).toBe(0);
    expect(viewOf('proof', looking({ gate: 5 }), project).gate_ms).toBe(5);
  });
});

describe('what can stand below', () => {
  it('is offered where it makes sense, the usual first', () => {
    expect(offered('drivers')[0]).toEqual({ value: '', text: 'Below: nothing' });
    expect(offered('handover')).toEqual([]);
    const values = (stage: 'seams' | 'voice' | 'proof') => offered(stage).map((one) => one.value);
    expect(values('seams')).not.toContain('difference');
    expect(values('seams')).toContain('angles');
    expect(values('voice')).not.toContain('angles');
    expect(values('proof')).not.toContain('angles');
  });

  it('falls back to the usual where a stage does not offer what was chosen', () => {
    expect(belowOf('drivers', 'difference')).toBe('difference');
    expect(belowOf('seams', 'difference')).toBe('');
    expect(belowOf('rig', 'phase')).toBe('');
  });

  it('says of every choice that it stands below', () => {
    for (const { text } of offered('drivers')) expect(text).toMatch(/^Below: /);
  });
});

describe('the state of a window', () => {
  it('begins with hints, in the dark, without a draft', () => {
    const now = useWindow.getState();
    expect([now.hints, now.mode, now.draft, now.linked, now.error]).toEqual([true, 'dark', [], true, null]);
  });

  it('changes only what is set', () => {
    const before = useWindow.getState();
    before.set({ selection: 'sub', band: 2 });
    const after = useWindow.getState();
    expect([after.selection, after.band]).toEqual(['sub', 2]);
    expect(after.zoom).toBe(before.zoom);
    expect(after.lens).toBe(before.lens);
    before.set({ selection: '', band: null });
  });
});
