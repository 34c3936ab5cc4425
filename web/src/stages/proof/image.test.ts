import { beforeEach, describe, expect, it } from 'vitest';
import type { Image, Progress } from '../../api/types';
import { hertz } from '../../ui/format';
import { useWindow } from '../../state/window';
import { asListener, bandsLike, moveMark, nextBand, split, splitMark, stepBand } from './image';

const image = (heard: number[]): Image => ({
  bands: [125, 250, 500].map((hz) => ({
    hz,
    octaves: 1,
    state: heard.includes(hz) ? 'heard' : 'unheard',
    stands: null,
    was: null,
  })),
  mendings: [],
  thirds_hz: [100, 125],
  listener: true,
});
const marks = () => useWindow.getState().imageMarks;

beforeEach(() => useWindow.getState().set({ imageMarks: [0, 0], imageBand: { hz: 125, octaves: 1 } }));

describe('which band comes next', () => {
  it('is the first after this one that nobody heard', () => {
    expect(nextBand(image([125, 250]), { hz: 125, octaves: 1 }).hz).toBe(500);
    expect(nextBand(image([500]), { hz: 500, octaves: 1 }).hz).toBe(125);
  });
  it('is the one above where all were heard', () => {
    expect(nextBand(image([125, 250, 500]), { hz: 250, octaves: 1 }).hz).toBe(500);
  });
  it('stays among thirds of an octave', () => {
    expect(bandsLike(image([]), 1 / 3).map((one) => one.hz)).toEqual([100, 125]);
    expect(nextBand(image([]), { hz: 125, octaves: 1 / 3 })).toEqual({ hz: 100, octaves: 1 / 3 });
  });
  it('is stepped round', () => {
    stepBand(image([]), -1);
    expect(useWindow.getState().imageBand.hz).toBe(500);
    stepBand(undefined, 1);
    expect(useWindow.getState().imageBand.hz).toBe(500);
  });
  it('is named as a person says it', () => {
    expect([hertz(125), hertz(4000)]).toEqual(['125 Hz', '4 kHz']);
  });
});

describe('the mark', () => {
  it('moves by steps, and by small ones', () => {
    moveMark(1, false);
    moveMark(1, true);
    expect(marks()).toEqual([0.12, 0.12]);
  });
  it('ends at the loudspeakers', () => {
    for (let n = 0; n < 20; n++) moveMark(-1, false);
    expect(marks()).toEqual([-1, -1]);
  });
  it('is put where the listener hears this band, not the one before', () => {
    const { set } = useWindow.getState();
    const progress = { kind: 'image', job: 4, result: { places: [0.3, 0.3] } } as unknown as Progress;
    set({ progress, imageJob: 0 });
    asListener();
    expect(marks()).toEqual([0, 0]);
    set({ imageJob: 4 });
    asListener();
    expect(marks()).toEqual([0.3, 0.3]);
  });
  it('falls in two and comes together in the middle', () => {
    splitMark();
    expect(split(marks())).toBe(true);
    moveMark(-1, false);
    expect(marks()).toEqual([-1, 0.9]);
    splitMark();
    expect(marks()[0]).toBeCloseTo(-0.05);
    expect(split(marks())).toBe(false);
  });
});
