/** The menu of a plot: what is special to it, a picture of what is in view, and its figures. */
import MoreHoriz from '@mui/icons-material/MoreHorizOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import { useState, type ReactNode } from 'react';
import { Float, useAnchor } from '../../ui/Float';
import { pngOf, save } from './picture';

interface Props {
  name: string;
  title: string;
  bottom: number;
  svg: () => string;
  /** Rows of figures with this between them. */ table?: (between: string) => string;
  width?: number;
  buttons?: ReactNode;
  children?: ReactNode;
}

const NO_CLIPBOARD = 'The browser does not let this page use the clipboard: take the CSV.';

export function ToolsMenu({ name, title, bottom, svg, table, width, buttons, children }: Props) {
  const { anchor, open, onClose } = useAnchor();
  const [says, setSays] = useState('');
  const file = name.toLowerCase().replace(/[^a-z0-9]+/g, '-');
  const copy = (rows: string) =>
    Promise.resolve()
      .then(() => navigator.clipboard.writeText(rows))
      .then(() => setSays('Copied: paste it into a spreadsheet.'))
      .catch(() => setSays(NO_CLIPBOARD));
  const png = () =>
    pngOf(svg())
      .then((blob) => save(blob, `${file}.png`, 'image/png'))
      .catch((error) => setSays(String(error)));
  const forms = [
    { label: 'SVG', take: () => save(svg(), `${file}.svg`, 'image/svg+xml') },
    { label: 'PNG', take: () => void png() },
    ...(table
      ? [
          { label: 'CSV', take: () => save(table(','), `${file}.csv`, 'text/csv') },
          { label: 'Copy table', take: () => void copy(table('\t')) },
        ]
      : []),
  ];
  return (
    <>
      <IconButton
        size="small"
        aria-label={`Tools of ${name}`}
        title={title}
        onPointerDown={(event) => event.stopPropagation()}
        onClick={(event) => {
          setSays('');
          open(event);
        }}
        sx={{ position: 'absolute', right: 16, bottom, p: 0.25, bgcolor: (t) => t.own.panel, opacity: 0.85 }}>
        <MoreHoriz fontSize="small" />
      </IconButton>
      <Float name={`Tools of ${name}`} anchor={anchor} onClose={onClose} above width={width}>
        {children}
        <Box sx={{ display: 'flex', gap: 0.75, flexWrap: 'wrap', '& .MuiButton-root': { minWidth: 0 } }}>
          {buttons}
          {forms.map((one) => (
            <Button key={one.label} variant="outlined" size="small" onClick={one.take}>
              {one.label}
            </Button>
          ))}
        </Box>
        <Box role="status" sx={{ fontSize: 12, mt: says ? 0.75 : 0, color: 'text.secondary' }}>
          {says}
        </Box>
      </Float>
    </>
  );
}
