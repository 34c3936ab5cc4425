/** Material from outside: the sweep as WAV, a recording, an impulse or a text curve brought in, a take taken out. */
import Button from '@mui/material/Button';
import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import { useRef, useState } from 'react';
import { client, settled } from '../../api/client';
import { formWith, withSweep } from '../../api/files';
import type { Driver } from '../../api/types';
import { FileInput, useFile } from '../../ui/FileInput';
import { Section } from '../../ui/Panel';
import type { Work } from '../../state/project';
import { BringingMany } from './BringingMany';

type Kind = 'recording' | 'impulse' | 'text';
const ACCEPTED: Record<Kind, string> = {
  recording: '.wav,audio/wav,.json,.zip',
  impulse: '.wav,audio/wav',
  text: '.txt,.csv,text/plain',
};
const RECOGNISED =
  'A recording of a sweep that was downloaded here is recognised. Of another sweep, choose the recording and its ' +
  'sweep.json or sweep.zip together.';

const MANY = 'All recordings of a folder at once: each goes to the driver that its name tells of.';

export function Bringing({ work, driver }: { work: Work; driver: Driver }) {
  const { project, slug, act } = work;
  const read = project.drivers[driver.id];
  const file = useFile();
  const many = useFile();
  const [chosen, setChosen] = useState<File[]>([]);
  const kind = useRef<Kind>('recording');
  const bring = (first: File, beside: File[]) => {
    void act(async () => {
      const { main, sweep } = withSweep([first, ...beside]);
      const form = formWith(main, { channel: driver.id, kind: kind.current, ...(sweep && { sweep }) });
      return settled(
        client.POST('/api/projects/{slug}/takes/upload', { params: { path: { slug } }, body: form as never }),
      );
    });
  };
  const ask = (what: Kind) => {
    kind.current = what;
    file.ask(ACCEPTED[what]);
  };
  const base = `/api/projects/${slug}`;
  return (
    <Section title="From and to files" aside={driver.name}>
      <FileInput file={file} testId="bring" multiple onBring={bring} />
      <FileInput file={many} testId="bring-many" multiple onBring={(first, beside) => setChosen([first, ...beside])} />
      <Box
        sx={{
          display: 'flex',
          flexWrap: 'wrap',
          gap: 0.5,
          '& .MuiButton-root': { py: 0.1, px: 0.75, minWidth: 0, fontSize: 12 },
        }}>
        <Button variant="outlined" title={RECOGNISED} onClick={() => ask('recording')}>
          Bring a recording
        </Button>
        <Button variant="outlined" onClick={() => ask('impulse')}>
          an impulse
        </Button>
        <Button variant="outlined" onClick={() => ask('text')}>
          a text curve
        </Button>
        <Button variant="outlined" title={MANY} onClick={() => many.ask('.wav,.txt,.csv,.json,.zip')}>
          several by name
        </Button>
      </Box>
      {chosen.length > 0 && (
        <BringingMany
          key={chosen.map((one) => one.name).join('/')}
          work={work}
          chosen={chosen}
          onClose={() => setChosen([])}
        />
      )}
      <Box sx={{ display: 'flex', gap: 1.5, mt: 0.75, fontSize: 12 }}>
        <Link href={`${base}/sweep.zip`} download>
          Sweep and description
        </Link>
        {read && (
          <Link href={`${base}/takes/${read.take_id}/response.txt`} download>
            Text
          </Link>
        )}
        {read && read.method !== 'text' && (
          <Link href={`${base}/takes/${read.take_id}/impulse.wav`} download>
            Impulse WAV
          </Link>
        )}
      </Box>
    </Section>
  );
}
