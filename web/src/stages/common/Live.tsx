/** The live analyser: pink noise through the selection, its curve as it is now, while knobs are turned. */
import Tune from '@mui/icons-material/TuneOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Typography from '@mui/material/Typography';
import { useEffect, useRef } from 'react';
import { client, settled } from '../../api/client';
import { Choice } from '../../ui/Field';
import { Float, useAnchor } from '../../ui/Float';
import { Figure, Row, Section } from '../../ui/Panel';
import { Tick } from '../../ui/Tick';
import type { Progress } from '../../api/types';
import type { Work } from '../../state/project';
import { plain } from '../../ui/format';
import { useMoment, useWindow, usePick, WINDOW, type LiveSettings } from '../../state/window';
import { namesOf } from './RunBox';
import { AVERAGES, WINDOWS } from './averaging';

const SIZES = [10, 11, 12, 13, 14, 15, 16, 17, 18].map((n) => 2 ** n);
const OVERLAPS = [
  { value: -1, text: 'as much as can be drawn' },
  ...[0, 0.5, 0.75, 0.875].map((one) => ({ value: one, text: `${one * 100} %` })),
];
const BELOWS = [
  { value: '', text: 'as before' },
  { value: 'phase', text: 'phase' },
  { value: 'coherence', text: 'coherence' },
  { value: 'impulse', text: 'running impulse' },
] as const;

export function Live({ work, channels }: { work: Work; channels: string[] }) {
  const { project, slug, begin, recording } = work;
  const { progress, live, set } = usePick('progress', 'live', 'set');
  const { anchor, open, onClose } = useAnchor();
  const put = (values: Partial<LiveSettings>) => set({ live: { ...live, ...values } });
  const listen = () => {
    const { size, window, overlap, follow, track, hold, microphones } = live;
    const choice = {
      size,
      window,
      overlap: overlap < 0 ? null : overlap,
      follow,
      track,
      hold,
      microphones,
      seconds: live.seconds || null,
      frames: live.frames || null,
      level_db: -24,
    };
    void begin(() =>
      settled(
        client.POST('/api/projects/{slug}/analyser', {
          params: { path: { slug } },
          body: { channels, choice, window: WINDOW },
        }),
      ),
    );
  };
  const here = recording && progress?.kind === 'live';
  const says = progress?.kind === 'live' && progress.message;
  const settings = (
    <IconButton
      size="small"
      aria-label="Settings of the analyser"
      title="Window, plot below, microphones"
      onClick={open}
      sx={{ p: 0.25 }}>
      <Tune sx={{ fontSize: 18 }} />
    </IconButton>
  );
  return (
    <>
      {here ? (
        <Running work={work} progress={progress} settings={settings} />
      ) : (
        <Box component="section">
          <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
            <Button
              variant="outlined"
              size="small"
              disabled={recording}
              onClick={listen}
              data-testid="listen"
              title={channels.length ? namesOf(project, channels) : 'all channels'}
              sx={{ flex: 1 }}>
              Listen live
            </Button>
            {settings}
          </Box>
        </Box>
      )}
      {says && (
        <Typography role="status" sx={{ fontSize: 12.5, color: (t) => t.own.clayText }}>
          {says}
        </Typography>
      )}
      <Float name="Settings of the analyser" anchor={anchor} onClose={onClose} above width={300}>
        {!here && (
          <Row>
            <Choice
              label="Averaged over"
              value={live.frames ? -live.frames : live.seconds}
              options={AVERAGES}
              onChange={(value) => put(value < 0 ? { frames: -value, seconds: 0 } : { frames: 0, seconds: value })}
            />
            <Choice
              label="Points of the transform"
              value={live.size}
              options={SIZES.map((one) => ({ value: one, text: one.toLocaleString('en') }))}
              onChange={(size) => put({ size })}
            />
          </Row>
        )}
        <Row>
          <Choice
            label="Below the plot"
            value={live.below}
            options={[...BELOWS]}
            onChange={(below) => put({ below })}
          />
          {!here && (
            <Choice label="Window" value={live.window} options={WINDOWS} onChange={(window) => put({ window })} />
          )}
        </Row>
        {!here && (
          <Row>
            <Choice
              label="Overlap of the windows"
              value={live.overlap}
              options={OVERLAPS}
              onChange={(overlap) => put({ overlap })}
            />
          </Row>
        )}
        {here ? (
          <Typography sx={{ fontSize: 12, mt: 1 }} color="text.secondary">
            The rest is set before it runs.
          </Typography>
        ) : (
          <More work={work} put={put} />
        )}
      </Float>
    </>
  );
}

/** What is sent, followed and kept while it runs, and further microphones. */
function More({ work, put }: { work: Work; put: (values: Partial<LiveSettings>) => void }) {
  const { rig } = work.project;
  const { live } = usePick('live');
  const others = Array.from({ length: rig.known_inputs }, (_, n) => n).filter(
    (n) =>
      n !== rig.microphone_input &&
      n !== rig.reference_input &&
      n !== rig.jig.driver_input &&
      n !== rig.jig.resistor_input,
  );
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', mt: 1 }}>
      <Tick label="Send every change to the processor" on={live.follow} onTurn={(follow) => put({ follow })} />
      <Tick label="Follow a delay that moves" on={live.track} onTurn={(track) => put({ track })} />
      <Tick label="Keep the highest level" on={live.hold} onTurn={(hold) => put({ hold })} />
      {others.length > 0 && (
        <Typography sx={{ fontSize: 12, mt: 0.5 }} color="text.secondary">
          Further microphones, shown as their mean
        </Typography>
      )}
      {others.map((n) => (
        <Tick
          key={n}
          label={rig.input_names[n] ?? `Input ${n + 1}`}
          on={live.microphones.includes(n)}
          onTurn={(on) =>
            put({ microphones: on ? [...live.microphones, n] : live.microphones.filter((one) => one !== n) })
          }
        />
      ))}
    </Box>
  );
}

/** What the analyser knows, and what can be asked of it. */
function Running({ work, progress: begun, settings }: { work: Work; progress: Progress; settings: React.ReactNode }) {
  const progress = useMoment(begun);
  const ask = (what: 'delay' | 'reset' | 'keep') =>
    void work.begin(() =>
      settled(client.POST('/api/projects/{slug}/analyser/{ask}', { params: { path: { slug: work.slug, ask: what } } })),
    );
  const found = progress.result;
  const box = useRef<HTMLElement>(null);
  useEffect(() => {
    void box.current?.scrollIntoView({ block: 'end' });
  }, []);
  const microphone = progress.meters[0];
  const { frames } = useWindow((state) => state.live);
  return (
    <Section
      title={`Live · ${namesOf(work.project, progress.channels)}`}
      aside={
        <>
          {microphone ? `peaks ${plain(microphone.held, 0)} dBFS ` : ''}
          {settings}
        </>
      }>
      <Box ref={box} data-testid="live-figures">
        <Figure
          name="Delay, taken out"
          value={found?.settled ? `${plain(found.delay_ms ?? 0, 2)} ms` : 'being found: phase means nothing yet'}
        />
        <Figure
          name="Coherence, 100 Hz to 10 kHz"
          value={found ? plain(found.coherence ?? 0, 2) : '…'}
          tone={(found?.coherence ?? 0) >= 0.6 ? 'good' : 'clay'}
        />
        {frames > 0 && (
          <Figure
            name="Averages"
            value={found?.full ? `${progress.averages}, held` : `${progress.averages} of ${frames}`}
          />
        )}
        <Box
          sx={{
            display: 'flex',
            gap: 0.5,
            mt: 0.5,
            '& .MuiButton-root': { flex: 1, minWidth: 0, px: 0.5, whiteSpace: 'nowrap' },
          }}>
          <Button variant="outlined" size="small" onClick={() => ask('delay')}>
            Find delay
          </Button>
          <Button variant="outlined" size="small" onClick={() => ask('reset')}>
            Reset
          </Button>
          <Button variant="outlined" size="small" onClick={() => ask('keep')} data-testid="freeze">
            Freeze
          </Button>
          <Button variant="contained" size="small" onClick={work.stop} data-testid="stop">
            Stop
          </Button>
        </Box>
      </Box>
    </Section>
  );
}
