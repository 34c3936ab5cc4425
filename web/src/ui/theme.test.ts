import { describe, expect, it } from 'vitest';
import { hueOf, mixed, palettes } from './theme';

describe('the colour of a driver', () => {
  it('is that of its way, half of it the group’s where that is not the front', () => {
    expect(mixed('#000000', '#ff0102')).toBe('#800101');
    for (const own of Object.values(palettes)) {
      expect(hueOf(own, { kind: 'mid', group: 'front' })).toBe(own.ways.mid);
      expect(hueOf(own, { kind: 'mid', group: 'rear' })).toBe(mixed(own.ways.mid, own.rear));
      expect(hueOf(own, { kind: 'full', group: 'centre' })).toBe(own.centre);
    }
  });
});
