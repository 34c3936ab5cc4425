import { expect, test } from 'vitest';
import type { Driver, Kind, Project, Side, Tune } from '../../api/types';
import { toX } from '../scale';
import { placed } from './placed';
import type { StripProps } from './span';

const driver = (id: string, name: string, kind: Kind, side: Side) =>
  ({ id, name, kind, side, group: kind === 'sub' ? 'sub' : 'front', passive_to: null }) as unknown as Driver;
const SUBS = ['Sub', 'Sub 2', 'Sub 3'].map((name) => driver(name, name, 'sub', 'both'));
const WOOFER = driver('woofer', 'Woofer', 'woofer', 'both');
const MID = driver('mid', 'Mid', 'mid', 'both');
const CORNERS: Record<string, [number, number]> = { woofer: [120, 210], mid: [210, 3200] };

function props(drivers: Driver[], inverted = false): StripProps {
  const channel = (one: Driver) => {
    const [low, high] = CORNERS[one.id] ?? [22, 120];
    const corner = (hertz: number) => ({ corner_hz: hertz });
    return { gain_db: -7.7, delay_s: 0.00447, inverted, high_pass: corner(low), low_pass: corner(high), bands: [] };
  };
  const tune = { channels: Object.fromEntries(drivers.map((one) => [one.id, channel(one)])) } as unknown as Tune;
  const project = { layout: { drivers, seat: 'left' }, drivers: {}, guarded: [], tune } as unknown as Project;
  return { project, tune } as unknown as StripProps;
}

test('the words of three subs and of a narrow way beside them do not lie over each other', () => {
  const drivers = [...SUBS, WOOFER, MID];
  for (const inverted of [false, true]) {
    const at = placed(props(drivers, inverted), drivers, 948);
    const upper = [SUBS[0], SUBS[2], WOOFER, MID].map((one) => at[one.id]);
    upper.slice(1).forEach((one, n) => expect(one.x).toBeGreaterThanOrEqual(upper[n].switchX + 18));
    // The words begin on their own tile, and both subs' switches are on theirs.
    expect(at.woofer.x).toBeLessThan(toX(210, 948));
    if (!inverted) expect(at['Sub 3'].switchX + 16).toBeLessThan(toX(120, 948));
  }
});

test('a long name is given the room that its tile has', () => {
  const words = (name: string, high: number) => {
    const one = driver('one', name, 'full', 'left');
    CORNERS.one = [140, high];
    const { x, switchX } = placed(props([one]), [one], 948).one;
    return switchX - x;
  };
  expect(words('Mid L', 18000)).toBe(108);
  expect(words('Full range L', 18000)).toBeGreaterThan(108);
  expect(words('Full range L', 160)).toBe(words('Mid L', 160));
  expect(words('Mid L', 160)).toBeLessThan(108);
});
