/** Whatever sounds or records now: large figures for the countdown, progress, meters, and how to stop it. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useEffect, useRef } from 'react';
import { client, settled } from '../../api/client';
import { formWith } from '../../api/files';
import type { Progress, Project } from '../../api/types';
import { FileInput, useFile } from '../../ui/FileInput';
import { Section } from '../../ui/Panel';
import type { Work } from '../../state/project';
import { plain } from '../../ui/format';
import { Meters } from './Meters';
import { useMoment } from '../../state/window';

const KINDS: Record<Progress['kind'], string> = {
  live: 'Live',
  take: 'Sweep',
  moving: 'Moving microphone',
  check: 'Interface check',
  level: 'Level',
  calibrate: 'Calibrator',
  signal: 'Sound',
  channels: 'Channel check',
  polarity: 'Polarity',
  jig: 'Jig',
  impedance: 'Impedance',
  ohms: 'Jig watched',
  listen: 'Input',
  feed: 'Wires of the source',
  volume: 'Source turned up',
  switch: 'Change-over of sources',
  wire: 'Feed heard live',
  image: 'Image',
  music: 'Music',
};

export const namesOf = (project: Project, ids: string[]) =>
  ids.length === project.layout.drivers.length
    ? 'all channels'
    : ids.map((id) => project.layout.drivers.find((one) => one.id === id)?.name ?? id).join(', ');

export function RunBox({ work, progress: begun }: { work: Work; progress: Progress }) {
  const { project, slug, stop, begin } = work;
  const progress = useMoment(begun);
  const { own } = useTheme();
  const file = useFile();
  useTick(progress);
  const series = progress.turns > 1;
  const bySource = project.rig.plays === 'source';
  const what = [
    bySource && progress.kind === 'take' ? 'Track of the source' : KINDS[progress.kind],
    ...(progress.channels.length ? [namesOf(project, progress.channels)] : []),
    ...(series ? [`${Math.max(progress.turn, 1)} of ${progress.turns}`] : []),
    ...(progress.place ? [progress.place] : []),
  ].join(' · ');
  const left =
    progress.stage === 'computing'
      ? `computing${progress.seconds_left ? `, about ${plain(progress.seconds_left)} s` : ''}`
      : progress.stage === 'waiting'
        ? 'waiting'
        : `${plain(progress.seconds_left)} s left`;
  const bring = (file: File) => {
    void begin(async () =>
      settled(
        client.POST('/api/projects/{slug}/takes/bring', { params: { path: { slug } }, body: formWith(file) as never }),
      ),
    );
  };
  if (progress.stage === 'countdown') {
    return (
      <Section title={what} aside="step back">
        <Typography
          role="timer"
          aria-live="assertive"
          data-testid="countdown"
          sx={{ fontSize: 110, lineHeight: '120px', fontWeight: 600, textAlign: 'center', color: own.clayText }}>
          {progress.seconds_left}
        </Typography>
        <Button variant="outlined" fullWidth onClick={stop} data-testid="stop">
          Stop
        </Button>
      </Section>
    );
  }
  return (
    <Section title={what} aside={left}>
      {progress.stage === 'waiting' ? (
        <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1, fontSize: 12.5 }}>
          <span>
            {bySource
              ? 'The processor is set for this take. Let the source play the track, record it, and bring the recording.'
              : 'The processor is set for this take. Play the file through its input, record it, and bring the ' +
                'recording back.'}
          </span>
          <Button
            variant="outlined"
            href={bySource ? `/api/projects/${slug}/source/track.wav` : `/api/projects/${slug}/stimulus.wav`}
            download>
            1 · Download what to play
          </Button>
          <Button variant="contained" onClick={() => file.ask()}>
            2 · Bring the recording
          </Button>
          <FileInput file={file} accept=".wav,audio/wav" testId="bring-take" onBring={bring} />
        </Box>
      ) : (
        <>
          <LinearProgress
            variant={progress.stage === 'computing' ? 'indeterminate' : 'determinate'}
            value={progress.done * 100}
            aria-label="Progress of the recording"
            sx={{ height: 8, borderRadius: 4, mb: 1 }}
          />
          {progress.kind === 'moving' && (
            <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1, mb: 0.5 }}>
              <Typography data-testid="averages" sx={{ fontSize: 34, lineHeight: '38px', fontWeight: 600 }}>
                {progress.averages}
              </Typography>
              <Typography sx={{ fontSize: 12 }} color="text.secondary">
                {`of ${project.rig.moving.averages} averages · ` +
                  (progress.change_db === null
                    ? 'settling'
                    : `${progress.change_db.toFixed(2)} dB changed over the last ten`)}
              </Typography>
            </Box>
          )}
          {progress.message && (
            <Typography sx={{ fontSize: 12, mb: 0.5 }} color="text.secondary">
              {progress.message}
            </Typography>
          )}
          <Meters meters={progress.meters} aim={project.rig.aim_dbfs} />
        </>
      )}
      <Button
        variant={progress.stage === 'waiting' ? 'outlined' : 'contained'}
        fullWidth
        sx={{ mt: 0.5 }}
        onClick={stop}
        data-testid="stop">
        {series && progress.turn > 1 && progress.kind === 'take'
          ? 'Stop here and keep the others'
          : progress.kind === 'moving'
            ? progress.averages >= 10
              ? 'Stop and keep it'
              : 'Stop and drop it'
            : progress.kind === 'take' || progress.kind === 'impedance'
              ? 'Stop and drop this take'
              : 'Stop'}
      </Button>
    </Section>
  );
}

/** A tick for every second of the countdown. */
function useTick(progress: Progress) {
  const context = useRef<AudioContext | null>(null);
  useEffect(() => {
    if (progress.stage !== 'countdown' || typeof AudioContext === 'undefined') return;
    const audio = (context.current ??= new AudioContext());
    const tone = audio.createOscillator();
    const gain = audio.createGain();
    tone.frequency.value = progress.seconds_left === 1 ? 1320 : 880;
    gain.gain.setValueAtTime(0.1, audio.currentTime);
    gain.gain.exponentialRampToValueAtTime(0.0001, audio.currentTime + 0.08);
    tone.connect(gain).connect(audio.destination);
    tone.start();
    tone.stop(audio.currentTime + 0.09);
  }, [progress.stage, progress.seconds_left]);
  useEffect(() => () => void context.current?.close(), []);
}
