/** The live analyser: pink noise through the selection, its curve as it is now, while knobs are turned. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import Typography from '@mui/material/Typography';
import { useEffect, useRef } from 'react';
import { client, settled } from '../api/client';
import { Choice } from '../frame/Field';
import { Figure, Row, Section } from '../frame/Panel';
import type { Progress } from '../api/types';
import type { Work } from '../frame/useProject';
import { plain } from '../format';
import { useDesk } from '../store';
import { namesOf } from './RunBox';

const SECONDS = [0.3, 1, 3, 10];
const SIZES = [12, 13, 14, 15, 16, 17].map((n) => 2 ** n);

export function Live({ work, channels }: { work: Work; channels: string[] }) {
  const { project, slug, begin, recording } = work;
  const { progress, live, set } = useDesk();
  const listen = () => void begin(() => settled(client.POST('/api/projects/{slug}/analyser', {
    params: { path: { slug } }, body: { channels, choice: { size: live.size, window: 'hann', seconds: live.seconds || null, follow: live.follow, level_db: -24 } },
  })));
  if (recording && progress?.kind === 'live') return <Running work={work} progress={progress} />;
  const refused = progress?.kind === 'live' && progress.message;
  return (
    <Section title={`Live · ${channels.length ? namesOf(project, channels) : 'all channels'}`} aside={(
      <FormControlLabel sx={{ m: 0, height: 18, '& .MuiFormControlLabel-label': { fontSize: 12 } }} label="send changes" title="Send every change to the processor while it runs"
        control={<Checkbox size="small" sx={{ p: 0.25 }} checked={live.follow} onChange={(event) => set({ live: { ...live, follow: event.target.checked } })} />} />
    )}>
      <Row>
        <Choice label="Averaged over" hideLabel value={live.seconds} options={[...SECONDS.map((one) => ({ value: one, text: `over ${one} s` })), { value: 0, text: 'over all' }]} onChange={(seconds) => set({ live: { ...live, seconds } })} />
        <Choice label="Points of the transform" hideLabel value={live.size} options={SIZES.map((one) => ({ value: one, text: one.toLocaleString('en') }))} onChange={(size) => set({ live: { ...live, size } })} />
        <Button variant="outlined" size="small" disabled={recording} onClick={listen} data-testid="listen" sx={{ flexShrink: 0 }}>Listen live</Button>
      </Row>
      {refused && <Typography role="status" sx={{ fontSize: 12.5, color: (t) => t.own.clayText }}>{progress.message}</Typography>}
    </Section>
  );
}

/** What the analyser knows, and what can be asked of it. */
function Running({ work, progress }: { work: Work; progress: Progress }) {
  const ask = (what: 'delay' | 'reset' | 'keep') => void work.begin(() => settled(client.POST('/api/projects/{slug}/analyser/{ask}', { params: { path: { slug: work.slug, ask: what } } })));
  const found = progress.result;
  const box = useRef<HTMLElement>(null);
  useEffect(() => {
    void box.current?.scrollIntoView({ block: 'end' });
  }, []);
  const microphone = progress.meters[0];
  return (
    <Section title={`Live · ${namesOf(work.project, progress.channels)}`} aside={microphone ? `peaks ${plain(microphone.held, 0)} dBFS` : ''}>
      <Box ref={box} data-testid="live-figures">
        <Figure name="Delay, taken out" value={found?.settled ? `${plain(found.delay_ms ?? 0, 2)} ms` : 'being found: phase means nothing yet'} />
        <Figure name="Coherence, 100 Hz to 10 kHz" value={found ? plain(found.coherence ?? 0, 2) : '…'} tone={(found?.coherence ?? 0) >= 0.6 ? 'good' : 'clay'} />
        <Box sx={{ display: 'flex', gap: 0.5, mt: 0.5, '& .MuiButton-root': { flex: 1, minWidth: 0, px: 0.5, whiteSpace: 'nowrap' } }}>
          <Button variant="outlined" size="small" onClick={() => ask('delay')}>Find delay</Button>
          <Button variant="outlined" size="small" onClick={() => ask('reset')}>Reset</Button>
          <Button variant="outlined" size="small" onClick={() => ask('keep')} data-testid="freeze">Freeze</Button>
          <Button variant="contained" size="small" onClick={work.stop} data-testid="stop">Stop</Button>
        </Box>
      </Box>
    </Section>
  );
}
