/** The bands of one input by hand. */
import AddIcon from '@mui/icons-material/AddOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import type { Band } from '../../api/types';
import type { Work } from '../../state/project';
import { useWindow } from '../../state/window';
import { BandRow } from '../common/BandRow';
import { bandsAt, putBandAt } from './inputBands';

const FRESH: Band = { kind: 'peaking', frequency_hz: 1000, gain_db: -3, q: 2, off: false };

export function InputBands({ work, number }: { work: Work; number: number }) {
  const set = useWindow((state) => state.set);
  const can = work.project.link.limits;
  const bands = bandsAt(work, number);
  const put = (n: number, band: Band | null) =>
    work.commit([putBandAt(work, number, n, band)], `Input ${number}: bands`);
  return (
    <>
      <Box
        role="list"
        tabIndex={0}
        aria-label={`Bands of input ${number}`}
        sx={{ mt: 0.75, maxHeight: 84, overflowY: 'auto', display: 'flex', flexDirection: 'column', gap: '2px' }}>
        {bands.map((one, n) => (
          <BandRow key={n} one={one} n={n} can={can} put={(next) => void put(n, next)} />
        ))}
      </Box>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
        <Button
          size="small"
          startIcon={<AddIcon />}
          disabled={bands.length >= can.input_bands}
          onClick={() => void put(bands.length, FRESH).then(() => set({ band: bands.length }))}>
          Add a band
        </Button>
        <Typography sx={{ fontSize: 12 }} color="text.secondary">
          {`${can.input_bands - bands.length} free`}
        </Typography>
      </Box>
    </>
  );
}
