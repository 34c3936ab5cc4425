/** FIR taps in Voice: what is wanted of them and within which limits, what was found, and what a channel has. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import ToggleButton from '@mui/material/ToggleButton';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { client, Refusal, settled } from '../../api/client';
import type { Fir, Wish } from '../../api/types';
import { Choice, NumberField } from '../../ui/Field';
import { Row, Section, Trouble } from '../../ui/Panel';
import { plain } from '../../ui/format';
import type { Work } from '../../state/project';
import { usePick } from '../../state/window';
import { Searching } from '../common/Searching';
import { FoundTaps } from './FoundTaps';
import { TapMore } from './TapMore';
import { freshBand } from './tapLimits';

const DO: { value: Wish['phase']; text: string }[] = [
  { value: 'linear', text: 'Linear phase' },
  { value: 'excess', text: 'Excess phase' },
  { value: 'keep', text: 'Level only' },
];
const HERTZ = { unit: 'Hz', digits: 0, factor: true, step: 1 / 12, coarse: 1 / 3 };

export function Taps({ work, selection }: { work: Work; selection: string }) {
  const { project, slug, tune, commit, draft } = work;
  const { wish, set } = usePick('wish', 'set');
  const [found, setFound] = useState<{ about: string; is: Fir } | null>(null);
  const [busy, setBusy] = useState(false);
  const [refused, setRefused] = useState<string | null>(null);
  const [more, setMore] = useState(false);
  const driver = project.layout.drivers.find((one) => one.id === selection);
  const most = project.link.limits.taps;
  const asked = { ...wish, taps: Math.min(wish.taps, most) };
  const put = (values: Partial<Wish>) => set({ wish: { ...wish, ...values } });
  const about = JSON.stringify([selection, project.revision.id, asked]);
  const fresh = found?.about === about ? found.is : null;
  const mine = driver && tune.channels[driver.id].taps;
  const any = project.layout.drivers.filter((one) => tune.channels[one.id].taps);
  const ask = async () => {
    setBusy(true);
    setRefused(null);
    try {
      const body = { channel: selection, wish: asked };
      const is = await settled<Fir>(
        client.POST('/api/projects/{slug}/fir', { params: { path: { slug } }, body: body as never }),
      );
      setFound({ about, is });
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      setRefused(error.message);
    } finally {
      setBusy(false);
    }
  };
  const away = () =>
    void commit(
      (driver ? [driver] : any).map((one) => ({ do: 'taps' as const, channel: one.id, taps: null })),
      driver ? `Taps of ${driver.name} taken away` : 'All taps taken away',
    );
  const phase = wish.phase !== 'keep';
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', gap: 0.75 }} data-testid="taps">
      {mine && (
        <Typography sx={{ fontSize: 12.5 }}>
          {`Has ${mine.says || 'taps'}. `}
          <Link href={`/api/projects/${slug}/taps/${driver.id}.wav`}>WAV</Link>
          {' · '}
          <Link href={`/api/projects/${slug}/taps/${driver.id}.txt`}>text</Link>
        </Typography>
      )}
      {!driver && any.length > 0 && (
        <Typography sx={{ fontSize: 12.5 }}>{`Taps on ${any.map((one) => one.name).join(', ')}.`}</Typography>
      )}
      <Row>
        <Box sx={{ flex: 1.4, minWidth: 0 }}>
          <Choice
            label="Correct"
            value={wish.phase}
            options={DO}
            onChange={(phase) => put({ phase, magnitude: phase === 'keep' || wish.magnitude })}
          />
        </Box>
        <ToggleButton
          value="level"
          size="small"
          selected={wish.magnitude}
          disabled={!phase}
          title="Level the channel to its target too, in the place of bands"
          sx={{ py: 0.25, px: 1, fontSize: 12, textTransform: 'none' }}
          onChange={() => put({ magnitude: !wish.magnitude })}>
          Level too
        </ToggleButton>
        <Box sx={{ flex: 1, minWidth: 0 }}>
          <NumberField
            label="Taps"
            digits={0}
            value={asked.taps}
            step={2}
            coarse={256}
            min={15}
            max={Math.min(most, 4097)}
            onCommit={(taps) => put({ taps })}
          />
        </Box>
      </Row>
      <Row>
        <NumberField
          label="From"
          {...HERTZ}
          value={wish.low_hz}
          min={10}
          max={wish.high_hz / 1.5}
          onCommit={(low_hz) => put({ low_hz })}
        />
        <NumberField
          label="To"
          {...HERTZ}
          value={wish.high_hz}
          min={wish.low_hz * 1.5}
          max={40000}
          onCommit={(high_hz) => put({ high_hz })}
        />
        <NumberField
          label="Latency"
          unit="ms"
          value={wish.latency_ms || ((asked.taps - 1) / 2 / project.link.limits.rate) * 1e3}
          step={0.1}
          coarse={1}
          min={0}
          max={(asked.taps / project.link.limits.rate) * 1e3}
          onCommit={(latency_ms) => put({ latency_ms })}
        />
      </Row>
      {phase && (
        <Row>
          <NumberField
            label="Before the pulse"
            unit="ms"
            value={wish.pre_ms}
            step={0.1}
            coarse={1}
            min={0}
            max={100}
            onCommit={(pre_ms) => put({ pre_ms })}
          />
          <NumberField
            label="at most"
            unit="dB"
            digits={0}
            value={wish.pre_db}
            step={1}
            coarse={5}
            min={-80}
            max={-6}
            onCommit={(pre_db) => put({ pre_db })}
          />
          <NumberField
            label="Delays up to"
            unit="ms"
            value={wish.group_delay_ms}
            step={0.1}
            coarse={1}
            min={0.01}
            max={50}
            onCommit={(group_delay_ms) => put({ group_delay_ms })}
          />
        </Row>
      )}
      {more && <TapMore wish={wish} put={put} fresh={freshBand(driver && tune.channels[driver.id], wish)} />}
      <Row>
        <Button variant="contained" sx={{ flex: 1 }} disabled={busy} onClick={() => void ask()} data-testid="find-taps">
          {busy ? 'Searching …' : `Find taps for ${driver?.name ?? 'all channels'}`}
        </Button>
        <Button size="small" aria-expanded={more} sx={{ minWidth: 0 }} onClick={() => setMore(!more)}>
          {more ? 'less' : 'more'}
        </Button>
        {(mine || (!driver && any.length > 0)) && (
          <Button size="small" variant="outlined" sx={{ minWidth: 0 }} onClick={away}>
            Take away
          </Button>
        )}
      </Row>
      {busy && <Searching slug={slug} />}
      <Trouble says={refused} onClose={() => setRefused(null)} />
      {fresh && (
        <Section title="Found" aside="rest on it to see it">
          <FoundTaps
            fir={fresh}
            onShow={(shown) => draft(shown ? fresh.edits : [])}
            onUse={() => void commit(fresh.edits, `${DO.find(({ value }) => value === wish.phase)!.text} by taps`)}
          />
        </Section>
      )}
      {!fresh && !busy && (
        <Typography sx={{ fontSize: 12 }} color="text.secondary">
          {driver
            ? `Taps turn what bands cannot: phase. ${plain(most, 0)} are there. Other channels wait by their delays.`
            : 'All ways that reach into the span are made to come at once: crossovers become transparent. ' +
              'What is too low for the taps waits by its delay.'}
        </Typography>
      )}
    </Box>
  );
}
