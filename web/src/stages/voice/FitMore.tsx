/** What else a fit goes by: several places of the microphone, and spans that count more or less. */
import AddIcon from '@mui/icons-material/AddOutlined';
import CloseIcon from '@mui/icons-material/CloseOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Typography from '@mui/material/Typography';
import type { Weight } from '../../api/types';
import { Choice, NumberField } from '../../ui/Field';
import { Row } from '../../ui/Panel';
import { usePick } from '../../state/window';

const MOST_WEIGHTS = 8;
const HERTZ = { unit: 'Hz', digits: 0, factor: true, step: 1 / 12 };
const FRESH: Weight = { low_hz: 300, high_hz: 3000, weight: 2 };

export function FitMore({ places }: { places: string[] }) {
  const { limits, fitPlaces, set } = usePick('limits', 'fitPlaces', 'set');
  const put = (values: Partial<typeof limits>) => set({ limits: { ...limits, ...values } });
  const weigh = (n: number, values: Partial<Weight>) =>
    put({ weights: limits.weights.map((one, k) => (k === n ? { ...one, ...values } : one)) });
  const several = places.length > 1;
  return (
    <Box data-testid="fit-more-fields">
      {several || fitPlaces ? (
        <Row>
          <Box sx={{ flex: 2, minWidth: 0 }}>
            <Choice
              label="Goes by"
              value={fitPlaces ? 'places' : 'force'}
              options={[
                { value: 'force', text: 'The take in force' },
                { value: 'places', text: several ? `All ${places.length} places` : 'All places' },
              ]}
              onChange={(by) => set({ fitPlaces: by === 'places' })}
            />
          </Box>
          {fitPlaces && (
            <NumberField
              label="Worst over by"
              unit="dB"
              digits={0}
              value={limits.worst_db}
              step={1}
              min={0}
              max={60}
              onCommit={(worst_db) => put({ worst_db })}
            />
          )}
        </Row>
      ) : (
        <Typography sx={{ fontSize: 12 }} color="text.secondary">
          Record it at a second place of the microphone, named in the Rig, to fit over places.
        </Typography>
      )}
      {fitPlaces && several && (
        <Typography sx={{ fontSize: 12 }} color="text.secondary" title={places.join(', ')} noWrap>
          {`The mean of ${places.join(', ')}`}
        </Typography>
      )}
      {limits.weights.map((one, n) => (
        <Row key={n}>
          <NumberField
            label={`Weight ${n + 1} from`}
            {...HERTZ}
            value={one.low_hz}
            min={1}
            max={one.high_hz / 1.05}
            onCommit={(low_hz) => weigh(n, { low_hz })}
          />
          <NumberField
            label={`Weight ${n + 1} to`}
            {...HERTZ}
            value={one.high_hz}
            min={one.low_hz * 1.05}
            max={200_000}
            onCommit={(high_hz) => weigh(n, { high_hz })}
          />
          <NumberField
            label={`Weight ${n + 1} counts`}
            unit="times"
            value={one.weight}
            step={0.5}
            min={0}
            max={100}
            onCommit={(weight) => weigh(n, { weight })}
          />
          <IconButton
            size="small"
            aria-label={`Remove weight ${n + 1}`}
            sx={{ p: 0.25, mb: 0.5 }}
            onClick={() => put({ weights: limits.weights.filter((_, k) => k !== n) })}>
            <CloseIcon sx={{ fontSize: 15 }} />
          </IconButton>
        </Row>
      ))}
      {limits.weights.length < MOST_WEIGHTS && (
        <Button
          size="small"
          startIcon={<AddIcon />}
          title="A span of frequencies that counts more than the rest, or less, or not at all"
          onClick={() => put({ weights: [...limits.weights, FRESH] })}>
          Weigh a span
        </Button>
      )}
    </Box>
  );
}
