/** All takes of one driver: what each is, its verdict, another correction, a note; aside and back; laid beside the one in force. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import InputBase from '@mui/material/InputBase';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { client, settled } from '../../api/client';
import type { Driver, Take } from '../../api/types';
import { Choice } from '../../frame/Field';
import { Figure, Section } from '../../frame/Panel';
import type { Work } from '../../frame/useProject';
import { clock, plain, signed } from '../../format';
import { useDesk } from '../../store';
import { Verdict } from '../Verdict';
import { CloserFacts } from './CloserFacts';

const METHODS: Record<string, string> = { sweep: 'sweep', moving: 'moving microphone', file: 'recording brought in', impulse: 'impulse brought in', text: 'curve brought in' };

export function TakesOf({ work, driver }: { work: Work; driver: Driver }) {
  const { project, slug, act } = work;
  const { own } = useTheme();
  const { olderTake, picture, set } = useDesk();
  const here = project.takes.filter((one) => one.channels[0] === driver.id && one.purpose === 'driver');
  const inForce = project.drivers[driver.id];
  const open = here.find((one) => one.id === olderTake) ?? here.find((one) => one.id === inForce?.take_id) ?? here[0];
  const at = (take: Take) => ({ params: { path: { slug, take_id: take.id } } });
  const discard = (take: Take, discarded: boolean) => void act(() => settled(client.PUT('/api/projects/{slug}/takes/{take_id}/discarded', { ...at(take), body: { discarded } })));
  const correct = (take: Take, id: number) => void act(() => settled(client.PUT('/api/projects/{slug}/takes/{take_id}/correction', { ...at(take), body: { correction: id || null } })));
  const note = (take: Take, text: string) => {
    if (text.trim() !== take.note) void act(() => settled(client.PUT('/api/projects/{slug}/takes/{take_id}/note', { ...at(take), body: { note: text } })));
  };
  const agrees = picture?.facts.agreement;
  if (!open) return <Typography sx={{ fontSize: 12.5 }} color="text.secondary">{`No take of ${driver.name} yet. Record one, or bring a file.`}</Typography>;
  return (
    <>
      <Box role="list" aria-label={`Takes of ${driver.name}`} sx={{ maxHeight: 190, minHeight: 60, overflowY: 'auto', display: 'flex', flexDirection: 'column', gap: 0.5 }}>
        {here.map((take) => (
          <Box role="listitem" key={take.id} sx={{ flexShrink: 0 }}>
            <ButtonBase onClick={() => set({ olderTake: take.id === inForce?.take_id ? null : take.id })} aria-current={take === open || undefined} data-testid={`take-${take.id}`}
              sx={{ width: '100%', display: 'flex', justifyContent: 'space-between', px: 1, py: 0.4, fontSize: 12.5, borderRadius: 0.75, bgcolor: own.raised, outline: take === open ? `1px solid ${own.clay}` : 'none', outlineOffset: '-1px', color: take.discarded ? own.quiet : own.text }}>
              <span>{`${clock(take.made)} · ${METHODS[take.method]}${take.repeats > 1 ? ` × ${take.repeats}` : ''}`}</span>
              <span>{take.id === inForce?.take_id || take.id === inForce?.moving_id ? 'in force' : take.discarded ? 'set aside' : take.troubles.some((t) => t.weight === 'doubt') ? '?' : ''}</span>
            </ButtonBase>
          </Box>
        ))}
      </Box>
      <CloserFacts />
      <Section title={`Take ${open.id}`} aside={open.position || undefined}>
        <Verdict take={open} />
        {open.evidence && (
          <Box sx={{ mt: 0.5 }}>
            <Figure name="Peak at the input" value={`${plain(open.evidence.peak_dbfs, 0)} dBFS`} />
            <Figure name="Noise before the sweep" value={`${plain(open.evidence.noise_dbfs, 0)} dBFS`} />
            {open.evidence.repeat_db !== null && <Figure name="Repeats differ by" value={`${plain(open.evidence.repeat_db, 0)} dB`} />}
            <Figure name="Time" value={!open.timed ? 'not kept' : open.clock === 'loopback' ? 'by loopback' : 'by marker'} />
            {open.evidence.drift_ppm !== null && <Figure name="Clock drift, taken out" value={`${signed(open.evidence.drift_ppm)} ppm`} />}
            <Figure name="Sample rate" value={`${open.rate / 1000} kHz`} />
          </Box>
        )}
        {agrees && (
          <Box data-testid="agreement">
            <Figure name="Take in force against it" value={`${signed(agrees.level_db)} dB · ${plain(agrees.shape_db)} dB rms`} />
            {agrees.later_us !== null && <Figure name="Later by" value={`${signed(agrees.later_us, 1)} µs`} />}
          </Box>
        )}
        {open.method !== 'text' && open.method !== 'impulse' && (
          <Box sx={{ mt: 0.5 }}>
            <Choice label="Microphone correction of this take" value={open.correction ?? 0} options={[{ value: 0, text: 'none' }, ...project.rig.correction_list.map((one) => ({ value: one.id, text: one.name }))]} onChange={(id) => correct(open, id)} />
          </Box>
        )}
        <InputBase key={open.id} defaultValue={open.note} placeholder="Note" inputProps={{ 'aria-label': 'Note of this take', maxLength: 400 }} onBlur={(event) => note(open, event.target.value)}
          onKeyDown={(event) => { if (event.key === 'Enter') (event.target as HTMLInputElement).blur(); }}
          sx={{ mt: 0.75, width: '100%', fontSize: 12.5, height: 28, px: 1, border: 1, borderColor: 'divider', borderRadius: 1 }} />
        <Button variant="outlined" sx={{ mt: 0.75 }} onClick={() => discard(open, !open.discarded)}>{open.discarded ? `Bring back the take of ${clock(open.made)}` : 'Set this take aside'}</Button>
      </Section>
    </>
  );
}
