/** What is in view as a picture of its own, as a table, and as CSV: exactly the curves and limits that are shown. */
import type { Line } from '../parts';
import { escape, table } from './text';
import { axisNow, ticksNow, tickText } from '../scale';

export interface Shown {
  title: string;
  unit: string;
  grid: number[];
  lines: Line[];
  range: [number, number];
  step: number;
  ground: string;
  text: string;
  quiet: string;
  grid_colour: string;
}

const [W, H, L, R, T, B] = [1200, 680, 64, 24, 56, 44];

/** An SVG document with title, scales, a legend and the date. */
export function svgOf(shown: Shown, date = new Date()): string {
  const [low, high] = axisNow();
  const [bottom, top] = shown.range;
  const x = (hertz: number) => L + (Math.log(hertz / low) / Math.log(high / low)) * (W - L - R);
  const y = (value: number) => T + ((top - value) / (top - bottom)) * (H - T - B);
  const parts: string[] = [
    `<rect width="${W}" height="${H}" fill="${shown.ground}"/>`,
    `<text x="${L}" y="24" fill="${shown.text}" font-size="18" font-weight="600">${escape(shown.title)}</text>`,
    `<text x="${W - R}" y="24" fill="${shown.quiet}" text-anchor="end">` +
      `${escape(date.toLocaleString('sv-SE').slice(0, 16))}</text>`,
    `<text x="${L}" y="${T - 8}" fill="${shown.quiet}">${escape(shown.unit)}</text>`,
  ];
  for (const hertz of ticksNow()) {
    parts.push(
      `<line x1="${x(hertz).toFixed(1)}" x2="${x(hertz).toFixed(1)}` +
        `" y1="${T}" y2="${H - B}" stroke="${shown.grid_colour}"/>`,
      `<text x="${x(hertz).toFixed(1)}" y="${H - B + 18}" fill="` +
        `${shown.quiet}" text-anchor="middle">${tickText(hertz)}</text>`,
    );
  }
  for (let v = Math.ceil(bottom / shown.step) * shown.step; v <= top + 1e-6; v += shown.step) {
    parts.push(
      `<line x1="${L}" x2="${W - R}" y1="${y(v).toFixed(1)}" y2="${y(v).toFixed(1)}" stroke="${shown.grid_colour}"/>`,
      `<text x="${L - 8}" y="${(y(v) + 4).toFixed(1)}" fill="` +
        `${shown.quiet}" text-anchor="end">${Number(v.toFixed(2))}</text>`,
    );
  }
  parts.push(
    `<clipPath id="in"><rect x="${L}" y="${T}" width="${W - L - R}` +
      `" height="${H - T - B}"/></clipPath><g clip-path="url(#in)">`,
  );
  for (const line of shown.lines) {
    let path = '';
    let open = false;
    for (let i = 0; i < shown.grid.length; i++) {
      const value = line.values[i];
      if (!Number.isFinite(value) || shown.grid[i] < low * 0.98 || shown.grid[i] > high * 1.02) {
        open = false;
        continue;
      }
      path += `${open ? 'L' : 'M'}${x(shown.grid[i]).toFixed(1)},${y(value).toFixed(1)}`;
      open = true;
    }
    if (path)
      parts.push(
        `<path d="${path}" fill="none" stroke="${line.colour}" stroke-width="` +
          `${line.width}"${line.dash ? ` stroke-dasharray="${line.dash.join(' ')}"` : ''}/>`,
      );
  }
  parts.push('</g>');
  let at = L;
  for (const line of shown.lines.filter((one) => one.label)) {
    parts.push(
      `<line x1="${at}" x2="${at + 22}" y1="${H - 12}" y2="` +
        `${H - 12}" stroke="${line.colour}" stroke-width="2.5"` +
        `${line.dash ? ` stroke-dasharray="${line.dash.join(' ')}"` : ''}/>`,
      `<text x="${at + 28}" y="${H - 8}" fill="${shown.text}">${escape(line.label!)}</text>`,
    );
    at += 46 + line.label!.length * 7.5;
  }
  return (
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${W}` +
    ` ${H}" width="${W}" height="${H}" font-family="IBM Plex ` +
    `Sans, sans-serif" font-size="13">${parts.join('')}</svg>`
  );
}

/** The same as a PNG at twice the size. */
export async function pngOf(svg: string): Promise<Blob> {
  const image = new Image();
  const address = URL.createObjectURL(new Blob([svg], { type: 'image/svg+xml' }));
  try {
    await new Promise((done, failed) => {
      image.onload = done;
      image.onerror = failed;
      image.src = address;
    });
    const canvas = document.createElement('canvas');
    [canvas.width, canvas.height] = [2 * image.width, 2 * image.height];
    canvas.getContext('2d')!.drawImage(image, 0, 0, canvas.width, canvas.height);
    return await new Promise((done, failed) =>
      canvas.toBlob((blob) => (blob ? done(blob) : failed(new Error('no picture was made'))), 'image/png'),
    );
  } finally {
    URL.revokeObjectURL(address);
  }
}

/** Rows of frequency and every named curve within the axis; what is not known is left empty. */
export function tableOf(shown: Shown, between: string): string {
  const [low, high] = axisNow();
  const named = shown.lines.filter((line) => line.label);
  const rows = [['Hz', ...named.map((line) => `${line.label}, ${shown.unit}`)]];
  for (let i = 0; i < shown.grid.length; i++) {
    if (shown.grid[i] < low * 0.999 || shown.grid[i] > high * 1.001) continue;
    rows.push([
      shown.grid[i].toFixed(2),
      ...named.map((line) => (Number.isFinite(line.values[i]) ? line.values[i].toFixed(3) : '')),
    ]);
  }
  return table(rows, between);
}

export function save(content: Blob | string, name: string, kind: string) {
  const address = URL.createObjectURL(typeof content === 'string' ? new Blob([content], { type: kind }) : content);
  const link = document.createElement('a');
  link.href = address;
  link.download = name;
  link.click();
  window.setTimeout(() => URL.revokeObjectURL(address), 5000);
}
