import { describe, expect, it } from 'vitest';
import type { Band } from '../../api/types';
import { setThird, THIRD_Q, THIRDS_HZ, thirdsOf } from './thirds';

const bell = (frequency_hz: number, gain_db: number, q = THIRD_Q): Band => ({
  kind: 'peaking',
  frequency_hz,
  gain_db,
  q,
  off: false,
});

describe('third octaves', () => {
  it('stand at the nominal frequencies of ISO 266, a third of an octave apart', () => {
    expect(THIRDS_HZ).toHaveLength(31);
    THIRDS_HZ.forEach((hz, n) => expect(Math.abs(Math.log2(hz / 1000) - (n - 17) / 3)).toBeLessThan(0.03));
    expect(THIRD_Q).toBeCloseTo(4.32, 2);
  });
  it('are those bands that stand there and are as wide', () => {
    const found = thirdsOf([bell(1000, 3), bell(1000, 2, 1), bell(1100, -4), { ...bell(500, 1), off: true }]);
    expect(found.gains[THIRDS_HZ.indexOf(1000)]).toBe(3);
    expect(found.gains.filter(Boolean)).toHaveLength(1);
    expect(found.others).toBe(3);
  });
  it('come with a gain and go without one', () => {
    const bands = [bell(80, -3), bell(1000, 3)];
    expect(setThird('mid-l', bands, 2000, -1)).toMatchObject({ channel: 'mid-l', index: 2, band: { gain_db: -1 } });
    expect(setThird('', bands, 1000, 1)).toMatchObject({ channel: null, index: 1, band: { gain_db: 1, q: THIRD_Q } });
    expect(setThird('', bands, 1000, 0)).toMatchObject({ index: 1, band: null });
    expect(setThird('', bands, 2000, 0)).toBeNull();
  });
});
