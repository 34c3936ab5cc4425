import { beforeEach, describe, expect, it } from 'vitest';
import { useWindow } from '../state/window';
import { nearest, ticks } from './parts';
import { axisNow, HIGH, LEFT, levelRange, LOW, RIGHT, setAxis, ticksNow, tickText, toHertz, toX } from './scale';
import { axisTo, back, fit, rangeTo } from './zoom';

const WIDTH = 900;

beforeEach(() => {
  useWindow.setState({ zoom: { axis: [LOW, HIGH], ranges: {} }, zoomed: [] });
  setAxis(LOW, HIGH);
});

describe('the shared frequency axis', () => {
  it('goes from the left edge to the right one, and back again without loss', () => {
    expect(toX(LOW, WIDTH)).toBe(LEFT);
    expect(toX(HIGH, WIDTH)).toBeCloseTo(WIDTH - RIGHT, 9);
    for (const hertz of [20, 57, 1000, 3150, 20_000]) expect(toHertz(toX(hertz, WIDTH), WIDTH)).toBeCloseTo(hertz, 6);
    expect(toHertz(-500, WIDTH)).toBe(LOW);
    expect(toHertz(5000, WIDTH)).toBe(HIGH);
  });

  it('is logarithmic: an octave is as wide anywhere', () => {
    expect(toX(200, WIDTH) - toX(100, WIDTH)).toBeCloseTo(toX(8000, WIDTH) - toX(4000, WIDTH), 9);
  });

  it('names more ticks where less is shown, and only those within', () => {
    const all = ticksNow();
    setAxis(100, 1000);
    expect(ticksNow().length).toBeGreaterThan(all.filter((one) => one >= 100 && one <= 1000).length);
    expect(ticksNow().every((one) => one >= 99.9 && one <= 1001)).toBe(true);
    expect([tickText(50), tickText(2000), tickText(20_000)]).toEqual(['50', '2k', '20k Hz']);
  });

  it('finds the nearest point of the grid, and none outside of the plot', () => {
    const grid = [20, 40, 80, 160];
    expect(nearest(grid, toX(41, WIDTH), WIDTH)).toBe(1);
    expect(nearest(grid, toX(130, WIDTH), WIDTH)).toBe(3);
    expect(nearest(grid, LEFT - 5, WIDTH)).toBeNull();
    expect(nearest(grid, WIDTH, WIDTH)).toBeNull();
  });
});

describe('level axes', () => {
  it('hold the top of what is shown and are as high as asked, in steps of five', () => {
    expect(levelRange([{ values: [60, 81.2, NaN] }])).toEqual([35, 85]);
    expect(levelRange([{ values: [83] }], 45)).toEqual([45, 90]);
    expect(levelRange([{ values: [] }])).toEqual([50, 100]);
  });

  it('have ticks at multiples of the step', () => {
    expect(ticks(-13, 7, 3)).toEqual([-12, -9, -6, -3, 0, 3, 6]);
    expect(ticks(0, 0.5, 1)).toEqual([0]);
  });
});

describe('zoom', () => {
  it('stays within what can be heard and never closer than a seventh of an octave or so', () => {
    axisTo(5, 100_000);
    expect(axisNow()).toEqual([LOW, HIGH]);
    axisTo(1000, 1001);
    const [low, high] = axisNow();
    expect(high / low).toBeCloseTo(1.15, 6);
    expect(Math.sqrt(high * low)).toBeCloseTo(1000.5, 0);
  });

  it('goes back step by step to where one was', () => {
    axisTo(100, 1000);
    fit();
    expect(axisNow()).toEqual([LOW, HIGH]);
    back();
    expect(axisNow()).toEqual([100, 1000]);
    back();
    expect(axisNow()).toEqual([LOW, HIGH]);
    back(); // with nothing before, nothing happens
    expect(axisNow()).toEqual([LOW, HIGH]);
  });

  it('keeps a range for each plot by its name, and refuses one of nothing', () => {
    rangeTo('Level', [40, 80]);
    rangeTo('Phase', [10, 10.5]);
    expect(useWindow.getState().zoom.ranges).toEqual({ Level: [40, 80] });
  });
});
