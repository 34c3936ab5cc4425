import { describe, expect, it } from 'vitest';
import { roomiest } from './Bending';
import { clampBend, moved } from './bends';

describe('points of the target', () => {
  it('moves by keys, coarsely with Shift', () => {
    const one = { frequency_hz: 1000, level_db: 1 };
    expect(moved(one, 'ArrowUp', false)).toEqual({ frequency_hz: 1000, level_db: 1.1 });
    expect(moved(one, 'ArrowDown', true)).toEqual({ frequency_hz: 1000, level_db: 0 });
    expect(moved(one, 'ArrowRight', true)!.frequency_hz).toBeCloseTo(1259.9, 0);
    expect(moved(one, 'x', false)).toBeNull();
  });

  it('keeps points a third of an octave apart and within range', () => {
    const bends = [
      { frequency_hz: 100, level_db: 0 },
      { frequency_hz: 1000, level_db: 0 },
    ];
    expect(clampBend(bends, 0, { frequency_hz: 5000, level_db: 40 })).toEqual({
      frequency_hz: 1000 / 2 ** (1 / 3),
      level_db: 24,
    });
    expect(clampBend(bends, 1, { frequency_hz: 50, level_db: 0 }).frequency_hz).toBeCloseTo(126, 0);
  });

  it('puts a further point where there is most room', () => {
    expect(roomiest([])).toBe(693);
    expect(roomiest([{ frequency_hz: 693, level_db: 2 }])).toBe(144);
  });
});
