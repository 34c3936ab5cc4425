/** Channel check: a burst through one output, and which driver was heard; polarity by pulse. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import { client, settled } from '../../api/client';
import type { Driver } from '../../api/types';
import { Choice } from '../../ui/Field';
import { Section } from '../../ui/Panel';
import type { Work } from '../../state/project';
import { usePick } from '../../state/window';
import { RunBox } from '../common/RunBox';

export function ChannelCheck({ work, driver }: { work: Work; driver: Driver }) {
  const { project, slug, begin, act, recording } = work;
  const { own } = useTheme();
  const { progress, set } = usePick('progress', 'set');
  const [heard, setHeard] = useState<string>('');
  const path = { params: { path: { slug } } };
  const body = { channel: driver.id };
  const drivers = project.layout.drivers;
  const burst = () => {
    setHeard('');
    void begin(() => settled(client.POST('/api/projects/{slug}/burst', { ...path, body })));
  };
  const pulse = () => void begin(() => settled(client.POST('/api/projects/{slug}/polarity', { ...path, body })));
  const other = drivers.find((one) => one.id === heard);
  const exchange = () => {
    if (!other) return;
    const swapped = drivers.map((one) =>
      one.id === driver.id
        ? { ...one, output: other.output }
        : one.id === other.id
          ? { ...one, output: driver.output }
          : one,
    );
    void act(() =>
      settled(client.PUT('/api/projects/{slug}/layout', { ...path, body: { ...project.layout, drivers: swapped } })),
    ).then(() => setHeard(''));
  };
  const next = () => {
    setHeard('');
    set({ selection: drivers[(drivers.indexOf(driver) + 1) % drivers.length].id });
  };
  const here = progress?.channels.includes(driver.id) && progress.channels.length === 1;
  const polarity = here && progress?.kind === 'polarity' && progress.stage === 'done' ? progress.result : null;
  const ear = here && progress?.kind === 'channels' ? progress.result?.ear : undefined;
  return (
    <>
      <Section title={`Which driver is on output ${driver.output}?`} aside={driver.name}>
        <Box sx={{ display: 'flex', gap: 1 }}>
          <Button
            variant="contained"
            sx={{ flex: 1 }}
            disabled={recording}
            onClick={burst}
            data-testid="burst">{`Play a burst to ${driver.name}`}</Button>
          <Button variant="outlined" onClick={next}>
            Next
          </Button>
        </Box>
        {ear && (
          <Typography
            data-testid="ear"
            sx={{ fontSize: 12.5, mt: 0.5 }}>{`In the stand-in’s van you hear: ${ear}`}</Typography>
        )}
        <Box sx={{ mt: 0.5 }}>
          <Choice
            label="What did you hear?"
            value={heard}
            options={[{ value: '', text: 'choose …' }, ...drivers.map((one) => ({ value: one.id, text: one.name }))]}
            onChange={setHeard}
          />
        </Box>
        {heard === driver.id && (
          <Typography
            sx={{ fontSize: 12.5, mt: 0.5, color: own.good }}
            data-testid="right-driver">{`Right: ${driver.name} is on output ${driver.output}.`}</Typography>
        )}
        {other && other.id !== driver.id && (
          <Box sx={{ mt: 0.5, borderLeft: 3, borderColor: 'primary.main', pl: 1 }}>
            <Typography
              sx={{
                fontSize: 12.5,
              }}>{`${other.name} is on output ${driver.output}, where ${driver.name} should be.`}</Typography>
            <Button
              variant="outlined"
              size="small"
              onClick={exchange}
              data-testid="exchange-outputs">{`Exchange outputs ${driver.output} and ${other.output}`}</Button>
          </Box>
        )}
      </Section>
      <Section title="Polarity by pulse" aside={driver.name}>
        <Button
          variant="outlined"
          fullWidth
          disabled={recording}
          onClick={pulse}
          data-testid="pulse">{`Send pulses to ${driver.name}`}</Button>
        {polarity && (
          <Box sx={{ mt: 0.5 }} data-testid="polarity">
            <Typography sx={{ fontSize: 13, fontWeight: 600 }}>
              {polarity.heard
                ? `Moves ${polarity.positive ? 'outwards first: positive' : 'inwards first: inverted'}` +
                  ` · ${Math.round((polarity.sure ?? 0) * 100)} % sure`
                : 'No pulse was heard'}
            </Typography>
            {polarity.shape && <Shape shape={polarity.shape} />}
            {polarity.heard && (polarity.sure ?? 0) < 0.5 && (
              <Typography sx={{ fontSize: 11.5 }} color="text.secondary">
                Not clear: reflections or noise come close to the first movement. Hold the microphone nearer.
              </Typography>
            )}
          </Box>
        )}
      </Section>
      {recording && progress && <RunBox work={work} progress={progress} />}
    </>
  );
}

function Shape({ shape }: { shape: number[] }) {
  const { own } = useTheme();
  const points = shape
    .map((value, n) => `${((n / (shape.length - 1)) * 300).toFixed(1)},${(24 - value * 21).toFixed(1)}`)
    .join(' ');
  return (
    <svg viewBox="0 0 300 48" width="100%" role="img" aria-label="The pulse as the microphone heard it, 20 ms">
      <rect width={300} height={48} rx={3} fill={own.plot} />
      <line x1={0} x2={300} y1={24} y2={24} stroke={own.grid} />
      <polyline points={points} fill="none" stroke={own.sum} strokeWidth={1.4} />
    </svg>
  );
}
