/** The round: the queue in its order, the method, the record button, and the verdict on what was recorded. */
import Close from '@mui/icons-material/RemoveCircleOutlineOutlined';
import Down from '@mui/icons-material/KeyboardArrowDownOutlined';
import Restart from '@mui/icons-material/ReplayOutlined';
import Up from '@mui/icons-material/KeyboardArrowUpOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import IconButton from '@mui/material/IconButton';
import InputBase from '@mui/material/InputBase';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import { client, settled } from '../../api/client';
import type { Driver, Project, Round, Turn } from '../../api/types';
import { Choice, NumberField } from '../../ui/Field';
import { Section } from '../../ui/Panel';
import { running, type Work } from '../../state/project';
import { clock, plain, short } from '../../ui/format';
import { useWindow, usePick } from '../../state/window';
import { RunBox } from '../common/RunBox';
import { Verdict } from '../common/Verdict';
import { hueOf } from '../../ui/theme';
import { InARow } from './InARow';

type Plays = Project['rig']['plays'];
const BY_SOUND_CARD: { value: `${Plays} ${Round['method']}`; text: string }[] = [
  { value: 'interface sweep', text: 'Sweep, microphone still' },
  { value: 'interface moving', text: 'Pink noise, microphone moving' },
];
const BY_SOURCE: typeof BY_SOUND_CARD = [
  { value: 'source sweep', text: 'Source: track, microphone still' },
  { value: 'source moving', text: 'Source: pink noise, microphone moving' },
];

export function RoundPanel({ work, chosen }: { work: Work; chosen: Driver }) {
  const { project, slug, act, record, recording, onRig } = work;
  const { progress, note, angle, set } = usePick('progress', 'note', 'angle', 'set');
  const [dragged, setDragged] = useState<string | null>(null);
  const path = { params: { path: { slug } } };
  const { turns, method } = project.round;
  const { plays } = project.rig;
  // What the source does to its wires has to be known before it may play.
  const wiresKnown = plays === 'source' || project.takes.some((one) => one.purpose === 'feed' && !one.discarded);
  const put = (values: Partial<Round>) =>
    void act(() =>
      settled(client.PUT('/api/projects/{slug}/round', { ...path, body: { ...project.round, ...values } })),
    );
  const arrange = (next: Turn[]) => put({ turns: next });
  const move = (channel: string, by: number) => {
    const at = turns.findIndex((one) => one.channel === channel);
    const to = Math.max(0, Math.min(turns.length - 1, at + by));
    if (to === at) return;
    const next = turns.filter((one) => one.channel !== channel);
    next.splice(to, 0, turns[at]);
    arrange(next);
  };
  const drop = (on: string) => {
    if (dragged && dragged !== on)
      move(dragged, turns.findIndex((one) => one.channel === on) - turns.findIndex((one) => one.channel === dragged));
    setDragged(null);
  };
  const skip = () => {
    const at = turns.findIndex((one) => one.channel === chosen.id);
    arrange(
      turns.map((one) =>
        one.channel === chosen.id ? { ...one, state: one.state === 'skipped' ? 'waiting' : 'skipped' } : one,
      ),
    );
    const next = turns[(at + 1) % turns.length];
    if (turns[at].state !== 'skipped') set({ selection: next.channel });
  };
  const neutral = () => void act(() => settled(client.POST('/api/projects/{slug}/neutral', path)));
  const restart = () =>
    void act(() => settled(client.POST('/api/projects/{slug}/round/restart', path))).then(() =>
      set({ selection: turns[0].channel }),
    );
  const latest = project.takes.find(
    (one) => one.channels[0] === chosen.id && one.purpose === 'driver' && !one.discarded,
  );
  // What came back last, when it is not of the selection: the round has gone on, its verdict must still be seen.
  const last = project.takes.find((one) => one.id === progress?.take_id && !one.discarded);
  const shown = last && last.purpose === 'driver' && last.channels[0] !== chosen.id ? last : latest;
  const read = project.drivers[chosen.id];
  const refused = progress && progress.purpose === 'driver' && progress.message && !running(progress);
  const choose = (value: (typeof BY_SOUND_CARD)[number]['value']) => {
    const [by, how] = value.split(' ') as [Plays, Round['method']];
    if (by !== plays) void onRig(() => settled(client.PATCH('/api/rig', { body: { plays: by } })));
    if (how !== method) put({ method: how });
  };
  const exchange = () => void onRig(() => settled(client.POST('/api/rig/exchange')));
  const turn = turns.find((one) => one.channel === chosen.id);
  return (
    <>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button variant="outlined" sx={{ flex: 1 }} onClick={neutral} disabled={recording} data-testid="neutral">
          Make the processor neutral and safe
        </Button>
        <IconButton
          size="small"
          aria-label="Start the round anew"
          title="Start the round anew"
          disabled={recording}
          onClick={restart}>
          <Restart fontSize="small" />
        </IconButton>
      </Box>
      <Box
        role="list"
        aria-label="The round"
        sx={{ display: 'flex', flexDirection: 'column', gap: 0.5, minHeight: 76, overflowY: 'auto' }}>
        {turns.map((one) => {
          const driver = project.layout.drivers.find((d) => d.id === one.channel)!;
          return (
            <Box
              key={one.channel}
              role="listitem"
              draggable
              onDragStart={() => setDragged(one.channel)}
              onDragOver={(event) => event.preventDefault()}
              onDrop={() => drop(one.channel)}
              sx={{ flexShrink: 0 }}>
              <DriverRow driver={driver} project={project} chosen={driver.id === chosen.id} turn={one} onMove={move} />
            </Box>
          );
        })}
      </Box>
      {recording && progress ? (
        <RunBox work={work} progress={progress} />
      ) : (
        <Section title={chosen.name} aside={guardWords(chosen)}>
          <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', mb: 0.75 }}>
            <Choice
              label="Method"
              hideLabel
              value={`${plays} ${method}` as const}
              options={wiresKnown ? [...BY_SOUND_CARD, ...BY_SOURCE] : BY_SOUND_CARD}
              onChange={choose}
            />
            <IconButton
              size="small"
              aria-label={`Skip ${chosen.name}`}
              title={turn?.state === 'skipped' ? 'Take it back into the round' : 'Skip in this round'}
              onClick={skip}>
              <Close fontSize="small" />
            </IconButton>
          </Box>
          <Box sx={{ display: 'flex', gap: 1 }}>
            <Button
              variant="contained"
              sx={{ flex: 1 }}
              onClick={() => record([chosen.id], 'driver', false, method)}
              data-testid="record">{`${read ? 'Redo' : 'Record'} ${chosen.name}`}</Button>
            {shown && (
              <Button
                variant="outlined"
                data-testid="discard"
                onClick={() =>
                  void act(() =>
                    settled(
                      client.PUT('/api/projects/{slug}/takes/{take_id}/discarded', {
                        params: { path: { slug, take_id: shown.id } },
                        body: { discarded: true },
                      }),
                    ),
                  )
                }>
                {shown === last && last.channels[0] !== chosen.id ? 'Discard last' : 'Discard'}
              </Button>
            )}
          </Box>
          <InARow work={work} />
          <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', mt: 0.75 }}>
            <InputBase
              value={note}
              onChange={(event) => set({ note: event.target.value })}
              placeholder="Note for the next take"
              inputProps={{ 'aria-label': 'Note for the next take', maxLength: 400 }}
              sx={{
                flex: 1,
                minWidth: 0,
                fontSize: 12.5,
                height: 30,
                px: 1,
                border: 1,
                borderColor: 'divider',
                borderRadius: 1,
              }}
            />
            {method === 'sweep' && (
              <Box
                sx={{ width: 96, flexShrink: 0, display: 'flex' }}
                title="From how far off the axis the microphone hears the driver">
                <NumberField
                  label="Off the axis by"
                  hideLabel
                  unit="° off axis"
                  value={angle}
                  step={5}
                  coarse={15}
                  min={-180}
                  max={180}
                  digits={0}
                  onCommit={(value) => set({ angle: value })}
                />
              </Box>
            )}
          </Box>
          {method === 'moving' && (
            <Typography sx={{ fontSize: 11.5, mt: 0.5 }} color="text.secondary">
              Move the microphone slowly round both ears until the count is full. It shows levels, averaged over the
              place; delays cannot be read from it.
            </Typography>
          )}
          {refused && (
            <Box role="status" data-testid="refusal" sx={{ mt: 0.75 }}>
              <Typography sx={{ fontSize: 12.5, color: (t) => t.own.clayText }}>{progress.message}</Typography>
              {progress.cause === 'exchanged' && (
                <Button variant="outlined" size="small" onClick={exchange} data-testid="exchange">
                  Exchange the inputs
                </Button>
              )}
            </Box>
          )}
          {shown && !refused && (
            <Box sx={{ mt: 0.75 }}>
              <Typography sx={{ fontSize: 11.5 }} color="text.secondary">
                {`${project.layout.drivers.find((d) => d.id === shown.channels[0])?.name}` +
                  `, ${clock(shown.made)}${shown.note ? `: ${shown.note}` : ''}`}
              </Typography>
              <Verdict take={shown} />
            </Box>
          )}
        </Section>
      )}
    </>
  );
}

export const guardWords = (driver: Driver) =>
  driver.kind === 'tweeter' ? 'others muted · 1 kHz guard' : `others muted · output ${driver.output}`;

function DriverRow({
  driver,
  project,
  chosen,
  turn,
  onMove,
}: {
  driver: Driver;
  project: Project;
  chosen: boolean;
  turn: Turn;
  onMove: (channel: string, by: number) => void;
}) {
  const { own } = useTheme();
  const set = useWindow((state) => state.set);
  const progress = useWindow((state) => state.progress);
  const read = project.drivers[driver.id];
  const busy = running(progress) && progress!.channels.includes(driver.id);
  const latest = project.takes.find(
    (one) => one.channels[0] === driver.id && one.purpose === 'driver' && !one.discarded,
  );
  const doubt = latest?.troubles.some((one) => one.weight === 'doubt');
  const says = busy
    ? 'recording'
    : turn.state === 'skipped'
      ? 'skipped in this round'
      : read
        ? reads(read)
        : 'no take yet';
  return (
    <Box
      sx={{
        display: 'flex',
        bgcolor: own.raised,
        borderRadius: 0.75,
        borderLeft: `4px solid ${hueOf(own, driver)}`,
        outline: chosen ? `1px solid ${own.clay}` : 'none',
        outlineOffset: '-1px',
        opacity: turn.state === 'skipped' ? 0.75 : 1,
      }}>
      <ButtonBase
        onClick={() => set({ selection: driver.id, olderTake: null })}
        aria-current={chosen || undefined}
        data-testid={`driver-${driver.id}`}
        data-state={turn.state}
        onKeyDown={(event) => {
          if (event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
            event.preventDefault();
            event.stopPropagation();
            onMove(driver.id, event.key === 'ArrowUp' ? -1 : 1);
          }
        }}
        sx={{
          flex: 1,
          display: 'flex',
          justifyContent: 'space-between',
          textAlign: 'left',
          px: 1,
          height: 38,
          minWidth: 0,
        }}>
        <Box sx={{ minWidth: 0 }}>
          <Typography sx={{ fontSize: 13, fontWeight: 600, lineHeight: '17px' }}>
            {driver.name}
            {doubt && (
              <Box component="span" title="Something speaks against this take" sx={{ color: own.clayText }}>
                {' '}
                ?
              </Box>
            )}
            {turn.state === 'done' && (
              <Box component="span" title="Done in this round" sx={{ color: own.good }}>
                {' '}
                ✓
              </Box>
            )}
          </Typography>
          <Typography noWrap sx={{ fontSize: 11, lineHeight: '15px' }} color="text.secondary">
            {says}
          </Typography>
        </Box>
        {read && (
          <Box sx={{ textAlign: 'right', flexShrink: 0 }}>
            <Typography
              sx={{
                fontSize: 12.5,
                lineHeight: '17px',
              }}>{`${short(read.low_hz)}–${short(read.high_hz)} Hz`}</Typography>
            <Typography sx={{ fontSize: 11, lineHeight: '15px' }} color="text.secondary">
              {clock(read.made)}
            </Typography>
          </Box>
        )}
      </ButtonBase>
      {chosen && (
        <Box
          sx={{
            display: 'flex',
            flexDirection: 'column',
            justifyContent: 'center',
            '& .MuiIconButton-root': { p: 0, height: 19 },
          }}>
          <IconButton
            size="small"
            aria-label={`${driver.name} earlier in the round`}
            onClick={() => onMove(driver.id, -1)}>
            <Up sx={{ fontSize: 17 }} />
          </IconButton>
          <IconButton
            size="small"
            aria-label={`${driver.name} later in the round`}
            onClick={() => onMove(driver.id, 1)}>
            <Down sx={{ fontSize: 17 }} />
          </IconButton>
        </Box>
      )}
    </Box>
  );
}

/** What a driver's take in force tells in a few words. */
function reads(read: Project['drivers'][string]): string {
  if (read.method === 'moving') return 'levels only';
  const off = read.arrival_off_ms == null ? '' : ` ±${plain(Math.max(read.arrival_off_ms, 0.01), 2)}`;
  const time = read.timed ? `${off ? '' : 'about '}${plain(read.arrival_ms, 2)}${off} ms` : 'no time';
  return `${plain(read.over_noise_db, 0)} dB over noise · ${time}${read.moving_id ? ' + moving' : ''}`;
}
