import { afterEach, describe, expect, it, vi } from 'vitest';
import type { Edit, Picture, Project } from '../api/types';
import { follow } from './drawn';
import { viewOf } from './view';
import { NO_DRAFT, useWindow } from './window';

const project = { revision: { id: 7 }, round: { turns: [] } } as unknown as Project;
const { set } = useWindow.getState();
const picture = (values: Partial<Picture> = {}): Picture =>
  ({ revision: 7, draft: false, view: viewOf('voice', useWindow.getState(), project), ...values }) as Picture;

describe('what a window asks for', () => {
  afterEach(() => set({ selection: '', picture: null, draft: NO_DRAFT }));

  it('is asked once, and anew where something of it changes', () => {
    const ask = vi.fn();
    const { leave } = follow(project, 'voice', { ask, changed: () => undefined });
    expect(ask).toHaveBeenCalledTimes(1);
    set({ hints: false });
    set({ picture: picture() });
    expect(ask).toHaveBeenCalledTimes(1);
    set({ selection: 'sub' });
    expect(ask.mock.lastCall?.[0]).toMatchObject({ stage: 'voice', selection: 'sub' });
    const draft = [{ do: 'solo', channel: 'sub' }] as Edit[];
    set({ draft });
    expect(ask.mock.lastCall?.[1]).toBe(draft);
    set({ draft: [...draft] }); // a drag goes on: other edits, asked anew
    set({ draft: NO_DRAFT });
    expect(ask).toHaveBeenCalledTimes(5);
    leave();
    set({ selection: 'mid-l' });
    expect(ask).toHaveBeenCalledTimes(5);
  });

  it('is drawn when its picture of what is kept is there', () => {
    const changed = vi.fn();
    const { drawn, leave } = follow(project, 'voice', { ask: () => undefined, changed });
    expect(drawn()).toBe(false);
    set({ picture: picture({ revision: 6 }) });
    expect(drawn()).toBe(false);
    set({ picture: picture({ draft: true }) });
    expect(drawn()).toBe(false);
    set({ picture: picture() });
    expect(drawn()).toBe(true);
    set({ draft: [{ do: 'solo', channel: 'sub' }] as Edit[] });
    expect(drawn()).toBe(false);
    set({ draft: NO_DRAFT, selection: 'sub' }); // the picture is still that of nobody
    expect(drawn()).toBe(false);
    expect(changed.mock.calls.length).toBeGreaterThan(5);
    leave();
  });
});
