import { describe, expect, it } from 'vitest';
import type { Driver, Project, Seam, Tune } from '../api/types';
import { alike, groupsOf, hasSides, nameInGroup, partsOf, rowOf, short, shownWith, tiesOf } from './system';

const driver = (
  id: string,
  name: string,
  kind: Driver['kind'],
  group: Driver['group'],
  side: Driver['side'],
): Driver => ({ id, name, kind, group, side, output: 1, passive_to: null });
const SUB = driver('sub', 'Sub', 'sub', 'sub', 'both');
const SUB_2 = driver('sub-2', 'Sub 2', 'sub', 'sub', 'both');
const LEFT = driver('mid-l', 'Mid L', 'mid', 'front', 'left');
const RIGHT = driver('mid-r', 'Mid R', 'mid', 'front', 'right');
const REAR_L = driver('rear-mid-l', 'Rear mid L', 'mid', 'rear', 'left');
const REAR_R = driver('rear-mid-r', 'Rear mid R', 'mid', 'rear', 'right');
const project = (...drivers: Driver[]) => ({ layout: { drivers, seat: 'left' } }) as unknown as Project;
const ALL = project(SUB, SUB_2, LEFT, RIGHT, REAR_L, REAR_R);
const seam = (lowers: string[], uppers: string[], ways: Seam['ways'], group: Seam['group'] = 'front'): Seam => ({
  id: 'a',
  group,
  side: 'both',
  lowers,
  uppers,
  ways,
  name: null,
});

describe('the groups of a system', () => {
  it('are shown with the subs in the front, or in what there is in its stead', () => {
    expect(groupsOf(ALL)).toEqual(['front', 'rear']);
    expect(shownWith(ALL, SUB)).toBe('front');
    expect(groupsOf(project(SUB, REAR_L))).toEqual(['rear']);
    expect(groupsOf(project(SUB))).toEqual(['sub']);
  });

  it('have two sides where those in front have a seam', () => {
    const sided = (of: Project, ...seams: Seam[]) => hasSides({ ...of, seams });
    expect(sided(ALL, seam(['mid-l'], ['mid-r'], null))).toBe(true);
    expect(sided(ALL, seam(['sub'], ['sub-2'], null, 'sub'), seam(['sub'], ['mid-l'], ['sub', 'mid']))).toBe(false);
    expect(sided(ALL, seam(['rear-mid-l'], ['rear-mid-r'], null, 'rear'))).toBe(false);
    expect(sided(project(SUB, REAR_L, REAR_R), seam(['rear-mid-l'], ['rear-mid-r'], null, 'rear'))).toBe(true);
    expect(sided(project(SUB, SUB_2), seam(['sub'], ['sub-2'], null, 'sub'))).toBe(false);
  });

  it('keep what is alike apart', () => {
    expect(alike(ALL, LEFT)).toEqual([LEFT, RIGHT]);
    expect(alike(ALL, REAR_R)).toEqual([REAR_L, REAR_R]);
    expect(alike(ALL, undefined)).toEqual([]);
  });

  it('put two subs on a row each, one sub on both', () => {
    expect([rowOf(ALL, SUB), rowOf(ALL, SUB_2)]).toEqual(['left', 'right']);
    expect(rowOf(project(SUB, LEFT), SUB)).toBe('both');
    expect(rowOf(ALL, REAR_R)).toBe('right');
  });
});

describe('names', () => {
  it('leave the group out where it is said already, but not what a person called it', () => {
    expect(nameInGroup(REAR_L)).toBe('Mid L');
    expect(nameInGroup(driver('rear-l', 'Rear L', 'full', 'rear', 'left'))).toBe('Rear L');
    expect(nameInGroup({ ...REAR_L, name: 'Boot left one' })).toBe('Boot left one');
    expect(nameInGroup(LEFT)).toBe('Mid L');
    expect(short('Mid L')).toBe('Mid');
  });

  it('say what stands against what at a seam', () => {
    expect(partsOf(ALL, seam(['sub', 'sub-2'], ['mid-l'], ['sub', 'mid']))).toEqual(['Subs', 'Mid L']);
    expect(partsOf(ALL, seam(['sub'], ['mid-l', 'mid-r'], ['sub', 'mid']))).toEqual(['Sub', 'Mid L + R']);
    expect(partsOf(ALL, seam(['sub'], ['sub-2'], null, 'sub'))).toEqual(['Sub', 'Sub 2']);
    expect(partsOf(ALL, seam(['mid-l', 'x'], ['mid-r', 'y'], null))).toEqual(['left', 'right']);
    expect(partsOf(ALL, seam(['a', 'b'], ['c', 'd'], null, 'rear'))).toEqual(['Rear left', 'Rear right']);
  });
});

describe('what is tied left and right', () => {
  const seam = (name: string, lower: string, upper: string) => ({ name, lowers: [lower], uppers: [upper] }) as Seam;
  const tune = (values: Partial<Tune>) =>
    ({ tied_sides: [], tied_levels: [], tied_bands: [], ...values }) as unknown as Tune;
  const pair = [
    { id: 'a', kind: 'mid', group: 'front', side: 'left' },
    { id: 'b', kind: 'mid', group: 'front', side: 'right' },
  ] as Driver[];
  const project = { layout: { drivers: pair }, seams: [seam('one', 'x', 'a'), seam('two', 'a', 'y')] } as Project;

  it('is each for itself, corners where all of them are', () => {
    expect(tiesOf(tune({ tied_sides: ['one'], tied_levels: ['a', 'b'] }), pair[0], project)).toEqual(['level']);
    const all = tune({ tied_sides: ['one', 'two'], tied_bands: ['a', 'b'] });
    expect(tiesOf(all, pair[0], project)).toEqual(['corners', 'bands']);
  });

  it('is nothing where there is no other side', () => {
    const alone = { ...project, layout: { drivers: [pair[0]] } } as Project;
    expect(tiesOf(tune({ tied_levels: ['a'] }), pair[0], alone)).toEqual([]);
  });
});
