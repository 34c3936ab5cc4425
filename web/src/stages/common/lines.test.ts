import { describe, expect, it } from 'vitest';
import type { Curve, Driver } from '../../api/types';
import { palettes } from '../../ui/theme';
import { rangesOf } from '../../plot/parts';
import { lineOf, looks } from './lines';
import { nice, rangeOf } from './ranges';

const own = palettes.dark;
const curve = (role: string, values: number[] = []): Curve => ({
  id: `a-${role}`,
  role,
  label: 'A',
  pane: 'main',
  channel: 'mid-r',
  values: new Float32Array(values),
  x: null,
});
const driver = (side: Driver['side']): Driver => ({
  id: 'mid-r',
  name: 'Mid R',
  kind: 'mid',
  group: 'front',
  passive_to: null,
  side,
  output: 1,
});

/** How bright a colour is after WCAG 2.2, from 0 to 1. */
function luminance(hex: string): number {
  const [r, g, b] = [1, 3, 5].map((n) => {
    const share = parseInt(hex.slice(n, n + 2), 16) / 255;
    return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4;
  });
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}

const contrast = (a: string, b: string) => {
  const [high, low] = [luminance(a), luminance(b)].sort((x, y) => y - x);
  return (high + 0.05) / (low + 0.05);
};

describe('lines', () => {
  it('have the hue of the way, solid on the left and dashed on the right', () => {
    expect(lineOf(curve('bold'), driver('left'), own, false)).toMatchObject({ colour: own.ways.mid, width: 2.6 });
    expect(lineOf(curve('bold'), driver('left'), own, false).dash).toBeUndefined();
    expect(lineOf(curve('bold'), driver('right'), own, false).dash).toEqual([7, 4]);
    expect(lineOf(curve('bold'), driver('both'), own, false).dash).toBeUndefined();
  });

  it('are plain text colour for the sum, clay and dashed for the target', () => {
    expect(lineOf(curve('sum'), undefined, own, false)).toMatchObject({ colour: own.sum, width: 2.6 });
    expect(lineOf(curve('target'), undefined, own, false)).toMatchObject({ colour: own.clay, dash: [6, 4] });
  });

  it('stand back while a new one grows', () => {
    const grows = lineOf(curve('bold'), driver('left'), own, true);
    expect(grows).toEqual(lineOf({ ...curve('faint'), id: 'a-bold' }, driver('left'), own, false));
  });

  it('have the colour that a take was given', () => {
    const given = [1, 2, 3, 4, 5, 6].map((n) => lineOf(curve(`look-${n}`), driver('left'), own, false).colour);
    expect(given).toEqual(looks(own));
    expect(new Set(given).size).toBe(6);
  });

  it('that bound a range have the hue of their curve and are not drawn themselves', () => {
    expect(lineOf(curve('range-bold'), driver('left'), own, false)).toMatchObject({ colour: own.ways.mid, width: 0 });
    expect(lineOf(curve('range-sum'), undefined, own, false)).toMatchObject({ colour: own.sum, width: 0 });
    const line = (id: string) => ({ ...lineOf(curve('range-sum'), undefined, own, false), id });
    expect(rangesOf([line('sum'), line('sum:least'), line('sum:most')])).toEqual([
      { between: ['sum:least', 'sum:most'], fill: `${own.sum}2e` },
    ]);
  });

  it('of a role that nobody knows are drawn all the same', () => {
    expect(lineOf(curve('something-new'), driver('left'), own, false)).toMatchObject({
      colour: own.ways.mid,
      width: 1.5,
    });
  });
});

describe('colours', () => {
  for (const [mode, palette] of Object.entries(palettes)) {
    it(`of the ways stand out from the plot, and text can be read, in the ${mode} theme`, () => {
      for (const [way, hue] of Object.entries(palette.ways)) {
        expect(contrast(hue, palette.plot), way).toBeGreaterThanOrEqual(3);
      }
      for (const text of [palette.text, palette.quiet, palette.clayText, palette.good]) {
        expect(contrast(text, palette.panel)).toBeGreaterThanOrEqual(4.5);
      }
      expect(contrast(palette.onClay, palette.clay)).toBeGreaterThanOrEqual(4.5);
    });
  }
});

describe('ranges of closer looks', () => {
  const line = (values: number[], label = 'A') => ({ id: 'a', values, colour: '', width: 1, label });

  it('are fixed where what is shown has limits of its own', () => {
    expect(rangeOf('phase', [line([5])], 'db')).toEqual([-180, 180]);
    expect(rangeOf('envelope', [], 'db')).toEqual([-60, 3]);
    expect(rangeOf('step', [], 'db')).toEqual([-105, 105]);
  });

  it('follow the unit of distortion', () => {
    expect(rangeOf('distortion', [line([1])], 'db')).toEqual([-90, -10]);
    expect(rangeOf('distortion', [line([2, NaN]), line([50], '')], 'percent')).toEqual([0, 2.2]);
    expect(rangeOf('distortion', [line([91])], 'spl')).toEqual([0, 100]);
    expect(rangeOf('distortion', [], 'percent')).toEqual([0, 1.1]);
  });

  it('hold differences of three decibels at least, and more where there are more', () => {
    expect(rangeOf('difference', [line([0.1, -0.2, 0])], 'db')).toEqual([-3, 3]);
    const wide = Array.from({ length: 101 }, (_, n) => (n - 50) / 5);
    const [low, high] = rangeOf('difference', [line(wide)], 'db');
    expect(low).toBeLessThanOrEqual(-9);
    expect(high).toBeGreaterThanOrEqual(9);
  });

  it('leave a few stray points out', () => {
    const flat = Array.from({ length: 200 }, () => 1);
    const [low, high] = rangeOf('group-delay', [line([...flat, 500, -500])], 'db');
    expect([low, high]).toEqual([0, 2]);
  });

  it('step by round figures', () => {
    expect([nice(0.9), nice(1), nice(1.1), nice(3), nice(7), nice(23), nice(0.03)]).toEqual([1, 1, 2, 5, 10, 50, 0.05]);
  });
});
