/** Limits of taps by figures: those of the span, and bands with limits of their own, as on each side of a crossover. */
import AddIcon from '@mui/icons-material/AddOutlined';
import CloseIcon from '@mui/icons-material/CloseOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import ToggleButton from '@mui/material/ToggleButton';
import type { Bound, Wish } from '../../api/types';
import { Choice, NumberField } from '../../ui/Field';
import { Row } from '../../ui/Panel';
import { MOST, type Limit } from './tapLimits';

const MOST_BANDS = 8;
const HERTZ = { digits: 0, factor: true, step: 1 / 12, min: 10, max: 40000 };
const FIELDS: [Limit, string][] = [
  ['boost_db', 'Boost'],
  ['cut_db', 'Cut'],
  ['tolerance_db', 'Leave'],
];

const ROWS: [Limit | 'beyond_db' | 'cycles', string, string, number][][] = [
  [
    ['boost_db', 'Boost to', 'dB', MOST.boost_db],
    ['cut_db', 'Cut to', 'dB', MOST.cut_db],
    ['tolerance_db', 'Leave', 'dB', MOST.tolerance_db],
  ],
  [
    ['beyond_db', 'Beyond', 'dB', 12],
    ['cycles', 'Window', 'cycles', 200],
  ],
];

const SMOOTHED = [3, 6, 12, 24, 48].map((one) => ({ value: String(one), text: `1/${one} oct` }));

interface Props {
  wish: Wish;
  put: (values: Partial<Wish>) => void;
  /** Where a new band begins and ends. */
  fresh: [number, number];
}

export function TapMore({ wish, put, fresh }: Props) {
  const { bounds } = wish;
  const change = (n: number, values: Partial<Bound>) =>
    put({ bounds: bounds.map((one, k) => (k === n ? { ...one, ...values } : one)) });
  const add = () => {
    const { boost_db, cut_db, tolerance_db } = wish;
    put({ bounds: [...bounds, { low_hz: fresh[0], high_hz: fresh[1], boost_db, cut_db, tolerance_db }] });
  };
  return (
    <>
      {ROWS.map((row) => (
        <Row key={row[0][0]}>
          {row.map(([key, label, unit, max]) => (
            <NumberField
              key={key}
              label={label}
              unit={unit}
              digits={unit === 'dB' ? 1 : 0}
              value={wish[key]}
              step={unit === 'dB' ? 0.5 : 1}
              min={0}
              max={max}
              onCommit={(value) => put({ [key]: value })}
            />
          ))}
          {row[0][0] === 'beyond_db' && (
            <Box sx={{ flex: 1, minWidth: 0 }}>
              <Choice
                label="Smoothed"
                value={String(wish.smoothing)}
                options={SMOOTHED}
                onChange={(value) => put({ smoothing: Number(value) as Wish['smoothing'] })}
              />
            </Box>
          )}
        </Row>
      ))}
      <ToggleButton
        value="here"
        size="small"
        selected={wish.magnitude && wish.here}
        disabled={!wish.magnitude}
        title={
          'Lift what reflections take away at every recorded spot too, and level the ways among each other as the ' +
          'window hears them: right for one chair, wrong beside it' +
          (wish.magnitude ? '' : '. Take “Level too” first')
        }
        sx={{ py: 0.25, px: 1, fontSize: 12, textTransform: 'none' }}
        onChange={() => put({ here: !wish.here })}>
        For one chair
      </ToggleButton>
      {bounds.map((one, n) => (
        <Row key={n}>
          <NumberField
            {...HERTZ}
            label={`Band ${n + 1} from, Hz`}
            caption="From, Hz"
            value={one.low_hz}
            max={one.high_hz / 1.05}
            onCommit={(low_hz) => change(n, { low_hz })}
          />
          <NumberField
            {...HERTZ}
            label={`Band ${n + 1} to, Hz`}
            caption="to"
            value={one.high_hz}
            min={one.low_hz * 1.05}
            onCommit={(high_hz) => change(n, { high_hz })}
          />
          {FIELDS.map(([limit, word]) => (
            <NumberField
              key={limit}
              label={`${word} of band ${n + 1}, dB`}
              caption={word}
              value={one[limit]}
              step={0.5}
              min={0}
              max={MOST[limit]}
              onCommit={(value) => change(n, { [limit]: value })}
            />
          ))}
          <IconButton
            size="small"
            aria-label={`Remove band ${n + 1} of limits`}
            sx={{ p: 0.25, mb: 0.5 }}
            onClick={() => put({ bounds: bounds.filter((_, k) => k !== n) })}>
            <CloseIcon sx={{ fontSize: 15 }} />
          </IconButton>
        </Row>
      ))}
      {bounds.length < MOST_BANDS && (
        <Button
          size="small"
          startIcon={<AddIcon />}
          title="A band of frequencies with limits of its own, as on each side of a crossover"
          onClick={add}>
          Limit a band
        </Button>
      )}
    </>
  );
}
