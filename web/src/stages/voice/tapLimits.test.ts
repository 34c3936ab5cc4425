import { describe, expect, it } from 'vitest';
import { useWindow } from '../../state/window';
import { freshBand, stretches, widest, withLimit } from './tapLimits';

const bound = (low_hz: number, high_hz: number, boost_db: number) => ({
  low_hz,
  high_hz,
  boost_db,
  cut_db: 12,
  tolerance_db: 0,
});
const wish = { ...useWindow.getState().wish, low_hz: 200, high_hz: 16000, boost_db: 4 };

describe('limits of taps by band', () => {
  it('are those of the later band where two overlap, of the span where there is none', () => {
    const made = stretches({ ...wish, bounds: [bound(100, 1000, 2), bound(500, 2000, 1)] });
    expect(made.map(({ from, to, is }) => [from, to, is.boost_db])).toEqual([
      [200, 500, 2],
      [500, 2000, 1],
      [2000, 16000, 4],
    ]);
  });
  it('have one handle each, in their widest stretch', () => {
    const made = widest(stretches({ ...wish, bounds: [bound(1000, 2000, 1)] }));
    expect(made.map(({ n, from }) => [n, from])).toEqual([
      [-1, 2000],
      [0, 1000],
    ]);
  });
  it('are changed by half decibels, within what can be', () => {
    const has = { ...wish, bounds: [bound(1000, 2000, 1)] };
    expect(withLimit(has, 0, 'boost_db', 2.7).bounds[0].boost_db).toBe(2.5);
    expect(withLimit(has, -1, 'boost_db', 99).boost_db).toBe(18);
    expect(withLimit(has, -1, 'tolerance_db', -1).tolerance_db).toBe(0);
  });
  it('begin beyond the corner of the channel', () => {
    const corner = { shape: 'linkwitz-riley', slope_db: 24, corner_hz: 3000 };
    expect(freshBand({ low_pass: corner } as never, wish)).toEqual([3000, 6000]);
    expect(freshBand({ high_pass: corner } as never, wish)).toEqual([1500, 3000]);
    expect(freshBand(undefined, wish)).toEqual([200, 400]);
  });
});
