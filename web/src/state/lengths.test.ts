import { describe, expect, it } from 'vitest';
import { LENGTHS, millimetres, nextLength } from './lengths';

describe('lengths', () => {
  it('tell one metre in every unit', () => {
    const metre = LENGTHS.map((unit) => 1000 / millimetres(unit, 7.15));
    expect(metre[0]).toBe(1000);
    expect(metre[1]).toBe(100);
    expect(metre[2]).toBeCloseTo(39.37, 2); // one inch is 25.4 mm by definition
    expect(metre[3]).toBeCloseTo(139.86, 2); // 48 000 / 343.2
  });

  it('come round', () => {
    expect(LENGTHS.map(nextLength)).toEqual(['cm', 'in', 'samples', 'mm']);
  });
});
