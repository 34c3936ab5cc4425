import { describe, expect, it } from 'vitest';
import type { Channel, Seam, Tune } from '../../api/types';
import { short } from '../../state/system';
import { ends, outerEnds } from './seam';

const seam = (lower: string, upper: string, ways: Seam['ways'] = ['sub', 'midbass']): Seam => ({
  id: `${lower}-${upper}`,
  group: 'front',
  side: 'left',
  lowers: [lower],
  uppers: [upper],
  ways,
  name: ways && `${ways[0]}-${ways[1]}`,
});
const SUB = seam('sub', 'midbass-l');
const MID = seam('midbass-l', 'mid-l');
const TOP = seam('mid-l', 'tweeter-l');
const SIDES = seam('mid-l', 'mid-r', null);
const ALL = [SUB, MID, TOP, SIDES];

describe('the outer ends of a seam', () => {
  it('are those at which no other seam stands: the lowest high-pass and the highest low-pass', () => {
    expect(outerEnds(ALL, SUB)).toEqual([['sub', 'high_pass']]);
    expect(outerEnds(ALL, MID)).toEqual([]);
    expect(outerEnds(ALL, TOP)).toEqual([['tweeter-l', 'low_pass']]);
  });

  it('are both where there is one seam only, and none between the sides', () => {
    expect(outerEnds([SUB, SIDES], SUB)).toEqual([
      ['sub', 'high_pass'],
      ['midbass-l', 'low_pass'],
    ]);
    expect(outerEnds(ALL, SIDES)).toEqual([]);
  });
});

describe('a seam', () => {
  it("has the upper way's high-pass and the lower way's low-pass", () => {
    const channel = (hertz: number | null) =>
      ({
        high_pass: hertz && { shape: 'butterworth', slope_db: 12, corner_hz: hertz },
        low_pass: null,
      }) as unknown as Channel;
    const tune = { channels: { sub: channel(null), 'midbass-l': channel(80) } } as unknown as Tune;
    expect(ends(tune, SUB)).toEqual([
      ['midbass-l', 'high_pass', { shape: 'butterworth', slope_db: 12, corner_hz: 80 }],
      ['sub', 'low_pass', null],
    ]);
  });

  it('is named without the side where both are meant', () => {
    expect([short('Mid L'), short('Tweeter R'), short('Sub'), short('Full range L')]).toEqual([
      'Mid',
      'Tweeter',
      'Sub',
      'Full range',
    ]);
  });
});
