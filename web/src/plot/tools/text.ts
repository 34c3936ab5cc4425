/** Text within other formats: a label must not break the picture or the table that it stands in. */

const NAMED: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };

/** Text as XML takes it; characters that XML does not know are left out. */
export const escape = (text: string): string =>
  // eslint-disable-next-line no-control-regex
  text.replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f]/g, '').replace(/[&<>"]/g, (one) => NAMED[one]);

/** A field of a table with this between its columns: quoted where the text would be taken for more than one field. */
export const cell = (text: string, between: string): string =>
  text.includes(between) || /["\n\r]/.test(text) ? `"${text.replace(/"/g, '""')}"` : text;

/** Rows of cells as one text. */
export const table = (rows: string[][], between: string): string =>
  `${rows.map((row) => row.map((one) => cell(one, between)).join(between)).join('\n')}\n`;
