import { expect, test } from 'vitest';
import type { Progress } from '../api/types';
import { goesOn } from './socket';

const playing = {
  kind: 'take',
  stage: 'playing',
  channels: ['sub'],
  meters: [],
  done: 0.1,
  result: null,
  version: 3,
} as unknown as Progress;

test('a job goes on while its figures alone change', () => {
  expect(goesOn(playing, { ...playing, channels: ['sub'], done: 0.4, version: 9 })).toBe(true);
  expect(goesOn(playing, { ...playing, stage: 'computing' })).toBe(false);
  expect(goesOn(playing, { ...playing, channels: ['mid-l'] })).toBe(false);
  expect(goesOn(playing, { ...playing, result: { ear: 'Sub' } as Progress['result'] })).toBe(false);
  expect(goesOn(null, playing)).toBe(false);
});

test('what the analyser finds is new with every frame, and its end is not', () => {
  const live = { ...playing, kind: 'live' } as Progress;
  const found = { ear: 'Sub' } as Progress['result'];
  expect(goesOn(live, { ...live, result: found })).toBe(true);
  expect(goesOn(live, { ...live, stage: 'done', result: found })).toBe(false);
});
