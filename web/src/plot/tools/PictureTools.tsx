/**
 * The tools of a plot that is drawn as SVG, over a canvas where it has one: a picture of what is in view, and its
 * figures.
 */
import MoreHoriz from '@mui/icons-material/MoreHorizOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Popover from '@mui/material/Popover';
import { useTheme } from '@mui/material/styles';
import { useState, type RefObject } from 'react';
import { pictureOf } from './drawn';
import { pngOf, save } from './picture';

interface Props {
  name: string;
  holder: RefObject<HTMLElement | null>;
  bottom?: number;
  legend?: { label?: string; colour: string; dash?: number[] }[];
  /** Rows of figures with this between them. */ table?: (between: string) => string;
}

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
      <IconButton
        size="small"
        aria-label={`Tools of ${name}`}
        title="Picture, table"
        onPointerDown={(event) => event.stopPropagation()}
        onClick={(event) => {
          setSays('');
          setAnchor(event.currentTarget);
        }}
        sx={{ position: 'absolute', right: 16, bottom, p: 0.25, bgcolor: own.panel, opacity: 0.85 }}>
        <MoreHoriz fontSize="small" />
      </IconButton>
      <Popover
        open={Boolean(anchor)}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        transitionDuration={0}
        anchorOrigin={{ vertical: 'top', horizontal: 'right' }}
        transformOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        onPointerDown={(event) => event.stopPropagation()}
        onDoubleClick={(event) => event.stopPropagation()}
        slotProps={{
          paper: {
            role: 'dialog',
            'aria-label': `Tools of ${name}`,
            sx: { p: 1.5, bgcolor: 'background.paper', backgroundImage: 'none', border: 1, borderColor: 'divider' },
          } as object,
        }}>
        <Box sx={{ display: 'flex', gap: 0.75, '& .MuiButton-root': { minWidth: 0 } }}>
          <Button variant="outlined" size="small" onClick={() => save(svg(), `${file}.svg`, 'image/svg+xml')}>
            SVG
          </Button>
          <Button
            variant="outlined"
            size="small"
            onClick={() =>
              void pngOf(svg())
                .then((blob) => save(blob, `${file}.png`, 'image/png'))
                .catch((error) => setSays(String(error)))
            }>
            PNG
          </Button>
          {table && (
            <Button variant="outlined" size="small" onClick={() => save(table(','), `${file}.csv`, 'text/csv')}>
              CSV
            </Button>
          )}
          {table && (
            <Button variant="outlined" size="small" onClick={() => void copy()}>
              Copy table
            </Button>
          )}
        </Box>
        <Box role="status" sx={{ fontSize: 12, mt: says ? 0.75 : 0, color: 'text.secondary' }}>
          {says}
        </Box>
      </Popover>
    </>
  );
}
