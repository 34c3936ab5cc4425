import { describe, expect, it } from 'vitest';
import { cell, escape, table } from './text';

describe('labels within other formats', () => {
  it('escapes what XML takes for its own, and leaves out what it does not know', () => {
    expect(escape('Mid & <b>"L"</b>\u0001')).toBe('Mid &amp; &lt;b&gt;&quot;L&quot;&lt;/b&gt;');
    const parsed = `<text>${escape('a < b & "c"')}</text>`;
    expect(parsed).not.toMatch(/<text>[^<]*[<&](?!amp;|lt;|gt;|quot;|\/text)/);
  });

  it('quotes a field that holds the separator, a quote or a line end', () => {
    expect(cell('Mid, left', ',')).toBe('"Mid, left"');
    expect(cell('Mid, left', '\t')).toBe('Mid, left');
    expect(cell('4" woofer', ',')).toBe('"4"" woofer"');
    expect(cell('two\nlines', '\t')).toBe('"two\nlines"');
  });

  it('writes a row a line', () => {
    expect(
      table(
        [
          ['Hz', 'a,b'],
          ['20', '1.0'],
        ],
        ',',
      ),
    ).toBe('Hz,"a,b"\n20,1.0\n');
  });
});
