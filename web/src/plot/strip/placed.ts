/** Where the words and switches of each tile stand, so that none lies over those of the next. */
import type { Driver, Tune } from '../../api/types';
import { nameInGroup, rowOf } from '../../state/system';
import { plain } from '../../ui/format';
import { LEFT, toX } from '../scale';
import { span, type StripProps } from './span';

/** How far the switches stand behind the beginning of the words: where there is room, and where there is little. */
const AMPLE = 108;
const NARROW = 74;
/** What the switches take, with the gap to the next tile's words. */
const SWITCHES = 22;
/** A letter's width, about, and how many of a name have room beside all marks. */
export const LETTER = 6.6;
const LETTERS = 11;
/** A figure's width, about. */
export const DIGIT = 6;

export interface TextPlace {
  x: number;
  switchX: number;
}

/** What a tile says under the name: gain, delay, and what is out of the ordinary. */
export function figuresOf(tune: Tune, driver: Driver): [string, string] {
  const channel = tune.channels[driver.id];
  const figures = `${plain(channel.gain_db)} · ${plain(channel.delay_s * 1e3, 2)}`;
  return [figures, `${channel.inverted ? ' · inv' : ''}${driver.passive_to ? ' · passive' : ''}`];
}

/** Places of the words of tiles that are sorted from low to high. */
export function placed({ project, tune }: StripProps, drivers: Driver[], width: number): Record<string, TextPlace> {
  const begins = (driver: Driver) => toX(span(project, tune, driver)[0], width) + 16;
  const rowsOf = (driver: Driver) => {
    const row = rowOf(project, driver);
    return row === 'both' ? ['left', 'right'] : [row];
  };
  const free: Record<string, number> = { left: LEFT, right: LEFT };
  const found: Record<string, TextPlace> = {};
  drivers.forEach((driver, n) => {
    const rows = rowsOf(driver);
    const x = Math.max(begins(driver), ...rows.map((row) => free[row]));
    const after = drivers.slice(n + 1).filter((one) => rowsOf(one).some((row) => rows.includes(row)));
    // Two in one place, as two subs on one side are, share it.
    const next = Math.min(width, ...after.map((one, k) => begins(one) + k * (NARROW + SWITCHES)));
    const wanted = AMPLE + LETTER * Math.max(0, nameInGroup(driver).length - LETTERS);
    const inside = toX(span(project, tune, driver)[1], width) - 38 - x;
    const least = Math.max(NARROW, figuresOf(tune, driver).join('').length * DIGIT);
    const words = Math.max(least, Math.min(wanted, inside, next - x - SWITCHES));
    found[driver.id] = { x, switchX: x + words };
    for (const row of rows) free[row] = x + words + SWITCHES;
  });
  return found;
}
