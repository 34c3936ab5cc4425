/** A feed heard live while its input is set by hand: pink noise on the wire, redrawn with every turn of a knob. */
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { client, settled } from '../../api/client';
import type { SourceInput } from '../../api/types';
import type { Work } from '../../state/project';
import { running } from '../../state/socket';
import { usePick, WINDOW } from '../../state/window';

export function LiveFeed({ work, one }: { work: Work; one: SourceInput }) {
  const { slug, recording, project, begin, stop } = work;
  const { progress } = usePick('progress');
  const listening = progress?.kind === 'wire' && running(progress);
  if (project.rig.device === 'file') return null;
  const listen = () =>
    void begin(() =>
      settled(
        client.POST('/api/projects/{slug}/source/inputs/{number}/live', {
          params: { path: { slug, number: one.number } },
          body: { window: WINDOW },
        }),
      ),
    );
  return (
    <>
      <Button
        variant="outlined"
        fullWidth
        sx={{ mt: 0.5 }}
        disabled={recording && !listening}
        data-testid="hear-feed"
        onClick={() => (listening ? stop() : listen())}>
        {listening ? 'Stop listening' : `Hear ${one.name.toLowerCase()} live`}
      </Button>
      {listening && (
        <Typography role="status" sx={{ fontSize: 12 }} color="text.secondary">
          {'The source plays '}
          <Link href={`/api/projects/${slug}/source/pink.wav`} download>
            pink noise
          </Link>
          , the first lead is at this wire. Green is what the input makes of it now.
        </Typography>
      )}
    </>
  );
}
