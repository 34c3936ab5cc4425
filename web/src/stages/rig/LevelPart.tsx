/** Level: the quiet first, then pink noise through one driver; the window to aim at and signal over noise by octave. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { client, settled } from '../../api/client';
import { formWith } from '../../api/files';
import { Choice, NumberField } from '../../ui/Field';
import { FileInput, useFile } from '../../ui/FileInput';
import { Figure, Row, Section } from '../../ui/Panel';
import { clock, plain } from '../../ui/format';
import type { StageProps } from '../props';
import { useRigChange } from './useRigChange';

export function LevelPart({ work }: StageProps) {
  const { project, slug, begin, recording } = work;
  const { level, sweep } = project.rig;
  const [channel, setChannel] = useState(project.round.turns[0]?.channel ?? project.layout.drivers[0].id);
  const change = useRigChange(work);
  const listen = () =>
    void begin(() =>
      settled(client.POST('/api/projects/{slug}/level', { params: { path: { slug } }, body: { channel } })),
    );
  const { level_says: says } = project.rig;
  return (
    <>
      <Row>
        <Choice
          label="Through"
          value={channel}
          options={project.layout.drivers.map((one) => ({ value: one.id, text: one.name }))}
          onChange={setChannel}
        />
        <NumberField
          label="Output level"
          unit="dBFS"
          value={sweep.level_db}
          step={1}
          min={-80}
          max={0}
          digits={0}
          onCommit={(value) => change({ sweep: { ...sweep, level_db: value } })}
        />
      </Row>
      <Typography sx={{ fontSize: 12 }} color="text.secondary">
        Output begins at −24 dBFS and is raised by you alone.
        {' Set the input gain so that peaks reach −24 to −12 dBFS.'}
      </Typography>
      {project.rig.device === 'file' ? (
        <LevelFromFile work={work} />
      ) : (
        <Button variant="contained" disabled={recording} onClick={listen} data-testid="start-level">
          Listen: quiet, then pink noise
        </Button>
      )}
      {level && (
        <Section title="Found" aside={clock(level.made)}>
          <Figure
            name="Peaks at the microphone input"
            value={`${plain(level.peak_dbfs, 0)} dBFS`}
            tone={says ? 'clay' : 'good'}
          />
          {says && (
            <Typography
              sx={{
                fontSize: 12,
                color: (t) => t.own.clayText,
              }}>{`${says.charAt(0).toUpperCase()}${says.slice(1)}.`}</Typography>
          )}
          <Figure
            name="Noise floor"
            value={
              `${plain(level.noise_dbfs, 0)} dBFS` +
              `${level.quiet_db_a === null ? '' : ` · ${plain(level.quiet_db_a, 0)} dB A`}`
            }
          />
          <Box sx={{ mt: 0.75, fontSize: 12 }} data-testid="octaves">
            {Object.entries(level.over_noise_db)
              .sort((a, b) => Number(a[0]) - Number(b[0]))
              .map(([hertz, over]) => (
                <Box key={hertz} sx={{ display: 'flex', alignItems: 'center', gap: 1, height: 17 }}>
                  <Box sx={{ width: 52, textAlign: 'right', color: 'text.secondary' }}>
                    {Number(hertz) >= 1000 ? `${Number(hertz) / 1000}k Hz` : `${hertz} Hz`}
                  </Box>
                  <Box sx={{ flex: 1, height: 8, borderRadius: 1, bgcolor: (t) => t.own.plot, overflow: 'hidden' }}>
                    <Box
                      sx={{
                        height: 1,
                        width: `${Math.max(0, Math.min(100, (over / 70) * 100))}%`,
                        bgcolor: (t) => (over >= 20 ? t.own.good : over >= 10 ? t.own.ways.mid : t.own.clay),
                      }}
                    />
                  </Box>
                  <Box sx={{ width: 40 }}>{`${plain(over, 0)} dB`}</Box>
                </Box>
              ))}
          </Box>
        </Section>
      )}
    </>
  );
}

/** Without a sound card: the test as a file, and the recording of it brought in. */
function LevelFromFile({ work }: Pick<StageProps, 'work'>) {
  const file = useFile();
  const bring = (sound: File) =>
    void work.act(() => settled(client.POST('/api/rig/level', { body: formWith(sound) as never })));
  return (
    <>
      <FileInput file={file} accept=".wav,audio/wav" testId="bring-level" onBring={bring} />
      <Row>
        <Link href="/api/rig/level.wav" download sx={{ fontSize: 12.5, alignSelf: 'center' }}>
          Quiet and pink noise as WAV
        </Link>
        <Button variant="contained" sx={{ flex: 1 }} onClick={() => file.ask()}>
          Bring its recording
        </Button>
      </Row>
    </>
  );
}
