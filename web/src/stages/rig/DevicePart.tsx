/** Which device, at which rate, and what its inputs are. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { client, settled } from '../../api/client';
import { Choice, WordField } from '../../ui/Field';
import { Figure, Row, Section } from '../../ui/Panel';
import type { StageProps } from '../props';
import { openMicrophone } from '../../state/microphone';
import { useWindow } from '../../state/window';
import { BrowserPart } from './BrowserPart';
import { useRigChange } from './useRigChange';

export function DevicePart({ work }: StageProps) {
  const { rig } = work.project;
  const change = useRigChange(work);
  const device = rig.devices.find((one) => one.id === rig.device);
  const inputs = Array.from(
    { length: device?.inputs ?? rig.known_inputs },
    (_, n) => rig.input_names[n] ?? `Input ${n + 1}`,
  );
  const outputs = Array.from(
    { length: Math.min(device?.outputs ?? 1, 16) },
    (_, n) => rig.output_names[n] ?? `Output ${n + 1}`,
  );
  const options = inputs.map((name, n) => ({ value: n, text: `${n + 1} · ${name}` }));
  const missing = device ? [] : [{ value: rig.device, text: `${rig.device.replace('card:', '')} (not there)` }];
  const refused = useWindow((state) => (state.microphone.state === 'refused' ? state.microphone.says : ''));
  const choose = async (id: string) => {
    const wanted = rig.devices.find((one) => one.id === id);
    const rate = wanted && !wanted.rates.includes(rig.rate) ? 48_000 : rig.rate;
    // It is asked for first: without it the rig would have a device that cannot be had.
    if (id !== 'browser' || (await openMicrophone(rate))) change({ device: id, rate });
  };
  const ready = rig.ready.find((one) => one.key === 'device');
  const rename = (n: number, name: string) => {
    if (name.trim() && name !== inputs[n])
      change({ input_names: inputs.map((old, m) => (m === n ? name.trim() : old)) });
  };
  return (
    <>
      {ready?.state === 'stale' && (
        <Typography data-testid="device-trouble" sx={{ fontSize: 12.5, color: (t) => t.own.clayText }}>
          {ready.says}
        </Typography>
      )}
      <Choice
        label="Device"
        value={rig.device}
        options={[...missing, ...rig.devices.map((one) => ({ value: one.id, text: one.name }))]}
        onChange={(value) => void choose(value)}
      />
      {refused && (
        <Typography data-testid="microphone-refused" sx={{ fontSize: 12.5, color: (t) => t.own.clayText }}>
          {refused}
        </Typography>
      )}
      <Choice
        label="Sample rate"
        value={rig.rate}
        options={(device?.rates ?? [rig.rate]).map((one) => ({ value: one, text: `${one / 1000} kHz` }))}
        onChange={(value) => change({ rate: value })}
      />
      {rig.device === 'browser' && <BrowserPart rig={rig} />}
      {rig.latency_s ? <Figure name="Latency it states" value={`${(rig.latency_s * 1000).toFixed(0)} ms`} /> : null}
      {rig.device === 'file' && (
        <Typography sx={{ fontSize: 12 }} color="text.secondary">
          Record makes a WAV to play elsewhere and waits for its recording: first channel the microphone, second the
          loopback if there is one.
        </Typography>
      )}
      <Section title="Inputs">
        {inputs.map((name, n) => (
          <NameRow
            key={`${rig.device}-${n}-${name}`}
            n={n}
            name={name}
            label={`Name of input ${n + 1}`}
            onKeep={(text) => rename(n, text)}
          />
        ))}
        <Row>
          <Choice
            label="Microphone on"
            value={rig.microphone_input}
            options={options}
            onChange={(value) =>
              change(
                value === rig.reference_input
                  ? { microphone_input: value, reference_input: rig.microphone_input }
                  : { microphone_input: value },
              )
            }
          />
          <Choice
            label="Reference (loopback) on"
            value={rig.reference_input ?? -1}
            options={[{ value: -1, text: 'none' }, ...options]}
            onChange={(value) =>
              change(
                value < 0
                  ? { no_reference: true }
                  : value === rig.microphone_input
                    ? { reference_input: value, microphone_input: rig.reference_input ?? 0 }
                    : { reference_input: value },
              )
            }
          />
        </Row>
        {inputs.length > 1 && rig.reference_input !== null && (
          <Button
            size="small"
            variant="outlined"
            sx={{ mt: 1 }}
            onClick={() => void work.onRig(() => settled(client.POST('/api/rig/exchange')))}>
            Exchange the two
          </Button>
        )}
      </Section>
      <Section title={outputs.length > 1 ? 'Outputs' : 'Output'}>
        {outputs.map((name, n) => (
          <NameRow
            key={`${rig.device}-out-${n}-${name}`}
            n={n}
            name={name}
            label={`Name of output ${n + 1}`}
            onKeep={(text) => change({ output_names: outputs.map((old, m) => (m === n ? text : old)) })}
          />
        ))}
        {outputs.length > 1 && (
          <Choice
            label="What plays"
            value={rig.output ?? -1}
            options={[
              { value: -1, text: 'all outputs alike' },
              ...outputs.map((name, n) => ({ value: n, text: `${n + 1} · ${name}` })),
            ]}
            onChange={(value) => change(value < 0 ? { all_outputs: true } : { output: value })}
          />
        )}
      </Section>
      <Section title="Sound cards">
        {rig.no_cards && (
          <Typography
            data-testid="no-cards"
            sx={{ fontSize: 12 }}
            color="text.secondary">{`None: ${rig.no_cards}.`}</Typography>
        )}
        <Button
          size="small"
          variant="outlined"
          sx={{ mt: 0.5 }}
          onClick={() => void work.onRig(() => settled(client.POST('/api/rig/look')))}>
          Look for devices again
        </Button>
      </Section>
    </>
  );
}

function NameRow({
  n,
  name,
  label,
  onKeep,
}: {
  n: number;
  name: string;
  label: string;
  onKeep: (text: string) => void;
}) {
  const keep = (text: string) => text.trim() && text.trim() !== name && onKeep(text.trim());
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: 0.5, fontSize: 12.5 }}>
      <Box sx={{ width: 16, color: 'text.secondary' }}>{n + 1}</Box>
      <WordField label={label} value={name} most={40} onCommit={(value) => keep(value)} />
    </Box>
  );
}
