/** How takes are made: the sweep, the time between takes, the moving microphone, and where the microphone is held. */
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import type { Rig } from '../../api/types';
import { Choice, NumberField } from '../../ui/Field';
import { Row, Section } from '../../ui/Panel';
import { WINDOWS } from '../common/averaging';
import type { StageProps } from '../props';
import { Nearest } from './Nearest';
import { Positions } from './Positions';
import { useRigChange } from './useRigChange';

const LENGTHS = [14, 15, 16, 17, 18, 19, 20].map((n) => 2 ** n);
const SIZES = [14, 15, 16, 17, 18].map((n) => 2 ** n);
const TIMINGS = [
  { value: 'loopback', text: 'Loopback' },
  { value: 'marker', text: 'Marker' },
  { value: 'none', text: 'Not at all' },
] as const;
const TIMINGS_OF_SOURCE = [
  { value: 'anchor', text: 'The anchor' },
  { value: 'none', text: 'Not at all' },
] as const;
const PLAYERS = [
  { value: 'interface', text: 'The sound card, straight into the processor' },
  { value: 'source', text: 'The source: its track goes in by its wires' },
] as const;
const OVERLAPS = [0, 0.5, 0.75, 0.875];

export function TakesPart({ work }: StageProps) {
  const { project } = work;
  const { rig } = project;
  const { moving } = rig;
  const bySource = rig.plays === 'source';
  // What keeps the time again once the sound card plays.
  const looped = rig.reference_input === null ? 'marker' : 'loopback';
  const change = useRigChange(work);
  const onMoving = (values: Partial<typeof moving>) => change({ moving: { ...moving, ...values } });
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1.25, overflowY: 'auto', minHeight: 0 }}>
      <Section title="What plays">
        <Choice
          label="Takes are played by"
          hideLabel
          value={rig.plays}
          options={[...PLAYERS]}
          onChange={(value) => change({ plays: value })}
        />
        {bySource && (
          <Typography sx={{ fontSize: 12, mt: 0.5 }} color="text.secondary">
            Let it play the track while a take is made, as loud as when its wires were recorded: what it does is divided
            out. The driver hears the left side alone, the anchor, which keeps the time, the right one
            {project.link.by_hand ? ': set that on your processor before each take.' : '.'}
          </Typography>
        )}
      </Section>
      {bySource ? (
        <Section title="Before a take">
          <Countdown rig={rig} change={change} />
        </Section>
      ) : (
        <SweepSection rig={rig} change={change} />
      )}
      <Section title="Time between takes">
        <Row>
          {bySource ? (
            <Choice
              label="Kept by"
              value={rig.timing === 'none' ? 'none' : 'anchor'}
              options={[...TIMINGS_OF_SOURCE]}
              onChange={(value) => change({ timing: value === 'none' ? value : looped })}
            />
          ) : (
            <Choice
              label="Kept by"
              value={rig.timing}
              options={[...TIMINGS]}
              onChange={(value) => change({ timing: value })}
            />
          )}
          <Choice
            label={bySource ? 'Anchor' : 'Anchor of the marker'}
            value={rig.anchor}
            options={[
              { value: '', text: 'none' },
              ...project.layout.drivers.map((one) => ({ value: one.id, text: one.name })),
            ]}
            onChange={(value) => change({ anchor: value })}
          />
        </Row>
        {!bySource && rig.timing === 'marker' && rig.device !== 'stand-in' && (
          <>
            <Choice
              label="The marker comes"
              value={rig.marker_output}
              options={[
                { value: 'same', text: 'As the sweep: the processor changes over' },
                { value: 'second', text: 'On the second output, wired to the anchor' },
              ]}
              onChange={(value) => change({ marker_output: value })}
            />
            <Typography sx={{ fontSize: 12, mt: 0.5 }} color="text.secondary">
              {rig.marker_output === 'second'
                ? 'Let the first output reach the driver that is measured alone, and the second one the anchor alone.'
                : 'Where nothing switches your processor, anchor and driver cannot take turns: take the second output.'}
            </Typography>
          </>
        )}
      </Section>
      <Section title="Moving microphone">
        <Row>
          <Choice
            label="Transform"
            value={moving.size}
            options={SIZES.map((n) => ({ value: n, text: `${n.toLocaleString('en')} · ${lasting(n, rig.rate)}` }))}
            onChange={(value) => onMoving({ size: value })}
          />
          <NumberField
            label="Averages"
            value={moving.averages}
            step={10}
            min={2}
            max={10000}
            digits={0}
            onCommit={(value) => onMoving({ averages: Math.round(value) })}
          />
        </Row>
        <Row>
          <Choice
            label="Window"
            value={moving.window}
            options={WINDOWS}
            onChange={(value) => onMoving({ window: value })}
          />
          <Choice
            label="Overlap"
            value={moving.overlap}
            options={OVERLAPS.map((n) => ({ value: n, text: `${n * 100} %` }))}
            onChange={(value) => onMoving({ overlap: value })}
          />
        </Row>
      </Section>
      <Nearest work={work} />
      <Positions rig={rig} fixed={project.place.spots} onChange={change} />
    </Box>
  );
}

const lasting = (samples: number, rate: number) => `${(samples / rate).toFixed(samples / rate < 10 ? 1 : 0)} s`;

interface SweepProps {
  rig: Rig;
  change: ReturnType<typeof useRigChange>;
}

function SweepSection({ rig, change }: SweepProps) {
  const { sweep } = rig;
  const onSweep = (values: Partial<typeof sweep>) => change({ sweep: { ...sweep, ...values } });
  return (
    <Section title="Sweep">
      <Row>
        <NumberField
          label="From"
          unit="Hz"
          value={sweep.low_hz}
          step={1 / 3}
          factor
          min={1}
          max={sweep.high_hz / 2}
          digits={0}
          onCommit={(value) => onSweep({ low_hz: value })}
        />
        <NumberField
          label="to"
          unit="Hz"
          value={sweep.high_hz}
          step={1 / 12}
          factor
          min={sweep.low_hz * 2}
          max={rig.rate / 2}
          digits={0}
          onCommit={(value) => onSweep({ high_hz: value })}
        />
      </Row>
      <Row>
        <Choice
          label="Length"
          value={sweep.length}
          options={LENGTHS.map((n) => ({ value: n, text: lasting(n, rig.rate) }))}
          onChange={(value) => onSweep({ length: value })}
        />
        <NumberField
          label="Repeats"
          value={sweep.repeats}
          step={1}
          min={1}
          max={32}
          digits={0}
          onCommit={(value) => onSweep({ repeats: Math.round(value) })}
        />
      </Row>
      <Row>
        <NumberField
          label="Level"
          unit="dBFS"
          value={sweep.level_db}
          step={1}
          min={-80}
          max={0}
          digits={0}
          onCommit={(value) => onSweep({ level_db: value })}
        />
        <Countdown rig={rig} change={change} />
      </Row>
    </Section>
  );
}

function Countdown({ rig, change }: SweepProps) {
  const { sweep } = rig;
  return (
    <NumberField
      label="Countdown"
      unit="s"
      value={sweep.countdown_s}
      step={1}
      min={0}
      max={60}
      digits={0}
      onCommit={(value) => change({ sweep: { ...sweep, countdown_s: Math.round(value) } })}
    />
  );
}
