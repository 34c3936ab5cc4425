/** How the target is bent: tilt, lift of the bass, and points that are dragged in the plot. */
import Button from '@mui/material/Button';
import type { Bend, Edit } from '../../api/types';
import { NumberField } from '../../ui/Field';
import { Row } from '../../ui/Panel';
import { hertz, signed } from '../../ui/format';
import type { Work } from '../../state/project';

const SPAN: [number, number] = [30, 16000];

/** Where a further point has most room, and at the level that is there already. */
export function roomiest(bends: Bend[]): number {
  const known = [SPAN[0], ...bends.map((one) => one.frequency_hz).sort((a, b) => a - b), SPAN[1]];
  const gaps = known.slice(1).map((high, n) => ({ at: Math.sqrt(known[n] * high), wide: high / known[n] }));
  return Math.round(gaps.reduce((best, one) => (one.wide > best.wide ? one : best)).at);
}

export function Bending({ work }: { work: Work }) {
  const { tune, commit } = work;
  const { target } = tune;
  const set = (values: Partial<Extract<Edit, { do: 'target' }>>) => void commit([{ do: 'target', ...values }]);
  const bent = target.tilt_db !== 0 || target.bass_db !== 0 || target.bends.length > 0;
  return (
    <>
      <Row>
        <NumberField
          label="Tilt per octave"
          unit="dB"
          sign
          digits={2}
          value={target.tilt_db}
          step={0.05}
          coarse={0.5}
          min={-3}
          max={3}
          onCommit={(tilt_db) => set({ tilt_db })}
        />
        <NumberField
          label="Bass lift"
          unit="dB"
          sign
          value={target.bass_db}
          step={0.1}
          coarse={1}
          min={-12}
          max={18}
          onCommit={(bass_db) => set({ bass_db })}
        />
        <NumberField
          label="half of it at"
          unit="Hz"
          digits={0}
          factor
          value={target.bass_hz}
          step={1 / 12}
          coarse={1 / 3}
          min={20}
          max={300}
          onCommit={(bass_hz) => set({ bass_hz })}
        />
      </Row>
      <Row>
        <Button
          size="small"
          disabled={target.bends.length >= 16}
          onClick={() => set({ bends: [...target.bends, { frequency_hz: roomiest(target.bends), level_db: 0 }] })}>
          Add a point
        </Button>
        {bent && (
          <Button
            size="small"
            title={target.bends.map((one) => `${hertz(one.frequency_hz)}: ${signed(one.level_db)} dB`).join('\n')}
            onClick={() => set({ tilt_db: 0, bass_db: 0, bends: [] })}>
            As it comes
          </Button>
        )}
      </Row>
    </>
  );
}
