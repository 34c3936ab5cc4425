/**
 * All takes of one driver: what each is, its verdict, another correction, a note; aside and back; laid beside the one
 * in force.
 */
import Visibility from '@mui/icons-material/VisibilityOutlined';
import VisibilityOff from '@mui/icons-material/VisibilityOffOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import IconButton from '@mui/material/IconButton';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { client, settled } from '../../api/client';
import type { Driver, Look, Take } from '../../api/types';
import { Choice, NumberField, WordField } from '../../ui/Field';
import { Figure, Row, Section } from '../../ui/Panel';
import type { Work } from '../../state/project';
import { clock, hertz, plain, signed } from '../../ui/format';
import { useWindow, usePick } from '../../state/window';
import { looks } from '../common/lines';
import { Verdict } from '../common/Verdict';

const METHODS: Record<string, string> = {
  sweep: 'sweep',
  moving: 'moving microphone',
  file: 'recording brought in',
  impulse: 'impulse brought in',
  text: 'curve brought in',
  source: 'through the source',
  average: 'average',
};

const COLOURS = ['green', 'blue', 'clay', 'rose', 'ochre', 'grey'];

/** By what the time of a take is kept. */
const clockWords = (of: string) =>
  of === 'loopback' ? 'by loopback' : of.startsWith('source:') ? 'by the anchor' : 'by marker';

export function TakesOf({ work, driver }: { work: Work; driver: Driver }) {
  const { project, slug, act } = work;
  const { own } = useTheme();
  const { olderTake, picture, set } = usePick('olderTake', 'picture', 'set');
  const here = project.takes.filter((one) => one.channels[0] === driver.id && one.purpose === 'driver');
  const inForce = project.drivers[driver.id];
  const open = here.find((one) => one.id === olderTake) ?? here.find((one) => one.id === inForce?.take_id) ?? here[0];
  const at = (take: Take) => ({ params: { path: { slug, take_id: take.id } } });
  const discard = (take: Take, discarded: boolean) =>
    void act(() =>
      settled(client.PUT('/api/projects/{slug}/takes/{take_id}/discarded', { ...at(take), body: { discarded } })),
    );
  const correct = (take: Take, id: number) =>
    void act(() =>
      settled(
        client.PUT('/api/projects/{slug}/takes/{take_id}/correction', {
          ...at(take),
          body: { correction: id || null },
        }),
      ),
    );
  const note = (take: Take, text: string) => {
    if (text.trim() !== take.note)
      void act(() =>
        settled(client.PUT('/api/projects/{slug}/takes/{take_id}/note', { ...at(take), body: { note: text } })),
      );
  };
  const agrees = picture?.facts.agreement;
  const give = (take: Take, values: Partial<Look>) =>
    void act(() =>
      settled(
        client.PUT('/api/projects/{slug}/takes/{take_id}/look', { ...at(take), body: { ...take.look, ...values } }),
      ),
    );
  const inUse = (take: Take) => take.id === inForce?.take_id || take.id === inForce?.moving_id;
  if (!open)
    return (
      <Typography
        sx={{ fontSize: 12.5 }}
        color="text.secondary">{`No take of ${driver.name} yet. Record one, or bring a file.`}</Typography>
    );
  return (
    <>
      <Box
        role="list"
        aria-label={`Takes of ${driver.name}`}
        sx={{ maxHeight: 132, flexShrink: 0, overflowY: 'auto', display: 'flex', flexDirection: 'column', gap: 0.5 }}>
        {here.map((take) => (
          <Box role="listitem" key={take.id} sx={{ flexShrink: 0, display: 'flex', alignItems: 'center', gap: 0.25 }}>
            <IconButton
              size="small"
              aria-pressed={take.look.shown}
              aria-label={`${take.look.shown ? 'Hide' : 'Show'} take ${take.id}`}
              disabled={take.discarded || take.id === inForce?.take_id}
              onClick={() => give(take, { shown: !take.look.shown })}
              sx={{ p: 0.25, color: take.look.shown ? looks(own)[take.look.colour - 1] : own.quiet }}>
              {take.look.shown ? <Visibility sx={{ fontSize: 16 }} /> : <VisibilityOff sx={{ fontSize: 16 }} />}
            </IconButton>
            <ButtonBase
              onClick={() => set({ olderTake: take.id === inForce?.take_id ? null : take.id })}
              aria-current={take === open || undefined}
              data-testid={`take-${take.id}`}
              sx={{
                flex: 1,
                minWidth: 0,
                display: 'flex',
                justifyContent: 'space-between',
                px: 1,
                py: 0.4,
                fontSize: 12.5,
                borderRadius: 0.75,
                bgcolor: own.raised,
                outline: take === open ? `1px solid ${own.clay}` : 'none',
                outlineOffset: '-1px',
                color: take.discarded ? own.quiet : own.text,
              }}>
              <span>
                {`${take.id} · ${clock(take.made)} · ${METHODS[take.method]}` +
                  `${take.repeats > 1 ? ` × ${take.repeats}` : ''}${take.angle ? ` · ${take.angle}°` : ''}`}
              </span>
              <span>
                {take.id === inForce?.take_id || take.id === inForce?.moving_id
                  ? take.look.locked
                    ? 'in force, locked'
                    : 'in force'
                  : take.discarded
                    ? 'set aside'
                    : take.troubles.some((t) => t.weight === 'doubt')
                      ? '?'
                      : ''}
              </span>
            </ButtonBase>
          </Box>
        ))}
      </Box>
      <Beside work={work} driver={driver} here={here} />
      <Section title={`Take ${open.id}`} aside={open.position || undefined}>
        <Verdict take={open} />
        {open.evidence && (
          <Box sx={{ mt: 0.5 }}>
            <Figure name="Peak at the input" value={`${plain(open.evidence.peak_dbfs, 0)} dBFS`} />
            <Figure name="Noise before the sweep" value={`${plain(open.evidence.noise_dbfs, 0)} dBFS`} />
            {open.evidence.repeat_db !== null && (
              <Figure name="Repeats differ by" value={`${plain(open.evidence.repeat_db, 0)} dB`} />
            )}
            <Figure name="Time" value={!open.timed ? 'not kept' : clockWords(open.clock)} />
            {open.evidence.drift_ppm !== null && (
              <Figure name="Clock drift, taken out" value={`${signed(open.evidence.drift_ppm)} ppm`} />
            )}
            <Figure name="Sample rate" value={`${open.rate / 1000} kHz`} />
          </Box>
        )}
        {agrees && (
          <Box data-testid="agreement">
            <Figure
              name="Take in force against it"
              value={`${signed(agrees.level_db)} dB · ${plain(agrees.shape_db)} dB rms`}
            />
            {agrees.later_us !== null && <Figure name="Later by" value={`${signed(agrees.later_us, 1)} µs`} />}
          </Box>
        )}
        {open.method !== 'text' && open.method !== 'impulse' && (
          <Box sx={{ mt: 0.5 }}>
            <Choice
              label="Microphone correction of this take"
              value={open.correction ?? 0}
              options={[
                { value: 0, text: 'none' },
                ...project.rig.correction_list.map((one) => ({ value: one.id, text: one.name })),
              ]}
              onChange={(id) => correct(open, id)}
            />
          </Box>
        )}
        <WordField
          key={open.id}
          label="Note of this take"
          value={open.note}
          placeholder="Note"
          most={400}
          onCommit={(value) => note(open, value)}
        />
        <Row>
          <Choice
            label="Colour"
            value={open.look.colour}
            options={COLOURS.map((text, n) => ({ value: n + 1, text }))}
            onChange={(colour) => give(open, { colour })}
          />
          <NumberField
            label="Shifted by"
            unit="dB"
            sign
            value={open.look.offset_db}
            step={0.5}
            min={-100}
            max={100}
            onCommit={(offset_db) => give(open, { offset_db })}
          />
          <NumberField
            label="Off axis by"
            unit="°"
            value={open.angle ?? 0}
            step={5}
            min={-180}
            max={180}
            digits={0}
            onCommit={(angle) =>
              void act(() =>
                settled(
                  client.PUT('/api/projects/{slug}/takes/{take_id}/angle', {
                    ...at(open),
                    body: { angle: angle || null },
                  }),
                ),
              )
            }
          />
        </Row>
        <Box sx={{ display: 'flex', gap: 0.5, mt: 0.75, '& .MuiButton-root': { minWidth: 0, px: 0.75, flex: 1 } }}>
          <Button
            variant="outlined"
            size="small"
            disabled={inUse(open) || open.discarded}
            data-testid="put-in-force"
            onClick={() =>
              void act(() => settled(client.POST('/api/projects/{slug}/takes/{take_id}/force', at(open))))
            }>
            Put in force
          </Button>
          <Button
            variant="outlined"
            size="small"
            aria-pressed={open.look.locked}
            disabled={open.discarded}
            onClick={() => give(open, { locked: !open.look.locked })}>
            {open.look.locked ? 'Unlock' : 'Lock'}
          </Button>
        </Box>
        <Button
          variant="outlined"
          sx={{ mt: 0.75 }}
          disabled={open.look.locked}
          onClick={() => discard(open, !open.discarded)}>
          {open.discarded ? `Bring back the take of ${clock(open.made)}` : 'Set this take aside'}
        </Button>
      </Section>
    </>
  );
}

/**
 * What can be done with the takes that are shown: averaged, their levels aligned over a span; and with the moving
 * microphone's.
 */
function Beside({ work, driver, here }: { work: Work; driver: Driver; here: Take[] }) {
  const { project, slug, act } = work;
  const span = useWindow((state) => state.span);
  const inForce = project.drivers[driver.id];
  const shown = here.filter((take) => take.look.shown && !take.discarded);
  const path = { params: { path: { slug } } };
  const among = [...new Set([...(inForce ? [inForce.take_id] : []), ...shown.map((take) => take.id)])];
  const mean = (kind: 'rms' | 'complex') =>
    void act(() =>
      settled(client.POST('/api/projects/{slug}/takes/average', { ...path, body: { takes: among, kind } })),
    );
  const [low, high] = span ?? [inForce?.low_hz ?? 20, inForce?.high_hz ?? 20000];
  const align = () =>
    void act(() =>
      settled(
        client.POST('/api/projects/{slug}/takes/level', {
          ...path,
          body: { channel: driver.id, low_hz: low, high_hz: high },
        }),
      ),
    );
  const without = project.without_moving.includes(driver.id);
  const moving = here.some((take) => take.method === 'moving' && !take.discarded);
  return (
    <>
      {shown.length > 0 && (
        <Section title="Those shown and the one in force" aside={`${hertz(low)} to ${hertz(high)}`}>
          <Box
            sx={{
              display: 'flex',
              gap: 0.5,
              '& .MuiButton-root': { minWidth: 0, px: 0.75, flex: 1, whiteSpace: 'nowrap' },
            }}>
            <Button
              variant="outlined"
              size="small"
              disabled={among.length < 2}
              onClick={() => mean('rms')}
              data-testid="mean-rms">
              Mean, rms
            </Button>
            <Button
              variant="outlined"
              size="small"
              disabled={among.length < 2}
              onClick={() => mean('complex')}
              data-testid="mean-complex">
              complex
            </Button>
            <Button
              variant="outlined"
              size="small"
              onClick={align}
              data-testid="align-levels"
              title="Over the span marked on the plot, else over the usable band">
              Align levels
            </Button>
          </Box>
        </Section>
      )}
      {moving && (
        <Button
          size="small"
          aria-pressed={!without}
          onClick={() =>
            void act(() =>
              settled(
                client.POST('/api/projects/{slug}/takes/moving', {
                  ...path,
                  body: { channel: driver.id, without: !without },
                }),
              ),
            )
          }>
          {without ? 'Let the moving microphone count again' : 'Let one spot count, not the moving microphone'}
        </Button>
      )}
    </>
  );
}
