/** The second source: when it is heard and how loud, and the change-over tried with the microphone. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { client, settled } from '../../api/client';
import type { Edit, Practice, Source } from '../../api/types';
import type { Work } from '../../state/project';
import { running } from '../../state/socket';
import { usePick } from '../../state/window';
import { Choice, NumberField } from '../../ui/Field';
import { Row, Section } from '../../ui/Panel';
import { minus, signed } from '../../ui/format';
import { tryChangeOver } from '../common/doing';
import type { useSource } from './useSource';

type Set = Work['tune']['second'];

const WHEN = [
  { value: 'never', text: 'Never' },
  { value: 'before', text: 'Before the wires, while it plays' },
  { value: 'after', text: 'After the wires, while they are silent' },
] as const;
const SOUNDS = [
  ['wires', 'the wires'],
  ['second', 'the second source'],
] as const;

export function Second({ work, at, source }: { work: Work; at: ReturnType<typeof useSource>; source: Source }) {
  const set = work.tune.second;
  if (!work.project.link.limits.second_source) {
    return (
      <Typography sx={{ fontSize: 12.5 }} color="text.secondary">
        {`${work.project.link.limits.name} has no second source: what it plays comes in by its wires. `}
        Models that can have one say so with second_source.
      </Typography>
    );
  }
  const put = (values: Partial<Set>, says: string) => void work.commit([{ do: 'second', ...values }], says);
  return (
    <>
      <Typography sx={{ fontSize: 12 }} color="text.secondary">
        A player on a digital input of the processor. It comes as it is, left to left and right to right.
      </Typography>
      <Row>
        <Choice
          label="It is heard"
          value={set.priority}
          options={[...WHEN]}
          onChange={(priority) =>
            put({ priority }, `Second source: ${WHEN.find((one) => one.value === priority)!.text.toLowerCase()}`)
          }
        />
      </Row>
      {set.priority !== 'never' && (
        <Row>
          <NumberField
            label="Its gain"
            unit="dB"
            value={set.gain_db}
            step={0.5}
            coarse={3}
            sign
            onCommit={(gain_db) => put({ gain_db }, `Second source: gain ${signed(gain_db)} dB`)}
          />
          <NumberField
            label="Sound from"
            unit="dBFS"
            value={set.over_dbfs}
            digits={0}
            step={1}
            coarse={6}
            min={-90}
            max={-10}
            onCommit={(over_dbfs) => put({ over_dbfs }, `Second source: sound from ${over_dbfs} dBFS`)}
          />
          <NumberField
            label="Waits"
            unit="s"
            value={set.hold_s}
            step={0.5}
            coarse={2}
            min={0.1}
            max={30}
            onCommit={(hold_s) => put({ hold_s }, `Second source: waits ${hold_s} s`)}
          />
        </Row>
      )}
      {set.priority !== 'never' && <ChangeOver work={work} at={at} source={source} />}
    </>
  );
}

function ChangeOver({ work, at, source }: { work: Work; at: ReturnType<typeof useSource>; source: Source }) {
  const { slug, project, recording, onRig, stop } = work;
  const { own } = useTheme();
  const { progress } = usePick('progress');
  const { says, louder_db } = source.second;
  const { practice } = project.rig;
  const mine = progress?.kind === 'switch';
  const listening = mine && running(progress);
  const unsent = project.link.unsent.some((one) => one.channel === 'Second source');
  const send = () => void work.act(() => settled(client.POST('/api/projects/{slug}/processor/send', at.path)));
  const alike = () =>
    at.take(
      () => settled<Edit[]>(client.GET('/api/projects/{slug}/source/alike', at.path)),
      'Second source as loud as the wires',
    );
  const turn = (values: Partial<Practice>) =>
    void onRig(() => settled(client.PUT('/api/rig/practice', { body: { ...practice, ...values } as never })));
  const sounding = progress?.result?.sounding ?? [];
  return (
    <Section title="Does it change over?" aside={`heard again after ${project.tune.second.hold_s} s`}>
      <Typography sx={{ fontSize: 12, mb: 0.75 }} color="text.secondary">
        {'Two files, one for each: '}
        <Link href={`/api/projects/${slug}/source/comb-wires.wav`} download>
          for the source on the wires
        </Link>
        {', '}
        <Link href={`/api/projects/${slug}/source/comb-second.wav`} download>
          for the second one
        </Link>
        . The microphone tells them apart.
      </Typography>
      {unsent ? (
        <Button variant="contained" fullWidth disabled={recording} onClick={send} data-testid="send-second">
          Send first: the processor does not know of it
        </Button>
      ) : (
        <Button
          variant="contained"
          fullWidth
          disabled={recording && !listening}
          onClick={() => (listening ? stop() : tryChangeOver(work))}
          data-testid="try-switch">
          {listening ? 'Stop listening' : 'Listen while they change over'}
        </Button>
      )}
      {practice && !listening && (
        <Box sx={{ width: 130, mt: 0.75 }}>
          <NumberField
            label="Stand-in’s volume"
            value={practice.second_volume}
            digits={0}
            step={1}
            coarse={5}
            min={1}
            max={40}
            onCommit={(second_volume) => turn({ second_volume })}
          />
        </Box>
      )}
      {listening && (
        <Box role="status" aria-live="polite" sx={{ mt: 0.75 }} data-testid="switch-asks">
          <Typography sx={{ fontSize: 15, fontWeight: 600, lineHeight: '20px' }}>{progress.message}</Typography>
          {SOUNDS.map(([which, name]) => (
            <Typography key={which} sx={{ fontSize: 13, color: sounding.includes(which) ? own.good : own.quiet }}>
              {`${sounding.includes(which) ? '●' : '○'} ${name}`}
            </Typography>
          ))}
        </Box>
      )}
      {mine && !listening && progress.message && (
        <Typography role="status" sx={{ fontSize: 12.5, mt: 0.75, color: own.clayText }}>
          {progress.message}
        </Typography>
      )}
      {!listening &&
        says.map((one) => (
          <Typography key={one} data-testid="switch-says" sx={{ fontSize: 12.5, mt: 0.5 }}>
            {minus(`${one[0].toUpperCase()}${one.slice(1)}.`)}
          </Typography>
        ))}
      {!listening && louder_db !== null && (
        <Button variant="outlined" sx={{ mt: 0.75 }} disabled={recording} onClick={alike} data-testid="alike">
          Make both alike loud
        </Button>
      )}
    </Section>
  );
}
