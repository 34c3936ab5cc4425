/**
 * Rig, any input: what to listen to, its levels by every weighting, recordings and what a stretch of them shows, logs.
 */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { client, settled } from '../../api/client';
import type { Made, WeightedLevels } from '../../api/types';
import { formWith } from '../../api/files';
import { Choice, NumberField } from '../../ui/Field';
import { FileInput, useFile } from '../../ui/FileInput';
import { Figure, KeyLine, PanelTitle, Row, Section } from '../../ui/Panel';
import { Tick } from '../../ui/Tick';
import { clock, hertz, plain } from '../../ui/format';
import { usePick } from '../../state/window';
import { AVERAGES, WINDOWS } from '../common/averaging';
import { listenTo } from '../common/doing';
import { MetersNow } from '../common/Meters';
import type { StageProps } from '../props';

const SIZES = [10, 11, 12, 13, 14, 15, 16, 17, 18].map((n) => 2 ** n);
const FRACTIONS = [
  { value: 3, text: 'third octaves' },
  { value: 1, text: 'octaves' },
  { value: 0, text: 'fine' },
] as const;

export function InputPart({ work }: StageProps) {
  const { project, recording } = work;
  const { listen, progress, picture, set } = usePick('listen', 'progress', 'picture', 'set');
  const here = recording && progress?.kind === 'listen';
  const raw = picture?.facts.raw;
  const put = (values: Partial<typeof listen>) => set({ listen: { ...listen, ...values } });
  const inputs = Array.from({ length: project.rig.known_inputs }, (_, n) => ({
    value: n,
    text: project.rig.input_names[n] ?? `Input ${n + 1}`,
  }));
  return (
    <>
      <PanelTitle
        title="Any input"
        aside={
          <Link component="button" onClick={() => set({ part: 'device' })}>
            back to the rig
          </Link>
        }
      />
      <Row>
        <Choice label="Input" value={listen.input} options={inputs} onChange={(input) => put({ input })} />
        <Choice
          label="Meanwhile plays"
          value={listen.sound}
          options={[
            { value: 'nothing', text: 'nothing' },
            { value: 'pink', text: 'pink noise' },
          ]}
          onChange={(sound) => put({ sound })}
        />
      </Row>
      <Row>
        <Choice
          label="Spectrum"
          value={listen.fraction}
          options={[...FRACTIONS]}
          onChange={(fraction) => put({ fraction })}
        />
        <Choice
          label="Averaged"
          value={listen.frames ? -listen.frames : listen.seconds}
          options={AVERAGES}
          onChange={(value) => put(value < 0 ? { frames: -value, seconds: 0 } : { frames: 0, seconds: value })}
        />
      </Row>
      <Row>
        <Choice
          label="Points"
          value={listen.size}
          options={SIZES.map((one) => ({ value: one, text: one.toLocaleString('en') }))}
          onChange={(size) => put({ size })}
        />
        <Choice label="Window" value={listen.window} options={WINDOWS} onChange={(window) => put({ window })} />
      </Row>
      <Box sx={{ display: 'flex', gap: 1.5 }}>
        <Tick label="keep the highest" on={listen.hold} onTurn={(hold) => put({ hold })} />
        <Tick label="log every second" on={listen.log} onTurn={(log) => put({ log })} />
      </Box>
      {here ? (
        <>
          <MetersNow aim={project.rig.aim_dbfs} />
          <Row>
            <Button
              variant="outlined"
              sx={{ flex: 1 }}
              onClick={() =>
                void work.begin(() =>
                  settled(
                    client.POST('/api/projects/{slug}/analyser/{ask}', {
                      params: { path: { slug: work.slug, ask: 'reset' } },
                    }),
                  ),
                )
              }>
              Reset
            </Button>
            <Button variant="contained" sx={{ flex: 1 }} onClick={work.stop} data-testid="stop">
              Stop
            </Button>
          </Row>
          {progress.result?.levels && <LevelTable levels={progress.result.levels} unit={progress.result.unit ?? ''} />}
        </>
      ) : (
        <Row>
          <Button
            variant="contained"
            disabled={recording}
            sx={{ flex: 1 }}
            onClick={() => listenTo(work, 0)}
            data-testid="listen-input">
            Listen
          </Button>
          <NumberField
            label="Seconds"
            hideLabel
            unit="s"
            value={listen.record_s || 5}
            step={1}
            coarse={10}
            min={0.1}
            max={300}
            onCommit={(record_s) => put({ record_s })}
          />
          <Button
            variant="outlined"
            disabled={recording}
            sx={{ flex: 1 }}
            onClick={() => listenTo(work, listen.record_s || 5)}
            data-testid="record-input">
            Record
          </Button>
        </Row>
      )}
      {progress?.kind === 'listen' && progress.message && (
        <Typography role="status" sx={{ fontSize: 12.5, color: (t) => t.own.clayText }}>
          {progress.message}
        </Typography>
      )}
      {!here && <Brought work={work} />}
      {!here && raw && <Stretch />}
      <Recordings work={work} />
      <KeyLine>Space listens and stops · drag marks a stretch · wheel zooms</KeyLine>
    </>
  );
}

/** A recording of an input that was made elsewhere. */
function Brought({ work }: Pick<StageProps, 'work'>) {
  const { listen, set } = usePick('listen', 'set');
  const file = useFile();
  const name = work.project.rig.input_names[listen.input] ?? `Input ${listen.input + 1}`;
  const bring = (sound: File) =>
    void work.act(async () => {
      const made = await settled<Made>(
        client.POST('/api/projects/{slug}/listen/upload', {
          params: { path: { slug: work.slug } },
          body: formWith(sound, { input: String(listen.input) }) as never,
        }),
      );
      set({ rawTake: made.id, rawShown: [0, 0], rawMarked: [0, 0] });
    });
  return (
    <>
      <FileInput file={file} accept=".wav,audio/wav" testId="bring-input" onBring={bring} />
      <Button
        variant="outlined"
        title="A WAV made elsewhere; each of its channels is read as what this input heard"
        onClick={() => file.ask()}>{`Bring a recording, as of “${name}”`}</Button>
    </>
  );
}

/** Equivalent, highest and lowest levels by weighting. */
function LevelTable({ levels, unit }: { levels: WeightedLevels; unit: string }) {
  const rows = [
    ['equivalent', 'Equivalent'],
    ['fast', 'Fast, now'],
    ['fast_most', 'Fast, most'],
    ['fast_least', 'Fast, least'],
    ['slow_most', 'Slow, most'],
    ['slow_least', 'Slow, least'],
  ] as const;
  return (
    <Box
      component="table"
      data-testid="level-table"
      sx={{
        width: '100%',
        fontSize: 12.5,
        borderSpacing: 0,
        '& td, & th': { textAlign: 'right', fontWeight: 400, p: 0, lineHeight: '19px' },
        '& td:first-of-type, & th:first-of-type': { textAlign: 'left', color: 'text.secondary' },
        '& th': { color: 'text.secondary' },
      }}>
      <thead>
        <tr>
          <th>{unit}</th>
          <th>A</th>
          <th>C</th>
          <th>Z</th>
        </tr>
      </thead>
      <tbody>
        {rows.map(([key, name]) => (
          <tr key={key}>
            <td>{name}</td>
            {(['A', 'C', 'Z'] as const).map((one) => (
              <td key={one}>{plain(levels[one][key])}</td>
            ))}
          </tr>
        ))}
      </tbody>
    </Box>
  );
}

/** What the marked stretch of a recording shows, or the whole. */
function Stretch() {
  const { picture, rawMarked } = usePick('picture', 'rawMarked');
  const raw = picture!.facts.raw!;
  const { stretch } = raw;
  const marked = rawMarked[1] > rawMarked[0];
  const time = (seconds: number) => (seconds < 1 ? `${plain(seconds * 1000, 3)} ms` : `${plain(seconds, 3)} s`);
  return (
    <>
      <Section title={marked ? 'The marked stretch' : 'The whole recording'} aside={time(stretch.seconds)}>
        <Box data-testid="stretch">
          <Figure
            name="As long as one period of"
            value={`${stretch.once_hz >= 100 ? plain(stretch.once_hz, 1) : plain(stretch.once_hz, 3)} Hz`}
          />
          <Figure name="Strongest in it" value={`${plain(stretch.strongest_hz, 1)} Hz`} />
          <Figure name="Peak, rms" value={`${plain(stretch.peak_dbfs)}, ${plain(stretch.rms_dbfs)} dBFS`} />
          <Figure name="Crest" value={`${plain(stretch.crest_db)} dB`} />
        </Box>
        <LevelTable levels={raw.levels} unit={raw.unit} />
      </Section>
      <Section title="Octaves" aside={`${raw.unit}, class 1 filters`}>
        <Box sx={{ columnCount: 3, fontSize: 12 }}>
          {raw.octaves.map(([mid, level]) => (
            <Box key={mid} sx={{ display: 'flex', justifyContent: 'space-between' }}>
              <Box component="span" color="text.secondary">
                {hertz(mid)}
              </Box>
              <span>{plain(level)}</span>
            </Box>
          ))}
        </Box>
      </Section>
    </>
  );
}

function Recordings({ work }: Pick<StageProps, 'work'>) {
  const { project, slug, act } = work;
  const { rawTake, progress, set } = usePick('rawTake', 'progress', 'set');
  const { data: logs } = useQuery({
    queryKey: ['logs', progress?.stage],
    queryFn: () => settled<string[]>(client.GET('/api/logs')),
  });
  const here = project.takes.filter((one) => one.purpose === 'raw' && !one.discarded);
  const aside = (id: number) =>
    void act(() =>
      settled(
        client.PUT('/api/projects/{slug}/takes/{take_id}/discarded', {
          params: { path: { slug, take_id: id } },
          body: { discarded: true },
        }),
      ),
    );
  if (!here.length && !logs?.length) return null;
  return (
    <Section title="Recordings and logs">
      <Box
        sx={{ maxHeight: 110, overflowY: 'auto', fontSize: 12.5 }}
        tabIndex={0}
        role="group"
        aria-label="Recordings and logs">
        {here.map((one) => (
          <Box key={one.id} sx={{ display: 'flex', gap: 0.5, alignItems: 'center' }}>
            <Button
              size="small"
              aria-pressed={rawTake === one.id}
              onClick={() => set({ rawTake: one.id, rawShown: [0, 0], rawMarked: [0, 0] })}
              sx={{
                flex: 1,
                justifyContent: 'flex-start',
                fontWeight: rawTake === one.id ? 600 : 400,
                minWidth: 0,
              }}>{`${clock(one.made)} · ${one.note}`}</Button>
            <Link
              href={`/api/projects/${slug}/takes/${one.id}/input.wav`}
              download
              aria-label={`Recording ${one.id} as WAV`}>
              WAV
            </Link>
            <Button size="small" sx={{ minWidth: 0, px: 0.75 }} onClick={() => aside(one.id)}>
              set aside
            </Button>
          </Box>
        ))}
        {logs?.map((one) => (
          <Box key={one}>
            <Link href={`/api/logs/${one}`} download>
              {one}
            </Link>
          </Box>
        ))}
      </Box>
    </Section>
  );
}
