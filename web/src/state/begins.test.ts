import { afterEach, describe, expect, it } from 'vitest';
import type { Edit, Picture, Project } from '../api/types';
import { begin } from './begins';
import { viewOf } from './view';
import { NO_DRAFT, useWindow } from './window';

const project = { revision: { id: 7 }, round: { turns: [{ channel: 'mid-l' }] } } as unknown as Project;
const { set } = useWindow.getState();
const kept = (values: Partial<Picture> = {}): Picture =>
  ({ revision: 7, view: viewOf('drivers', useWindow.getState(), project), ...values }) as Picture;
const shown = () => useWindow.getState().picture;

describe('what a page begins with', () => {
  afterEach(() => set({ selection: '', picture: null, draft: NO_DRAFT }));

  it('is the kept picture of what is looked at', () => {
    begin(kept({ seq: 4 }), project, 'drivers');
    expect(shown()).toMatchObject({ seq: 0, revision: 7, view: { selection: 'mid-l' } });
  });

  it('is no picture of anything else', () => {
    const first = kept();
    begin(first, project, 'voice');
    begin(kept({ revision: 6 }), project, 'drivers');
    set({ selection: 'sub' });
    begin(first, project, 'drivers');
    set({ selection: '', draft: [{ do: 'solo', channel: 'sub' }] as Edit[] });
    begin(first, project, 'drivers');
    expect(shown()).toBeNull();
  });

  it('does not take the place of what has come', () => {
    const come = kept({ seq: 1 });
    set({ picture: come });
    begin(kept(), project, 'drivers');
    expect(shown()).toBe(come);
  });
});
