/** The tools of a plot: limits to type, fit and back, picture, table. */
import MoreHoriz from '@mui/icons-material/MoreHorizOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Popover from '@mui/material/Popover';
import { useState } from 'react';
import { NumberField } from '../../ui/Field';
import { Row } from '../../ui/Panel';
import { useWindow } from '../../state/window';
import { pngOf, save, svgOf, tableOf, type Shown } from './picture';
import { axisTo, back, fit, rangeTo } from '../zoom';

export function PlotTools({ name, shown }: { name: string; shown: () => Shown }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const zoom = useWindow((desk) => desk.zoom);
  const zoomed = useWindow((desk) => desk.zoomed.length);
  const [says, setSays] = useState('');
  const file = name.toLowerCase().replace(/[^a-z0-9]+/g, '-');
  const now = shown();
  const copy = async () => {
    try {
      await navigator.clipboard.writeText(tableOf(shown(), '\t'));
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
        title="Limits, picture, table"
        onPointerDown={(event) => event.stopPropagation()}
        onClick={(event) => {
          setSays('');
          setAnchor(event.currentTarget);
        }}
        sx={{ position: 'absolute', right: 16, bottom: 10, p: 0.25, bgcolor: (t) => t.own.panel, opacity: 0.85 }}>
        <MoreHoriz fontSize="small" />
      </IconButton>
      <Popover
        open={Boolean(anchor)}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        transitionDuration={0}
        anchorOrigin={{ vertical: 'top', horizontal: 'right' }}
        transformOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        slotProps={{
          paper: {
            role: 'dialog',
            'aria-label': `Tools of ${name}`,
            sx: {
              width: 300,
              p: 1.5,
              bgcolor: 'background.paper',
              backgroundImage: 'none',
              border: 1,
              borderColor: 'divider',
            },
          } as object,
        }}>
        <Row>
          <NumberField
            label="Shown from"
            unit="Hz"
            value={zoom.axis[0]}
            digits={0}
            step={1 / 3}
            factor
            min={20}
            max={zoom.axis[1] / 1.15}
            onCommit={(value) => axisTo(value, zoom.axis[1])}
          />
          <NumberField
            label="Shown to"
            unit="Hz"
            value={zoom.axis[1]}
            digits={0}
            step={1 / 3}
            factor
            min={zoom.axis[0] * 1.15}
            max={20000}
            onCommit={(value) => axisTo(zoom.axis[0], value)}
          />
        </Row>
        <Row>
          <NumberField
            label="Bottom"
            value={now.range[0]}
            digits={1}
            step={1}
            coarse={5}
            max={now.range[1] - 1}
            onCommit={(value) => rangeTo(name, [value, now.range[1]])}
          />
          <NumberField
            label="Top"
            value={now.range[1]}
            digits={1}
            step={1}
            coarse={5}
            min={now.range[0] + 1}
            onCommit={(value) => rangeTo(name, [now.range[0], value])}
          />
        </Row>
        <Box sx={{ display: 'flex', gap: 0.75, mt: 1, flexWrap: 'wrap', '& .MuiButton-root': { minWidth: 0 } }}>
          <Button variant="outlined" size="small" onClick={fit}>
            Fit
          </Button>
          <Button variant="outlined" size="small" disabled={!zoomed} onClick={back}>
            Back
          </Button>
          <Button variant="outlined" size="small" onClick={() => save(svgOf(shown()), `${file}.svg`, 'image/svg+xml')}>
            SVG
          </Button>
          <Button
            variant="outlined"
            size="small"
            onClick={() =>
              void pngOf(svgOf(shown()))
                .then((blob) => save(blob, `${file}.png`, 'image/png'))
                .catch((error) => setSays(String(error)))
            }>
            PNG
          </Button>
          <Button
            variant="outlined"
            size="small"
            onClick={() => save(tableOf(shown(), ','), `${file}.csv`, 'text/csv')}>
            CSV
          </Button>
          <Button variant="outlined" size="small" onClick={() => void copy()}>
            Copy table
          </Button>
        </Box>
        <Box role="status" sx={{ fontSize: 12, mt: says ? 0.75 : 0, color: 'text.secondary' }}>
          {says}
        </Box>
      </Popover>
    </>
  );
}
