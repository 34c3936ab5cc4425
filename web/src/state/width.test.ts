import { describe, expect, it } from 'vitest';
import { octavesOf, qOf } from './width';

describe('the width of a band', () => {
  it('is sqrt(2) in Q for an octave, and 4.32 for a third (closed form)', () => {
    expect(qOf(1)).toBeCloseTo(Math.SQRT2, 6);
    expect(qOf(1 / 3)).toBeCloseTo(4.3185, 3);
  });
  it('goes to and fro', () => {
    for (const q of [0.3, 0.7, 1.4, 4.3, 12]) expect(qOf(octavesOf(q))).toBeCloseTo(q, 9);
  });
  it('is wider the smaller the Q', () => {
    expect(octavesOf(0.5)).toBeGreaterThan(octavesOf(5));
  });
});
