/** Drivers: a neutral, safe processor, and a take of each bare driver in a round. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useEffect, useMemo, useRef } from 'react';
import { client, settled } from '../api/client';
import type { Driver, Project } from '../api/types';
import { KeyLine, PanelTitle, Section } from '../frame/Panel';
import { clock, hertz, plain, short } from '../format';
import { Plot } from '../plot/Plot';
import { levelRange, RIGHT, toX } from '../plot/scale';
import { useDesk } from '../store';
import { Bringing } from './Bringing';
import { useLines } from './lines';
import { PlotHead } from './PlotHead';
import { Stack } from './Stack';
import type { StageProps } from './props';

export function DriversPlots({ work, selection }: StageProps) {
  const { project } = work;
  const { own } = useTheme();
  const lines = useLines(project, 'main');
  const range = useMemo(() => levelRange(lines), [lines]);
  const driver = project.layout.drivers.find((one) => one.id === selection);
  const read = project.drivers[selection];
  return (
    <Stack head={<PlotHead title="Bare drivers at the driver’s seat" says="processor filters divided out, cut where they meet the noise" aside="at −24 dBFS drive" />}>
      {(height) => (
        <Plot name="Bare drivers" unit="dB SPL" grid={project.grid} lines={lines} range={range} height={height}>
          {({ width, bottom }) => !lines.length ? (
            <text x={width / 2} y={bottom / 2} textAnchor="middle" fill={own.quiet}>Each driver stands here once it is recorded: press Space, or bring a file.</text>
          ) : driver && read && (
            <g stroke={own.ways[driver.kind]} fill={own.ways[driver.kind]} style={{ pointerEvents: 'none' }} data-testid="usable-band">
              <path d={`M${toX(read.low_hz, width)} ${bottom - 30}v10m0 -5H${toX(read.high_hz, width)}m0 -5v10`} fill="none" strokeWidth={1.5} />
              <text x={Math.min((toX(read.low_hz, width) + toX(read.high_hz, width)) / 2, width - RIGHT - 130)} y={bottom - 34} textAnchor="middle" stroke="none">
                {`${driver.name}: usable from ${hertz(read.low_hz)} to ${hertz(read.high_hz)}`}
              </text>
            </g>
          )}
        </Plot>
      )}
    </Stack>
  );
}

export function DriversPanel({ work, selection }: StageProps) {
  const { project, slug, act, record, recording } = work;
  const { progress, set } = useDesk();
  const path = { params: { path: { slug } } };
  const drivers = project.layout.drivers;
  const chosen = drivers.find((one) => one.id === selection) ?? drivers[0];
  const done = drivers.filter((one) => project.drivers[one.id]).length;

  // When a take that was seen running is kept, the next driver is chosen.
  const before = useRef(progress?.stage);
  useEffect(() => {
    const ran = before.current === 'playing' || before.current === 'computing';
    before.current = progress?.stage;
    if (!ran || progress?.stage !== 'kept' || progress.purpose !== 'driver') return;
    const at = drivers.findIndex((one) => one.id === progress.channels[0]);
    if (at < drivers.length - 1) set({ selection: drivers[at + 1].id });
  }, [progress, drivers, set]);

  const start = () => record([chosen.id], 'driver');
  const stop = () => void act(() => settled(client.POST('/api/projects/{slug}/takes/abort', path)));
  const neutral = () => void act(() => settled(client.POST('/api/projects/{slug}/neutral', path)));
  const discard = (take: number, discarded: boolean) =>
    void act(() => settled(client.PUT('/api/projects/{slug}/takes/{take_id}/discarded', { params: { path: { slug, take_id: take } }, body: { discarded } })));
  const read = project.drivers[chosen.id];
  const aside = project.takes.filter((one) => one.discarded && one.channels[0] === chosen.id && one.purpose === 'driver');

  return (
    <>
      <PanelTitle title="Record drivers" aside={`${done} of ${drivers.length} done`} />
      <Button variant="outlined" onClick={neutral} disabled={recording} data-testid="neutral">Make the processor neutral and safe</Button>
      <Box role="list" sx={{ display: 'flex', flexDirection: 'column', gap: 0.5 }}>
        {drivers.map((driver) => <DriverRow key={driver.id} driver={driver} project={project} chosen={driver.id === chosen.id} />)}
      </Box>
      {recording && progress ? (
        <Section title={`${names(project, progress.channels)} · ${progress.stage === 'computing' ? 'computing' : `${plain(progress.seconds_left)} s left`}`}>
          <LinearProgress variant="determinate" value={progress.done * 100} aria-label="Progress of the take" sx={{ height: 8, borderRadius: 4, mb: 1 }} />
          <Meter peak={progress.peak_dbfs} />
          <Button variant="contained" fullWidth onClick={stop} data-testid="stop">Stop and drop this take</Button>
        </Section>
      ) : (
        <Section title={chosen.name} aside={guardWords(chosen)}>
          <Box sx={{ display: 'flex', gap: 1 }}>
            <Button variant="contained" sx={{ flex: 1 }} onClick={start} data-testid="record">{`Record ${chosen.name}`}</Button>
            {read && <Button variant="outlined" onClick={() => discard(read.take_id, true)}>Discard</Button>}
          </Box>
          {progress && progress.purpose === 'driver' && progress.message && (
            <Typography role="status" data-testid="refusal" sx={{ mt: 0.75, fontSize: 12.5, color: (t) => t.own.clayText }}>{progress.message}</Typography>
          )}
          {aside.length > 0 && (
            <Button size="small" onClick={() => discard(aside[0].id, false)}>{`Bring back the take of ${clock(aside[0].made)}`}</Button>
          )}
        </Section>
      )}
      <Bringing work={work} driver={chosen} />
      <KeyLine>Space record and stop · N next · S solo · M mute · ? all keys</KeyLine>
    </>
  );
}

const names = (project: Project, ids: string[]) =>
  ids.map((id) => project.layout.drivers.find((one) => one.id === id)?.name ?? id).join(', ');

const guardWords = (driver: Driver) => (driver.kind === 'tweeter' ? 'others muted · 1 kHz guard' : `others muted · output ${driver.output}`);

function DriverRow({ driver, project, chosen }: { driver: Driver; project: Project; chosen: boolean }) {
  const { own } = useTheme();
  const set = useDesk((desk) => desk.set);
  const progress = useDesk((desk) => desk.progress);
  const read = project.drivers[driver.id];
  const busy = (progress?.stage === 'playing' || progress?.stage === 'computing') && progress.channels.includes(driver.id);
  return (
    <ButtonBase role="listitem" onClick={() => set({ selection: driver.id })} aria-current={chosen || undefined} data-testid={`driver-${driver.id}`}
      sx={{ display: 'flex', justifyContent: 'space-between', textAlign: 'left', px: 1, height: 38, borderLeft: `4px solid ${own.ways[driver.kind]}`, borderRadius: 0.75,
        bgcolor: own.raised, outline: chosen ? `1px solid ${own.clay}` : 'none' }}>
      <Box>
        <Typography sx={{ fontSize: 13, fontWeight: 600, lineHeight: '17px' }}>{driver.name}</Typography>
        <Typography sx={{ fontSize: 11, lineHeight: '15px' }} color="text.secondary">
          {busy ? 'recording' : read ? `${plain(read.over_noise_db, 0)} dB over noise${read.timed ? ` · ${plain(read.arrival_ms, 2)} ms` : ' · no time'}` : 'no take yet'}
        </Typography>
      </Box>
      {read && (
        <Box sx={{ textAlign: 'right' }}>
          <Typography sx={{ fontSize: 12.5, lineHeight: '17px' }}>{`${short(read.low_hz)}–${short(read.high_hz)} Hz`}</Typography>
          <Typography sx={{ fontSize: 11, lineHeight: '15px' }} color="text.secondary">{clock(read.made)}</Typography>
        </Box>
      )}
    </ButtonBase>
  );
}

function Meter({ peak }: { peak: number }) {
  const { own } = useTheme();
  const share = Math.max(0, Math.min(1, (peak + 60) / 60));
  const tone = peak > -3 ? own.clay : own.good;
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: 1, fontSize: 12 }}>
      <Box component="span" color="text.secondary">In</Box>
      <Box sx={{ flex: 1, height: 8, borderRadius: 4, bgcolor: own.plot, overflow: 'hidden' }}>
        <Box sx={{ width: `${share * 100}%`, height: 1, minHeight: 8, bgcolor: tone }} />
      </Box>
      <Box component="span">{peak > -119 ? `${plain(peak, 0)} dBFS` : '…'}</Box>
    </Box>
  );
}
