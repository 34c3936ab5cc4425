/** How loud the source gets: a tone is heard while the volume is turned up, and the inputs' sensitivity follows. */
import CheckIcon from '@mui/icons-material/CheckOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import { client, settled } from '../../api/client';
import type { Edit, Practice, Source } from '../../api/types';
import type { Work } from '../../state/project';
import { running } from '../../state/socket';
import { usePick } from '../../state/window';
import { Choice, NumberField } from '../../ui/Field';
import { Row, Section } from '../../ui/Panel';
import { hertz, minus, plain, signed } from '../../ui/format';
import { MetersNow } from '../common/Meters';
import type { useSource } from './useSource';
import { WireChoices } from './WireChoices';

const ENDS = [
  { end: 'front', text: 'Fader at the front' },
  { end: 'rear', text: 'Fader at the rear' },
  { end: 'left', text: 'Balance left' },
  { end: 'right', text: 'Balance right' },
] as const;

const TONES = [
  { value: 1000, text: '1 kHz' },
  { value: 50, text: '50 Hz' },
] as const;

export function Loud({ work, at, source }: { work: Work; at: ReturnType<typeof useSource>; source: Source }) {
  const { slug, recording, project } = work;
  const { own } = useTheme();
  const { progress, sourceWires } = usePick('progress', 'sourceWires');
  const [tone, setTone] = useState<50 | 1000>(1000);
  const [headroom, setHeadroom] = useState(3);
  const [takes, setTakes] = useState(0);
  const { practice } = project.rig;
  const mine = progress?.kind === 'volume';
  const listening = mine && running(progress);
  const [first, second] = sourceWires;
  const name = (number: number) => source.inputs.find((one) => one.number === number)?.name ?? `${number}`;
  const listen = () =>
    void work.begin(() =>
      settled(
        client.POST('/api/projects/{slug}/source/loud', {
          ...at.path,
          body: { inputs: second ? [first, second] : [first], hertz: tone },
        }),
      ),
    );
  const setSensitivity = () =>
    at.take(
      () =>
        settled<Edit[]>(
          client.GET('/api/projects/{slug}/source/sensitivity', {
            params: { path: { slug }, query: { headroom_db: headroom, takes_db: takes } },
          }),
        ),
      `Sensitivity: the loudest clean feed ${plain(headroom)} dB under full scale`,
    );
  const turn = (values: Partial<Practice>) =>
    void work.onRig(() => settled(client.PUT('/api/rig/practice', { body: { ...practice, ...values } as never })));
  const note = (end: (typeof ENDS)[number]['end']) =>
    void settled(client.POST('/api/projects/{slug}/source/ends/{end}', { params: { path: { slug, end } } }));
  const putRight = () => void work.act(() => settled(client.POST('/api/projects/{slug}/source/put-right', at.path)));
  const forget = () => void settled(client.DELETE('/api/projects/{slug}/source/loud', at.path)).then(at.anew);
  return (
    <>
      <Typography sx={{ fontSize: 12 }} color="text.secondary">
        {'Let the source play '}
        <Link href={`/api/projects/${slug}/source/tone.wav?hertz=${tone}`} download>
          {`a tone of ${tone === 50 ? '50 Hz' : '1 kHz'}`}
        </Link>
        {' at full scale, quietly at first, and turn it up step by step until it distorts. Speakers off: mute the ' +
          'processor, or unplug its outputs.'}
      </Typography>
      <WireChoices source={source} />
      <Row>
        <Box sx={{ width: 90, flex: 'none' }}>
          <Choice label="Tone" value={tone} options={[...TONES]} onChange={(value) => setTone(value)} />
        </Box>
        <Button
          variant="contained"
          sx={{ flex: 1 }}
          disabled={recording && !listening}
          data-testid="listen-loud"
          onClick={() => (listening ? work.stop() : listen())}>
          {listening ? 'Done: keep what was clean' : 'Listen while I turn it up'}
        </Button>
      </Row>
      {practice && (
        <Row>
          <NumberField
            label="Stand-in’s volume"
            value={practice.source_volume}
            digits={0}
            step={1}
            coarse={5}
            min={1}
            max={40}
            onCommit={(source_volume) => turn({ source_volume })}
          />
          <NumberField
            label="Fader"
            value={practice.source_fader}
            digits={0}
            step={1}
            coarse={5}
            min={-10}
            max={10}
            onCommit={(source_fader) => turn({ source_fader })}
          />
          <NumberField
            label="Balance"
            value={practice.source_balance}
            digits={0}
            step={1}
            coarse={5}
            min={-10}
            max={10}
            onCommit={(source_balance) => turn({ source_balance })}
          />
        </Row>
      )}
      {listening && <MetersNow aim={project.rig.aim_dbfs} />}
      {listening &&
        progress.result?.wires?.map((one) => (
          <Box key={one.input} data-testid={`loud-${one.input}`} sx={{ borderLeft: 3, pl: 1, borderColor: 'divider' }}>
            <Typography sx={{ fontSize: 12.5 }}>{name(one.input)}</Typography>
            <Typography
              role="status"
              sx={{
                fontSize: 24,
                lineHeight: '30px',
                fontWeight: 600,
                color: one.level_db === null ? own.quiet : one.distorts ? own.clayText : own.good,
              }}>
              {one.level_db === null
                ? 'no steady tone'
                : one.distorts
                  ? `distorts, ${plain(100 * (one.distortion ?? 0))} %`
                  : 'clean'}
            </Typography>
            <Typography sx={{ fontSize: 12 }} color="text.secondary">
              {[
                one.level_db === null ? '' : `now ${plain(one.level_db)} dBFS`,
                one.clean_db === null ? '' : `clean up to ${plain(one.clean_db)} dBFS`,
                one.distorts ? 'turn it back a little' : '',
              ]
                .filter(Boolean)
                .join(' · ')}
            </Typography>
          </Box>
        ))}
      {listening && (
        <Section title="Which is which" aside="press when the knob is there">
          <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 0.5 }}>
            {ENDS.map(({ end, text }) => {
              const noted = progress.result?.ends?.includes(end) ?? false;
              return (
                <Button
                  key={end}
                  size="small"
                  variant="outlined"
                  aria-pressed={noted}
                  startIcon={noted ? <CheckIcon sx={{ fontSize: 14 }} /> : undefined}
                  onClick={() => note(end)}>
                  {text}
                </Button>
              );
            })}
          </Box>
        </Section>
      )}
      {mine && !listening && progress.message && (
        <Typography role="status" sx={{ fontSize: 12.5, color: own.clayText }}>
          {progress.message}
        </Typography>
      )}
      {source.loud.length > 0 && !listening && (
        <>
          <Section
            title="Highest clean level"
            aside={
              <Button size="small" sx={{ py: 0, fontSize: 11.5, minWidth: 0 }} onClick={forget}>
                begin anew
              </Button>
            }>
            {source.loud.map((one) => (
              <Box
                key={one.number}
                data-testid={`clean-${one.number}`}
                sx={{ display: 'flex', fontSize: 12.5, gap: 1, height: 22 }}>
                <Box sx={{ flex: 1, fontWeight: 600, whiteSpace: 'nowrap' }}>{`${one.number} ${one.name}`}</Box>
                <Box title={`At ${hertz(one.hertz)}`}>{`${plain(one.clean_db)} dBFS`}</Box>
                <Box sx={{ color: own.quiet, width: 96, textAlign: 'right' }}>{`gain ${signed(one.gain_db)} dB`}</Box>
              </Box>
            ))}
          </Section>
          <Row>
            <NumberField
              label="Under full scale"
              unit="dB"
              value={headroom}
              step={0.5}
              min={0}
              max={20}
              onCommit={setHeadroom}
            />
            <NumberField
              label="Input takes more by"
              unit="dB"
              value={takes}
              step={0.5}
              min={-40}
              max={40}
              onCommit={setTakes}
            />
          </Row>
          <Button variant="contained" disabled={recording} data-testid="set-sensitivity" onClick={setSensitivity}>
            Set the sensitivity
          </Button>
          <Typography sx={{ fontSize: 12 }} color="text.secondary">
            {'All inputs are shifted alike. The input takes more: its full scale over that of this interface, from ' +
              'both data sheets; 0 where it is not known.'}
          </Typography>
        </>
      )}
      {source.exchanged && !listening && (
        <Button variant="outlined" onClick={putRight} data-testid="put-right">
          {`Inputs ${source.exchanged.join(' and ')} are exchanged: put it right`}
        </Button>
      )}
      {[...source.ends_say, ...source.loud_says].map((one) => (
        <Typography key={one} sx={{ fontSize: 12 }} color="text.secondary">
          {minus(`${one}.`)}
        </Typography>
      ))}
    </>
  );
}
