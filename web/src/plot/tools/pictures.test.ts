import { beforeEach, describe, expect, it } from 'vitest';
import { setAxis } from '../scale';
import { legendOf, rowsOf } from './drawn';
import { svgOf, tableOf, type Shown } from './picture';

const shown = (label: string): Shown => ({
  title: 'Level & <more>',
  unit: 'dB',
  grid: [20, 200, 2000, 20_000],
  lines: [
    { id: 'a', values: [70, 80, NaN, 75], colour: '#fff', width: 2, label, dash: [4, 2] },
    { id: 'b', values: [60, 60, 60, 60], colour: '#000', width: 1 },
  ],
  range: [40, 90],
  step: 10,
  ground: '#111',
  text: '#eee',
  quiet: '#999',
  grid_colour: '#222',
});

beforeEach(() => setAxis(20, 20_000));

/** Whether every angle bracket and ampersand of a document belongs to a tag or an entity. */
const sound = (svg: string) => !/&(?!amp;|lt;|gt;|quot;)/.test(svg) && svg.split('<').length === svg.split('>').length;

describe('pictures', () => {
  it('survive any label', () => {
    for (const label of ['Mid L', 'a & b', '<script>', '"quoted"', 'x > y']) {
      expect(sound(svgOf(shown(label)))).toBe(true);
      expect(sound(legendOf([{ label, colour: '#fff' }], 100, '#eee').join(''))).toBe(true);
    }
  });

  it('break a curve where it is not known', () => {
    const path = /<path d="([^"]+)"/.exec(svgOf(shown('Mid L')))![1];
    expect(path.match(/M/g)).toHaveLength(2);
    expect(path.match(/L/g)).toHaveLength(1);
  });

  it('name only what has a name', () => {
    expect(legendOf([{ colour: '#fff' }, { label: 'Sum', colour: '#fff' }], 100, '#eee')).toHaveLength(1);
    expect(tableOf(shown('Mid L'), ',').split('\n')[0]).toBe('Hz,"Mid L, dB"');
  });
});

describe('tables', () => {
  it('hold the named curves within the axis, empty where not known', () => {
    expect(tableOf(shown('Mid L'), '\t')).toBe(
      'Hz\tMid L, dB\n20.00\t70.000\n200.00\t80.000\n2000.00\t\n20000.00\t75.000\n',
    );
    setAxis(100, 1000);
    expect(tableOf(shown('Mid L'), '\t')).toBe('Hz\tMid L, dB\n200.00\t80.000\n');
  });

  it('hold rows of time within what is shown', () => {
    const line = (label?: string) => ({ label, x: new Float32Array([0, 1, 2]), values: new Float32Array([5, 6]) });
    expect(rowsOf('ms', [line('one, two'), line()], [0.5, 2], ',')).toBe('ms,"one, two"\n1.0000,6.0000\n2.0000,\n');
    expect(rowsOf('ms', [line()], [0, 2], ',')).toBe('');
  });
});
