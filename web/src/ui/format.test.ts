import { describe, expect, it } from 'vitest';
import { clock, hertz, minus, plain, short, signed } from './format';

describe('figures as a tuner reads them', () => {
  it('have real minus signs, and none before a zero', () => {
    expect([signed(1.25), signed(-1.25), signed(-0.04), signed(0)]).toEqual(['+1.3', '−1.3', '+0.0', '+0.0']);
    expect(plain(-3.14159, 2)).toBe('−3.14');
    expect(minus('moved -3 dB (-2 at best), mid-l')).toBe('moved −3 dB (−2 at best), mid-l');
  });

  it('name frequencies in hertz below a thousand and in kilohertz above', () => {
    expect([hertz(57.4), hertz(999), hertz(1000), hertz(3150), hertz(12_500)]).toEqual([
      '57 Hz',
      '999 Hz',
      '1 kHz',
      '3.15 kHz',
      '12.5 kHz',
    ]);
    expect([short(80), short(3000), short(3150)]).toEqual(['80', '3k', '3.1k']);
  });

  it('take a moment without a zone for UTC, and one with a zone as it is', () => {
    expect(clock('2026-03-01T10:00:00')).toBe(clock('2026-03-01T10:00:00Z'));
    expect(clock('2026-03-01T12:00:00+02:00')).toBe(clock('2026-03-01T10:00:00Z'));
    expect(clock('2026-03-01T10:00:00.123456Z')).toMatch(/^\d\d:\d\d$/);
  });
});
