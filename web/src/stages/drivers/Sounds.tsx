/** Test signals: played through the selection at a level, or downloaded as WAV. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useState } from 'react';
import { client, settled } from '../../api/client';
import { formWith } from '../../api/files';
import { FileInput, useFile } from '../../ui/FileInput';
import { Choice, NumberField } from '../../ui/Field';
import { Row, Section } from '../../ui/Panel';
import type { Work } from '../../state/project';
import { useWindow } from '../../state/window';

const KINDS = [
  { value: 'pink', text: 'Pink noise, both sides alike' },
  { value: 'pink-apart', text: 'Pink noise, sides unrelated' },
  { value: 'white', text: 'White noise' },
  { value: 'multitone', text: 'Third-octave multitone' },
  { value: 'sine', text: 'Sine' },
  { value: 'pulses', text: 'Polarity pulses' },
  { value: 'centre', text: 'Centre tone, third octave' },
  { value: 'sweep', text: 'Sweep, exponential' },
  { value: 'linear-sweep', text: 'Sweep, linear' },
  { value: 'own', text: 'A file of your own' },
] as const;
type Kind = (typeof KINDS)[number]['value'];
const RATES = [44100, 48000, 88200, 96000, 176400, 192000];
const WITH_TONE: Kind[] = ['sine', 'centre', 'pulses'];

export function Sounds({ work, selection }: { work: Work; selection: string }) {
  const { slug, begin, recording, project } = work;
  const set = useWindow((state) => state.set);
  const [kind, setKind] = useState<Kind>('pink');
  const [level, setLevel] = useState(-24);
  const [seconds, setSeconds] = useState(10);
  const [tone, setTone] = useState(1000);
  const [rate, setRate] = useState(48000);
  const [bits, setBits] = useState<16 | 24 | 32>(24);
  const [own, setOwn] = useState('');
  const file = useFile();
  const signal = { kind, level_db: level, seconds, hertz: tone, rate, bits };
  const play = (channels: string[]) =>
    void begin(() =>
      settled(client.POST('/api/projects/{slug}/play', { params: { path: { slug } }, body: { channels, signal } })),
    );
  const query = new URLSearchParams(Object.entries(signal).map(([name, value]) => [name, String(value)])).toString();
  const bring = (file: File) => {
    void begin(async () => {
      const found = await settled<{ name: string; seconds: number }>(
        client.POST('/api/signal', { body: formWith(file) as never }),
      );
      setOwn(found.name);
      setSeconds(Math.min(120, Math.max(0.2, Math.round(found.seconds * 10) / 10)));
      set({ error: null });
    });
  };
  const name = project.layout.drivers.find((one) => one.id === selection)?.name ?? selection;
  return (
    <Section title="Test signals" aside="through what the processor holds">
      <Choice label="Signal" hideLabel value={kind} options={[...KINDS]} onChange={setKind} />
      {kind === 'own' && (
        <Button variant="outlined" size="small" sx={{ mt: 0.5 }} onClick={() => file.ask()}>
          {own || 'Choose a WAV file'}
        </Button>
      )}
      <FileInput file={file} accept=".wav,audio/wav" testId="own-signal" onBring={bring} />
      <Row>
        <NumberField
          label="Level"
          unit="dBFS"
          value={level}
          step={1}
          min={-80}
          max={0}
          digits={0}
          onCommit={setLevel}
        />
        <NumberField label="Length" unit="s" value={seconds} step={1} min={0.2} max={120} onCommit={setSeconds} />
        {WITH_TONE.includes(kind) && (
          <NumberField
            label="Frequency"
            unit="Hz"
            value={tone}
            step={1 / 3}
            factor
            min={10}
            max={20000}
            digits={0}
            onCommit={setTone}
          />
        )}
      </Row>
      <Row>
        <Choice
          label="File rate"
          value={rate}
          options={RATES.map((one) => ({ value: one, text: `${one / 1000} kHz` }))}
          onChange={setRate}
        />
        <Choice
          label="File depth"
          value={bits}
          options={[
            { value: 16, text: '16 bit' },
            { value: 24, text: '24 bit' },
            { value: 32, text: '32 bit float' },
          ]}
          onChange={setBits}
        />
      </Row>
      <Box sx={{ display: 'flex', gap: 0.75, mt: 1, '& .MuiButton-root': { minWidth: 0, px: 1 } }}>
        <Button
          variant="contained"
          sx={{ flex: 1 }}
          disabled={recording}
          onClick={() => play([selection])}
          data-testid="play-signal">{`Play to ${name}`}</Button>
        <Button variant="outlined" disabled={recording} onClick={() => play([])}>
          To all
        </Button>
        <Button variant="outlined" href={`/api/signal.wav?${query}`} download>
          WAV
        </Button>
      </Box>
    </Section>
  );
}
