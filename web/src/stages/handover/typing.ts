/** Typing a tune into a device without a link: what is ticked off, by button or by key. */
import { client, settled } from '../../api/client';
import type { Change } from '../../api/types';
import type { Work } from '../../state/project';
import { pressed, type Action } from '../common/action';

/** Tick a setting off, take the last tick back, begin or end typing. */
export function typing({ slug, act }: Work) {
  const path = { params: { path: { slug } } };
  return {
    tick: ({ channel, what, after }: Change) =>
      void act(() =>
        settled(
          client.POST('/api/projects/{slug}/processor/by-hand/tick', { ...path, body: { channel, what, after } }),
        ),
      ),
    untick: () => void act(() => settled(client.POST('/api/projects/{slug}/processor/by-hand/untick', path))),
    begin: (as_sent: boolean) =>
      void act(() =>
        settled(client.PUT('/api/projects/{slug}/processor/by-hand', { ...path, body: { by_hand: true, as_sent } })),
      ),
    end: () =>
      void act(() =>
        settled(
          client.PUT('/api/projects/{slug}/processor/by-hand', { ...path, body: { by_hand: false, as_sent: false } }),
        ),
      ),
  };
}

export function typingActions(work: Work): Action[] {
  const { link } = work.project;
  if (work.stage !== 'handover' || !link.by_hand) return [];
  const { tick, untick } = typing(work);
  return [
    {
      id: 'typed',
      name: 'Typed: tick the setting off',
      key: 'T',
      match: pressed('t'),
      run: () => link.unsent.length > 0 && tick(link.unsent[0]),
    },
    {
      id: 'untyped',
      name: 'Take the last tick back',
      key: 'Backspace',
      match: (event) => event.key === 'Backspace',
      run: untick,
    },
  ];
}
