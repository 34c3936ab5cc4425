/**
 * The figures of a stretch that was dragged over: mean, plus/minus and energy of every named curve, left minus right.
 */
import Close from '@mui/icons-material/CloseOutlined';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import { hertz, plain, signed } from '../../ui/format';
import { useWindow } from '../../state/window';
import { LEFT } from '../scale';

export function SpanReading() {
  const span = useWindow((state) => state.span);
  const facts = useWindow((state) => state.picture?.facts.span);
  const ohms = useWindow((state) => state.picture?.view.part === 'impedance');
  const set = useWindow((state) => state.set);
  if (!span || !facts) return null;
  return (
    <Box
      data-testid="span-reading"
      onPointerDown={(event) => event.stopPropagation()}
      sx={{
        position: 'absolute',
        left: LEFT + 70,
        top: 14,
        px: 1,
        py: 0.5,
        borderRadius: 1,
        bgcolor: 'background.paper',
        border: 1,
        borderColor: 'divider',
        fontSize: 11.5,
        maxHeight: '70%',
        overflowY: 'auto',
      }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, fontWeight: 600 }}>
        {`${hertz(facts.low_hz)} to ${hertz(facts.high_hz)}`}
        <IconButton
          size="small"
          aria-label="Close the reading"
          sx={{ p: 0, ml: 'auto' }}
          onClick={() => set({ span: null })}>
          <Close sx={{ fontSize: 15 }} />
        </IconButton>
      </Box>
      <Box
        component="table"
        sx={{
          borderSpacing: '10px 0',
          ml: '-10px',
          '& td, & th': { textAlign: 'right', fontWeight: 400, p: 0 },
          '& td:first-of-type, & th:first-of-type': { textAlign: 'left' },
          '& th': { color: 'text.secondary' },
        }}>
        <thead>
          <tr>
            <th>{ohms ? 'ohm' : 'dB'}</th>
            <th>mean</th>
            <th>±</th>
            {!ohms && <th>energy</th>}
          </tr>
        </thead>
        <tbody>
          {facts.rows.map((row) => (
            <tr key={row.label}>
              <td>{row.label}</td>
              <td>{row.energy_db === undefined && !ohms ? signed(row.mean) : plain(row.mean)}</td>
              <td>{plain(row.plus_minus)}</td>
              <td>{row.energy_db === undefined ? '' : plain(row.energy_db)}</td>
            </tr>
          ))}
        </tbody>
      </Box>
    </Box>
  );
}
