/** What stands drawn in the page, as a picture or a table of its own. */
import { escape, table } from './text';

interface Entry {
  label?: string;
  colour: string;
  dash?: number[];
}

interface Colours {
  ground: string;
  text: string;
  quiet: string;
}

const FONT = 'font-family="IBM Plex Sans, sans-serif" font-size="11"';

/** A legend under a picture of a height: a stroke and the label of each entry that has one. */
export function legendOf(legend: Entry[], height: number, text: string): string[] {
  let at = 12;
  return legend
    .filter((one) => one.label)
    .map(({ label, colour, dash }) => {
      const y = height + 46;
      const dashes = dash ? ` stroke-dasharray="${dash.join(' ')}"` : '';
      const stroke =
        `<line x1="${at}" x2="${at + 22}" y1="${y}" y2="${y}` + `" stroke="${colour}" stroke-width="2.5"${dashes}/>`;
      const words = `<text x="${at + 28}" y="${y + 4}" fill="${text}">${escape(label!)}</text>`;
      at += 50 + label!.length * 7;
      return stroke + words;
    });
}

/** The canvas of a plot as an image in a picture; nothing where it has none. */
function imageOf(canvas: HTMLCanvasElement | null): string {
  if (!canvas) return '';
  const place =
    `x="${canvas.offsetLeft}" y="${canvas.offsetTop + 34}` + `" width="${canvas.width}" height="${canvas.height}"`;
  return `<image href="${canvas.toDataURL('image/png')}" ${place}/>`;
}

/** What a plot shows as an SVG document of its own, with title and date. */
export function pictureOf(holder: HTMLElement, title: string, legend: Entry[], colours: Colours, date = new Date()) {
  const drawn = holder.querySelector('svg')!;
  const { width, height } = drawn.getBoundingClientRect();
  const copy = drawn.cloneNode(true) as SVGSVGElement;
  copy.setAttribute('y', '34');
  copy.removeAttribute('style');
  const named = legendOf(legend, height, colours.text);
  const tall = height + (named.length ? 60 : 34);
  const when = date.toLocaleString('sv-SE').slice(0, 16);
  const size = `viewBox="0 0 ${width} ${tall}" width="${width}" height="${tall}"`;
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" ${size} ${FONT}>`,
    `<rect width="100%" height="100%" fill="${colours.ground}"/>`,
    `<text x="12" y="22" font-size="16" font-weight="600" fill="${colours.text}">${escape(title)}</text>`,
    `<text x="${width - 12}" y="22" text-anchor="end" fill="${colours.quiet}">${when}</text>`,
    imageOf(holder.querySelector('canvas')),
    new XMLSerializer().serializeToString(copy),
    ...named,
    '</svg>',
  ].join('');
}

interface Values {
  label?: string;
  x: Float32Array;
  values: Float32Array;
}

/** Rows of a time axis and named values, as a table. */
export function rowsOf(axis: string, lines: Values[], [low, high]: [number, number], between: string): string {
  const named = lines.filter((line) => line.label);
  if (!named.length) return '';
  const [first] = named;
  const rows = [[axis, ...named.map((line) => line.label!)]];
  for (let i = 0; i < first.x.length; i++) {
    if (first.x[i] < low || first.x[i] > high) continue;
    rows.push([
      first.x[i].toFixed(4),
      ...named.map((line) => (i < line.values.length ? line.values[i].toFixed(4) : '')),
    ]);
  }
  return table(rows, between);
}
