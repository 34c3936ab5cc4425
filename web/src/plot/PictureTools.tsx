/** The tools of a plot that is drawn as SVG, over a canvas where it has one: a picture of what is in view, and its figures. */
import MoreHoriz from '@mui/icons-material/MoreHorizOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Popover from '@mui/material/Popover';
import { useTheme } from '@mui/material/styles';
import { useState, type RefObject } from 'react';
import { pngOf, save } from './picture';

interface Props { name: string; holder: RefObject<HTMLElement | null>; bottom?: number; legend?: { label?: string; colour: string; dash?: number[] }[]; /** Rows of figures with this between them. */ table?: (between: string) => string }

export function PictureTools({ name, holder, bottom = 30, legend = [], table }: Props) {
  const { own } = useTheme();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [says, setSays] = useState('');
  const file = name.toLowerCase().replace(/[^a-z0-9]+/g, '-');
  const svg = () => pictureOf(holder.current!, name, legend, { ground: own.ground, text: own.text, quiet: own.quiet });
  const copy = async () => {
    try {
      await navigator.clipboard.writeText(table!('\t'));
      setSays('Copied: paste it into a spreadsheet.');
    } catch {
      setSays('The browser does not let this page use the clipboard: take the CSV.');
    }
  };
  return (
    <>
      <IconButton size="small" aria-label={`Tools of ${name}`} title="Picture, table" onPointerDown={(event) => event.stopPropagation()} onClick={(event) => { setSays(''); setAnchor(event.currentTarget); }}
        sx={{ position: 'absolute', right: 16, bottom, p: 0.25, bgcolor: own.panel, opacity: 0.85 }}><MoreHoriz fontSize="small" /></IconButton>
      <Popover open={Boolean(anchor)} anchorEl={anchor} onClose={() => setAnchor(null)} transitionDuration={0} anchorOrigin={{ vertical: 'top', horizontal: 'right' }} transformOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        onPointerDown={(event) => event.stopPropagation()} onDoubleClick={(event) => event.stopPropagation()}
        slotProps={{ paper: { role: 'dialog', 'aria-label': `Tools of ${name}`, sx: { p: 1.5, bgcolor: 'background.paper', backgroundImage: 'none', border: 1, borderColor: 'divider' } } as object }}>
        <Box sx={{ display: 'flex', gap: 0.75, '& .MuiButton-root': { minWidth: 0 } }}>
          <Button variant="outlined" size="small" onClick={() => save(svg(), `${file}.svg`, 'image/svg+xml')}>SVG</Button>
          <Button variant="outlined" size="small" onClick={() => void pngOf(svg()).then((blob) => save(blob, `${file}.png`, 'image/png')).catch((error) => setSays(String(error)))}>PNG</Button>
          {table && <Button variant="outlined" size="small" onClick={() => save(table(','), `${file}.csv`, 'text/csv')}>CSV</Button>}
          {table && <Button variant="outlined" size="small" onClick={() => void copy()}>Copy table</Button>}
        </Box>
        <Box role="status" sx={{ fontSize: 12, mt: says ? 0.75 : 0, color: 'text.secondary' }}>{says}</Box>
      </Popover>
    </>
  );
}

/** What a plot shows as an SVG document of its own, with title and date. */
function pictureOf(holder: HTMLElement, title: string, legend: NonNullable<Props['legend']>, colours: { ground: string; text: string; quiet: string }, date = new Date()): string {
  const drawn = holder.querySelector('svg')!;
  const canvas = holder.querySelector('canvas');
  const { width, height } = drawn.getBoundingClientRect();
  const copy = drawn.cloneNode(true) as SVGSVGElement;
  copy.setAttribute('y', '34');
  copy.removeAttribute('style');
  const image = canvas ? `<image href="${canvas.toDataURL('image/png')}" x="${canvas.offsetLeft}" y="${canvas.offsetTop + 34}" width="${canvas.width}" height="${canvas.height}"/>` : '';
  let at = 12;
  const named = legend.filter((one) => one.label).map(({ label, colour, dash }) => {
    const entry = `<line x1="${at}" x2="${at + 22}" y1="${height + 46}" y2="${height + 46}" stroke="${colour}" stroke-width="2.5"${dash ? ` stroke-dasharray="${dash.join(' ')}"` : ''}/><text x="${at + 28}" y="${height + 50}" fill="${colours.text}">${label}</text>`;
    at += 50 + label!.length * 7;
    return entry;
  });
  const tall = height + (named.length ? 60 : 34);
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${tall}" width="${width}" height="${tall}" font-family="IBM Plex Sans, sans-serif" font-size="11">`
    + `<rect width="100%" height="100%" fill="${colours.ground}"/><text x="12" y="22" font-size="16" font-weight="600" fill="${colours.text}">${title}</text>`
    + `<text x="${width - 12}" y="22" text-anchor="end" fill="${colours.quiet}">${date.toLocaleString('sv-SE').slice(0, 16)}</text>${image}${new XMLSerializer().serializeToString(copy)}${named.join('')}</svg>`;
}

/** Rows of a time axis and named values, as a table. */
export function rowsOf(axis: string, lines: { label?: string; x: Float32Array; values: Float32Array }[], [low, high]: [number, number], between: string): string {
  const named = lines.filter((line) => line.label);
  if (!named.length) return '';
  const [first] = named;
  const rows = [[axis, ...named.map((line) => line.label)].join(between)];
  for (let i = 0; i < first.x.length; i++) {
    if (first.x[i] < low || first.x[i] > high) continue;
    rows.push([first.x[i].toFixed(4), ...named.map((line) => (i < line.values.length ? line.values[i].toFixed(4) : ''))].join(between));
  }
  return `${rows.join('\n')}\n`;
}
