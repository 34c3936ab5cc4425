/** Keys of listening, to be hit in the dark: they go before those of the stage. */
import { useQueryClient } from '@tanstack/react-query';
import type { Audition } from '../../api/types';
import type { Work } from '../../state/project';
import { useWindow } from '../../state/window';
import { pressed, type Action } from '../common/action';
import { hear, listenKey, playMusic, sayX } from './listen';

export function useListenActions(work: Work): Action[] {
  const queries = useQueryClient();
  const part = useWindow((state) => state.proofPart);
  if (work.stage !== 'proof' || part !== 'listen') return [];
  const blind = () => Boolean(queries.getQueryData<Audition>(listenKey(work))?.blind);
  return [
    {
      id: 'listen-play',
      name: 'Play the music, or stop it',
      key: 'Space',
      match: pressed(' '),
      run: () => (work.recording ? work.stop() : playMusic(work)),
    },
    { id: 'listen-a', name: 'Hear A', key: 'A', match: pressed('a'), run: () => hear(work, 'a') },
    { id: 'listen-b', name: 'Hear B', key: 'B', match: pressed('b'), run: () => hear(work, 'b') },
    { id: 'listen-x', name: 'Hear X', key: 'X', match: pressed('x'), run: () => blind() && hear(work, 'x') },
    {
      id: 'listen-x-is-a',
      name: 'X is A',
      key: '←',
      match: pressed('arrowleft'),
      run: () => blind() && sayX(work, 'a'),
    },
    {
      id: 'listen-x-is-b',
      name: 'X is B',
      key: '→',
      match: pressed('arrowright'),
      run: () => blind() && sayX(work, 'b'),
    },
  ];
}
