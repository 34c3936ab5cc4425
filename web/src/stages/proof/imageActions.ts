/** Keys of the image, to be hit in the dark: they go before those of the stage. */
import type { Image } from '../../api/types';
import type { Work } from '../../state/project';
import { useWindow } from '../../state/window';
import { pressed, type Action } from '../common/action';
import { asListener, imageKey, keepAnswer, moveMark, playBand, playOn, splitMark, stepBand, stopBand } from './image';
import { useQueryClient } from '@tanstack/react-query';

export function useImageActions(work: Work): Action[] {
  const queries = useQueryClient();
  const part = useWindow((state) => state.proofPart);
  if (work.stage !== 'proof' || part !== 'image') return [];
  const { set } = useWindow.getState();
  const image = () => queries.getQueryData<Image>(imageKey(work));
  return [
    {
      id: 'image-play',
      name: 'Play the band, or stop it',
      key: 'Space',
      match: pressed(' '),
      run: () => (work.recording ? stopBand(work) : playBand(work)),
    },
    {
      id: 'image-left',
      name: 'The sound stands farther left (Shift: a little)',
      key: '←',
      match: pressed('arrowleft'),
      run: (e) => moveMark(-1, Boolean(e?.shiftKey)),
    },
    {
      id: 'image-right',
      name: 'The sound stands farther right (Shift: a little)',
      key: '→',
      match: pressed('arrowright'),
      run: (e) => moveMark(1, Boolean(e?.shiftKey)),
    },
    {
      id: 'image-keep',
      name: 'Keep where it stands, next band',
      key: 'Enter, playing',
      // In silence Enter does the next step, as it does everywhere.
      match: (e) =>
        e.key === 'Enter' &&
        useWindow.getState().imageOn &&
        !(e.target as HTMLElement).closest('button, a, [role="button"], [tabindex]'),
      run: () => keepAnswer(work),
    },
    { id: 'image-split', name: 'The sound falls in two', key: 'X', match: pressed('x'), run: splitMark },
    {
      id: 'image-up',
      name: 'Higher band',
      key: '↑',
      match: pressed('arrowup'),
      run: () => playOn(work, () => stepBand(image(), 1)),
    },
    {
      id: 'image-down',
      name: 'Lower band',
      key: '↓',
      match: pressed('arrowdown'),
      run: () => playOn(work, () => stepBand(image(), -1)),
    },
    { id: 'image-from-left', name: 'From the left alone', key: 'L', match: pressed('l'), run: () => from('left') },
    { id: 'image-from-right', name: 'From the right alone', key: 'R', match: pressed('r'), run: () => from('right') },
    { id: 'image-from-both', name: 'From both sides', key: 'C', match: pressed('c'), run: () => from('both') },
    {
      id: 'image-far',
      name: 'It stands far off',
      key: 'F',
      match: pressed('f'),
      run: () => set({ imageFar: !useWindow.getState().imageFar }),
    },
    {
      id: 'image-high',
      name: 'It stands high',
      key: 'H',
      match: pressed('h'),
      run: () => set({ imageHigh: !useWindow.getState().imageHigh }),
    },
    { id: 'image-listener', name: 'As the stand-in hears it', key: 'A', match: pressed('a'), run: asListener },
  ];

  function from(side: 'both' | 'left' | 'right') {
    playBand(work, side);
  }
}
