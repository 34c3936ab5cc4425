/** How the tune gets into the processor: sent and read back, or typed by hand where nobody can talk to the device. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { client, settled } from '../../api/client';
import type { Work } from '../../state/project';
import { Section } from '../../ui/Panel';
import { ChangeTable } from '../common/ChangeTable';
import { typing } from './typing';

export function Sent({ work }: { work: Work }) {
  const { project, slug, act } = work;
  const { own } = useTheme();
  const { link } = project;
  const { begin } = typing(work);
  const path = { params: { path: { slug } } };
  const send = () => void act(() => settled(client.POST('/api/projects/{slug}/processor/send', path)));
  return (
    <>
      <Button variant="contained" onClick={send} data-testid="send">
        Send to the processor
      </Button>
      <Section title="Read back and compared">
        {link.unsent.length ? (
          <Box sx={{ maxHeight: 168, overflowY: 'auto' }} tabIndex={0} role="region" aria-label="Unsent changes">
            <ChangeTable changes={link.unsent} />
          </Box>
        ) : (
          <Typography sx={{ fontSize: 12.5, color: own.good }} data-testid="all-sent">
            The processor holds exactly this tune.
          </Typography>
        )}
      </Section>
      <Section title="No link to your device?">
        <Typography sx={{ fontSize: 12.5, mb: 0.5 }} color="text.secondary">
          Type the settings into it from a list, and tick them off. The device is now
        </Typography>
        <Box sx={{ display: 'flex', gap: 1 }}>
          <Button variant="outlined" size="small" onClick={() => begin(false)} data-testid="type-from-neutral">
            As it came, neutral
          </Button>
          <Button variant="outlined" size="small" onClick={() => begin(true)}>
            As was sent last
          </Button>
        </Box>
      </Section>
    </>
  );
}

export function ByHand({ work }: { work: Work }) {
  const { end } = typing(work);
  return (
    <Section title="Typed by hand">
      <Typography sx={{ fontSize: 12.5, mb: 0.5 }} color="text.secondary">
        What was ticked off is kept, here and in every window. What the tune changes later comes up again.
      </Typography>
      <Button variant="outlined" size="small" onClick={end} data-testid="end-typing">
        Send instead
      </Button>
    </Section>
  );
}
