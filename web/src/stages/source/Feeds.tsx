/** The feeds: recorded wire by wire, straightened together, looked at one by one. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { client, settled } from '../../api/client';
import { formWith } from '../../api/files';
import type { Edit, Source, SourceInput } from '../../api/types';
import type { Work } from '../../state/project';
import { running } from '../../state/socket';
import { usePick } from '../../state/window';
import { Choice, NumberField } from '../../ui/Field';
import { FileInput, useFile } from '../../ui/FileInput';
import { Row, Section } from '../../ui/Panel';
import { Tick } from '../../ui/Tick';
import { hertz, plain, stepOf } from '../../ui/format';
import { RunBox } from '../common/RunBox';
import { recordWires } from '../common/doing';
import type { useSource } from './useSource';
import { InputBands } from './InputBands';
import { LiveFeed } from './LiveFeed';
import { WireChoices } from './WireChoices';

interface Props {
  work: Work;
  at: ReturnType<typeof useSource>;
  source: Source;
}

export function Feeds({ work, at, source }: Props) {
  const { recording } = work;
  const { progress, sourceInput } = usePick('progress', 'sourceInput');
  const mine = progress?.kind === 'feed';
  const known = source.inputs.filter((one) => one.feed);
  const chosen = source.inputs.find((one) => one.number === sourceInput);
  const straight = known.some((one) => one.straightens);
  const straighten = () =>
    at.take(
      () => settled<Edit[]>(client.GET('/api/projects/{slug}/source/straighten', at.path)),
      'Straighten every feed',
    );
  const back = () =>
    at.take(
      () => settled<Edit[]>(client.GET('/api/projects/{slug}/source/as-it-comes', at.path)),
      'The source as it comes',
    );
  const putRight = () => void work.act(() => settled(client.POST('/api/projects/{slug}/source/put-right', at.path)));
  return (
    <>
      {mine && running(progress) ? (
        <RunBox work={work} progress={progress} />
      ) : (
        <Wires work={work} at={at} source={source} looking={Boolean(chosen?.feed)} />
      )}
      {mine && !running(progress) && progress.message && (
        <Typography role="status" data-testid="source-says" sx={{ fontSize: 12.5, color: (t) => t.own.clayText }}>
          {progress.message}
        </Typography>
      )}
      {known.length > 0 && (
        <Section title="Feeds" aside="off flat, as it comes → now">
          {source.inputs.map((one) => one.feed && <FeedRow key={one.number} one={one} />)}
        </Section>
      )}
      {source.exchanged && (
        <Button variant="outlined" onClick={putRight} data-testid="put-right">
          {`Inputs ${source.exchanged.join(' and ')} are exchanged: put it right`}
        </Button>
      )}
      {known.length > 0 && (
        <Row>
          <Button
            variant="contained"
            sx={{ flex: 1 }}
            disabled={recording}
            onClick={straighten}
            data-testid="straighten">
            Straighten all
          </Button>
          <Button variant="outlined" sx={{ flex: 1 }} disabled={!straight} onClick={back}>
            As it comes
          </Button>
        </Row>
      )}
      {chosen?.feed && <OneFeed work={work} at={at} one={chosen} />}
      {source.says.length > 0 && (
        <Box
          component="ul"
          tabIndex={0}
          aria-label="What to know of the source"
          data-testid="source-notes"
          sx={{ m: 0, pl: 2, fontSize: 12, color: 'text.secondary', overflowY: 'auto', minHeight: 36 }}>
          {source.says.map((one) => (
            <li key={one}>{`${one.charAt(0).toUpperCase()}${one.slice(1)}.`}</li>
          ))}
        </Box>
      )}
    </>
  );
}

/** Which wires the leads hold, and the recording of them. */
function Wires({ work, at, source, looking }: Props & { /** Whether one feed needs the room. */ looking: boolean }) {
  const { project, slug, recording } = work;
  const { sourceWires } = usePick('sourceWires');
  const file = useFile();
  const [first, second] = sourceWires;
  const bring = (sound: File) =>
    void work.act(() =>
      settled(
        client.POST('/api/projects/{slug}/source/upload', {
          params: { path: { slug } },
          body: formWith(sound, { first: String(first), ...(second && { second: String(second) }) }) as never,
        }),
      ),
    );
  const { reads } = source;
  const read = () => void work.begin(() => settled(client.POST('/api/projects/{slug}/source/read', at.path)));
  const leads = project.rig.device === 'file' ? null : source.leads;
  const names = Array.from({ length: project.rig.known_inputs }, (_, n) => ({
    value: n,
    text: `${n + 1} · ${project.rig.input_names[n] ?? 'unnamed'}`,
  }));
  const lead = (values: Partial<Source['leads']>) =>
    void client
      .PUT('/api/projects/{slug}/source/leads', { ...at.path, body: { ...source.leads, ...values } })
      .then(at.anew);
  return (
    <>
      {!looking && (
        <Typography sx={{ fontSize: 12 }} color="text.secondary">
          {'Let the source play '}
          <Link href={`/api/projects/${slug}/source/track.wav`} download>
            the track
          </Link>
          {`, round and round, at the volume that is used most. The first wire stays while the others are measured ` +
            'against it.'}
        </Typography>
      )}
      {reads && (
        <Button variant="contained" disabled={recording} onClick={read} data-testid="read-inputs">
          Read all inputs by the processor
        </Button>
      )}
      <WireChoices source={source} />
      {leads && (
        <Row>
          <Choice
            label="First lead, at"
            value={leads.first}
            options={names}
            onChange={(value) => lead({ first: value })}
          />
          <Choice
            label="Second lead, at"
            value={leads.second}
            options={names}
            onChange={(value) => lead({ second: value })}
          />
        </Row>
      )}
      <Row>
        {leads && (
          <Button
            variant={reads ? 'outlined' : 'contained'}
            disabled={recording}
            sx={{ flex: 1 }}
            onClick={() => recordWires(work, second ? [first, second] : [first])}
            data-testid="record-wires">
            {second ? 'Record both wires' : 'Record the wire'}
          </Button>
        )}
        <Button variant="outlined" sx={{ flex: 1 }} onClick={() => file.ask()}>
          Bring a recording
        </Button>
      </Row>
      <FileInput file={file} accept=".wav,audio/wav" testId="bring-wires" onBring={bring} />
    </>
  );
}

function FeedRow({ one }: { one: SourceInput }) {
  const { own } = useTheme();
  const { sourceInput, set } = usePick('sourceInput', 'set');
  const feed = one.feed!;
  const here = sourceInput === one.number;
  const left = Math.abs(feed.left_db - feed.off_db) > 0.01 ? ` → ${plain(feed.left_db, 1)}` : '';
  return (
    <ButtonBase
      data-testid={`feed-${one.number}`}
      aria-pressed={here}
      onClick={() => set({ sourceInput: here ? 0 : one.number, band: null })}
      sx={{
        display: 'flex',
        width: 1,
        justifyContent: 'flex-start',
        textAlign: 'left',
        gap: 0.75,
        px: 1,
        mb: '2px',
        height: 24,
        fontSize: 12.5,
        borderRadius: 0.75,
        bgcolor: here ? own.raised : 'transparent',
        outline: here ? `1px solid ${own.clay}` : 'none',
      }}>
      <Box component="span" sx={{ width: 98, flex: 'none', fontWeight: 600 }}>{`${one.number} ${one.name}`}</Box>
      <Box
        component="span"
        title={`Carries ${feed.carries}`}
        sx={{
          flex: 1,
          minWidth: 0,
          color: feed.right_side ? own.quiet : own.clayText,
          fontSize: 11.5,
          whiteSpace: 'nowrap',
        }}>
        {[feed.carries, feed.inverted && 'inverted', feed.passes.length > 0 && 'all-pass'].filter(Boolean).join(' · ')}
      </Box>
      <Box component="span" sx={{ color: feed.straight ? own.good : own.text, whiteSpace: 'nowrap' }}>
        {`±${plain(feed.off_db, 1)}${left} dB`}
      </Box>
    </ButtonBase>
  );
}

const SIDES = [
  { value: 'left', text: 'left' },
  { value: 'right', text: 'right' },
  { value: 'both', text: 'both' },
] as const;
const GROUPS = [
  { value: 'front', text: 'front' },
  { value: 'rear', text: 'rear' },
  { value: 'centre', text: 'centre' },
  { value: 'sub', text: 'sub' },
] as const;

const late = (ms: number | null) =>
  ms === null ? 'delay not known' : ms < 0.005 ? 'on time' : `${plain(ms, 3)} ms late`;

/** What is known of one feed, what it is for, and its input by hand. */
function OneFeed({ work, at, one }: { work: Work; at: ReturnType<typeof useSource>; one: SourceInput }) {
  const feed = one.feed!;
  const input = work.tune.inputs[one.number - 1];
  const { limits } = work.project.link;
  const set = (values: { gain_db?: number; delay_s?: number; inverted?: boolean }, what: string) =>
    void work.commit(
      [{ do: 'input', input: one.number, straightens: true, ...values }],
      `Input ${one.number}: ${what}`,
    );
  const say = (values: Partial<Pick<SourceInput, 'group' | 'side'>>) =>
    void client
      .PUT('/api/projects/{slug}/source/inputs/{number}', {
        params: { path: { slug: work.slug, number: one.number } },
        body: { group: one.group, side: one.side, ...values },
      })
      .then(at.anew);
  const facts = [
    `from ${hertz(feed.low_hz)} to ${hertz(feed.high_hz)}`,
    `${plain(feed.level_db, 1)} dB`,
    late(feed.delay_ms),
    ...feed.passes.map(({ order, frequency_hz, q }) =>
      order === 1
        ? `first-order all-pass at ${hertz(frequency_hz)}`
        : `all-pass at ${hertz(frequency_hz)}, Q ${plain(q, 2)}`,
    ),
  ];
  return (
    <Section title={`Input ${one.number}`} aside={one.straightens ? 'straightens' : 'as it comes'}>
      <Typography data-testid="feed-facts" sx={{ fontSize: 12 }} color="text.secondary">
        {facts.join(' · ')}
      </Typography>
      <Row>
        <Choice label="Group" value={one.group} options={[...GROUPS]} onChange={(group) => say({ group })} />
        <Choice label="Side" value={one.side} options={[...SIDES]} onChange={(side) => say({ side })} />
      </Row>
      <Row>
        <NumberField
          label="Gain"
          unit="dB"
          value={input?.gain_db ?? 0}
          step={stepOf(limits.gain_db)}
          min={limits.gain_db.least}
          max={limits.gain_db.most}
          onCommit={(gain_db) => set({ gain_db }, 'gain')}
        />
        <NumberField
          label="Delay"
          unit="ms"
          value={(input?.delay_s ?? 0) * 1e3}
          step={1e3 / limits.rate}
          digits={3}
          min={0}
          max={limits.delay_s.most * 1e3}
          onCommit={(ms) => set({ delay_s: ms / 1e3 }, 'delay')}
        />
        <Tick label="inverted" on={input?.inverted ?? false} onTurn={(inverted) => set({ inverted }, 'polarity')} />
      </Row>
      <LiveFeed work={work} one={one} />
      {limits.input_bands > 0 && <InputBands work={work} number={one.number} />}
    </Section>
  );
}
