/** Drivers, impedance: record it, read the parameters, say what only a person knows, and the takes there are. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { client, settled } from '../../api/client';
import { formWith, withSweep } from '../../api/files';
import type { Driver, Loading, Parameter, Project, Take } from '../../api/types';
import { FileInput, useFile } from '../../ui/FileInput';
import { Choice, NumberField } from '../../ui/Field';
import { Figure, Row, Section } from '../../ui/Panel';
import { running, type Work } from '../../state/project';
import { clock, hertz, plain, signed } from '../../ui/format';
import { useWindow, usePick } from '../../state/window';
import { Clips } from '../common/Clips';
import { measureImpedance } from '../common/doing';
import { RunBox } from '../common/RunBox';

const LOADINGS: { value: Loading; text: string }[] = [
  { value: 'as it is', text: 'as it is' },
  { value: 'mass', text: 'mass on the cone' },
  { value: 'box', text: 'in a known box' },
  { value: 'network', text: 'behind its network' },
];
/** What an amount goes with. */
const LOADED: Loading[] = ['mass', 'box'];
type Known = Pick<Project['impedance'][string], 're_ohm' | 'area_cm2' | 'least_ohm'>;

export function ImpedancePanel({ work, driver }: { work: Work; driver: Driver }) {
  const { recording } = work;
  const { progress, loaded, set } = usePick('progress', 'loaded', 'set');
  const [part, setPart] = useState<'figures' | 'takes'>('figures');
  const mine = progress && progress.kind === 'impedance';
  return (
    <>
      {mine && running(progress) ? (
        <RunBox work={work} progress={progress} />
      ) : (
        <>
          <Row>
            <Choice
              label="The driver is"
              value={loaded.loading}
              options={LOADINGS}
              onChange={(loading) =>
                set({ loaded: { loading, amount: LOADED.includes(loading) ? loaded.amount || 10 : 0 } })
              }
            />
            {LOADED.includes(loaded.loading) && (
              <NumberField
                label={loaded.loading === 'mass' ? 'Mass' : 'Volume'}
                unit={loaded.loading === 'mass' ? 'g' : 'l'}
                value={loaded.amount}
                step={1}
                min={0.1}
                max={1000}
                onCommit={(amount) => set({ loaded: { ...loaded, amount } })}
              />
            )}
            <Button
              variant="contained"
              disabled={recording}
              onClick={() => measureImpedance(work, driver.id)}
              data-testid="measure-impedance"
              sx={{ flexShrink: 0, px: 1 }}>{`Measure ${driver.name}`}</Button>
          </Row>
          {mine && progress.message && (
            <Typography
              role="status"
              data-testid="impedance-says"
              sx={{ fontSize: 12.5, color: (t) => t.own.clayText }}>
              {progress.message}
            </Typography>
          )}
          <Clips work={work} />
        </>
      )}
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        value={part}
        aria-label="Figures or takes"
        onChange={(_e, value) => value && setPart(value)}>
        <ToggleButton value="figures" sx={{ py: 0.1, fontSize: 12 }}>
          Figures
        </ToggleButton>
        <ToggleButton value="takes" sx={{ py: 0.1, fontSize: 12 }} data-testid="impedance-takes">
          Takes and files
        </ToggleButton>
      </ToggleButtonGroup>
      {part === 'figures' ? <Figures work={work} driver={driver} /> : <ImpedanceTakes work={work} driver={driver} />}
    </>
  );
}

function Figures({ work, driver }: { work: Work; driver: Driver }) {
  const { project, slug, act } = work;
  const facts = useWindow((state) => state.picture?.facts.impedance);
  const about = project.impedance[driver.id];
  const tell = (values: Partial<Known>) => {
    const { re_ohm, area_cm2, least_ohm } = about;
    void act(() =>
      settled(
        client.PUT('/api/projects/{slug}/about/{channel}', {
          params: { path: { slug, channel: driver.id } },
          body: { re_ohm, area_cm2, least_ohm, ...values },
        }),
      ),
    );
  };
  return (
    <>
      <Row>
        <NumberField
          label="Re by a meter"
          zero="unknown"
          unit="ohm"
          value={about.re_ohm ?? 0}
          step={0.05}
          min={0}
          max={100}
          digits={2}
          onCommit={(value) => tell({ re_ohm: value || null })}
        />
        <NumberField
          label="Cone area"
          zero="unknown"
          unit="cm²"
          value={about.area_cm2 ?? 0}
          step={1}
          min={0}
          max={10000}
          onCommit={(value) => tell({ area_cm2: value || null })}
        />
        <NumberField
          label="Amplifier"
          unit="ohm"
          value={about.least_ohm}
          step={0.5}
          min={0.1}
          max={64}
          onCommit={(value) => tell({ least_ohm: value })}
        />
      </Row>
      {!facts ? (
        <Typography sx={{ fontSize: 12.5 }} color="text.secondary">{`No impedance of ${driver.name} yet.`}</Typography>
      ) : (
        <Box data-testid="impedance-figures">
          {facts.says && (
            <Typography
              sx={{
                fontSize: 12.5,
                color: (t) => t.own.clayText,
              }}>{`${facts.says.charAt(0).toUpperCase()}${facts.says.slice(1)}.`}</Typography>
          )}
          <Section title="Parameters" aside={facts.repeats > 1 ? `±95 % of ${facts.repeats} sweeps` : 'one sweep'}>
            {facts.rows.map((row) => (
              <Figure
                key={row.key}
                name={row.key === 're' ? `Re, ${about.re_ohm ? 'by the meter' : 'extrapolated'}` : row.name}
                value={told(row, row.key === 're' && about.re_ohm !== null)}
              />
            ))}
            {facts.least && (
              <Figure
                name={`Least, at ${hertz(facts.least.hertz)}`}
                value={`${plain(facts.least.ohms, 2)} ohm`}
                tone={facts.least.ohms < facts.allowed ? 'clay' : 'good'}
              />
            )}
            {facts.corners.map((one) => (
              <Figure
                key={one.what}
                name={`At the ${one.what}, ${hertz(one.hertz)}`}
                value={`${plain(one.ohms)} ohm, ${signed(one.degrees, 0)}°`}
              />
            ))}
            {facts.pair && (
              <Figure
                name={`${facts.pair.name}: Fs, Qts, Re`}
                value={[facts.pair.fs, facts.pair.qts, facts.pair.re]
                  .map((one) => `${signed(one * 100, 0)} %`)
                  .join(' ')}
                tone={facts.pair.much ? 'clay' : 'good'}
              />
            )}
          </Section>
          <Section title="What moves">
            {facts.mechanics?.map((row) => (
              <Figure key={row.key} name={row.name} value={told(row)} />
            ))}
            {facts.mechanics_says && (
              <Typography sx={{ fontSize: 12 }} color="text.secondary">
                {facts.mechanics_says.charAt(0).toUpperCase() + `${facts.mechanics_says.slice(1)}.`}
              </Typography>
            )}
          </Section>
        </Box>
      )}
    </>
  );
}

/** Half an interval: as many decimals as the figure, or "less than" where it is smaller. */
const small = (half: number, digits: number): string =>
  half < 0.5 * 10 ** -digits ? `<${(10 ** -digits).toFixed(digits)}` : plain(half, digits);

/** A parameter with its unit and, where it was not typed, half its interval. */
const told = ({ value, unit, half, digits }: Parameter, typed = false): string =>
  `${plain(value, digits)}${unit && ` ${unit}`}${half === null || typed ? '' : ` ±${small(half, digits)}`}`;

function ImpedanceTakes({ work, driver }: { work: Work; driver: Driver }) {
  const { project, slug, act } = work;
  const { olderTake, loaded, set } = usePick('olderTake', 'loaded', 'set');
  const file = useFile();
  const here = project.takes.filter((one) => one.channels[0] === driver.id && one.purpose === 'impedance');
  const about = project.impedance[driver.id];
  const sense = project.rig.jig.sense_ohm;
  const bring = (first: File, beside: File[]) => {
    const { main, sweep } = withSweep([first, ...beside]);
    const fields = { channel: driver.id, loading: loaded.loading, amount: String(loaded.amount) };
    void act(async () =>
      settled(
        client.POST('/api/projects/{slug}/impedance/upload', {
          params: { path: { slug } },
          body: formWith(main, { ...fields, sense_ohm: String(sense), ...(sweep && { sweep }) }) as never,
        }),
      ),
    );
  };
  const aside = (take: Take) =>
    void act(() =>
      settled(
        client.PUT('/api/projects/{slug}/takes/{take_id}/discarded', {
          params: { path: { slug, take_id: take.id } },
          body: { discarded: !take.discarded },
        }),
      ),
    );
  const how = (take: Take) =>
    take.loading === 'mass'
      ? `with ${take.amount} g`
      : take.loading === 'box'
        ? `in ${take.amount} l`
        : take.loading === 'network'
          ? 'behind its network'
          : take.method === 'text'
            ? 'brought in'
            : 'as it is';
  return (
    <>
      <Box role="list" aria-label={`Impedance takes of ${driver.name}`} sx={{ maxHeight: 260, overflowY: 'auto' }}>
        {here.map((take) => (
          <Box
            role="listitem"
            key={take.id}
            sx={{
              display: 'flex',
              alignItems: 'center',
              gap: 0.5,
              fontSize: 12.5,
              opacity: take.discarded ? 0.75 : 1,
            }}>
            <Box component="span" sx={{ flex: 1 }}>
              {`${clock(take.made)} · ${how(take)}`}
              {[about.take_id, about.loaded_id].includes(take.id) ? ' · in force' : take.discarded && ' · set aside'}
            </Box>
            {take.id !== about.take_id && take.id !== about.loaded_id && (
              <Button
                size="small"
                sx={{ minWidth: 0, px: 0.75 }}
                aria-pressed={olderTake === take.id}
                onClick={() => set({ olderTake: olderTake === take.id ? null : take.id })}>
                beside
              </Button>
            )}
            <Button size="small" sx={{ minWidth: 0, px: 0.75 }} onClick={() => aside(take)}>
              {take.discarded ? 'bring back' : 'set aside'}
            </Button>
            <Link
              href={`/api/projects/${slug}/takes/${take.id}/impedance.txt`}
              download
              aria-label={`Take ${take.id} as text`}>
              Text
            </Link>
          </Box>
        ))}
      </Box>
      <Button
        variant="outlined"
        onClick={() => file.ask('.txt,.csv,text/plain')}>{`Bring a curve of ${driver.name}: Hz, ohm, degrees`}</Button>
      <Button
        variant="outlined"
        title={
          'A WAV of two channels, recorded while the sweep played: the voltage across the driver, then across the ' +
          'resistor. Its value is set under Rig. Another sweep than the one below: choose its sweep.json too.'
        }
        onClick={() =>
          file.ask('.wav,audio/wav,.json,.zip')
        }>{`Bring a jig’s recording: driver, then ${plain(sense, 2)} ohm`}</Button>
      <Link href={`/api/projects/${slug}/sweep.zip?low_hz=4&length=262144`} download sx={{ fontSize: 12 }}>
        Sweep for the jig, with description
      </Link>
      <FileInput file={file} testId="bring-impedance" multiple onBring={bring} />
    </>
  );
}
