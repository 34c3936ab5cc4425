/** The interface check: output looped into input, five runs, a verdict line by line. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { client, settled } from '../../api/client';
import { Section } from '../../ui/Panel';
import { clock, minus } from '../../ui/format';
import type { StageProps } from '../props';

export function CheckPart({ work }: StageProps) {
  const { rig } = work.project;
  const { check } = rig;
  const start = () => void work.begin(() => settled(client.POST('/api/rig/check')));
  return (
    <>
      <Typography sx={{ fontSize: 12.5 }} color="text.secondary">
        {`Plug a cable from the output into the input ` +
          `${rig.input_names[rig.microphone_input] ?? rig.microphone_input + 1}. Five sweeps are played; ` +
          `what the interface adds is kept and divided out of every later take.`}
        {rig.practice && ' The stand-in’s cable is in the practice menu.'}
      </Typography>
      <Button variant="contained" disabled={work.recording} onClick={start} data-testid="start-check">
        Check the interface
      </Button>
      {check && (
        <Section title="Verdict" aside={`${clock(check.made)} · ${check.rate / 1000} kHz`}>
          <Box role="list" data-testid="check-lines">
            {check.lines.map((line) => (
              <Box
                role="listitem"
                key={line.what}
                sx={{ borderLeft: 3, borderColor: line.good ? 'success.main' : 'primary.main', pl: 1, mb: 0.75 }}>
                <Box sx={{ display: 'flex', justifyContent: 'space-between', fontSize: 12.5, fontWeight: 600 }}>
                  <span>{line.what}</span>
                  <Box component="span" sx={{ color: (t) => (line.good ? t.own.good : t.own.clayText) }}>
                    {line.good ? 'good' : 'look'}
                  </Box>
                </Box>
                <Typography sx={{ fontSize: 12, lineHeight: '16px' }} color="text.secondary">
                  {minus(`${line.found}${line.tries ? `: ${line.tries}` : ''}`)}
                </Typography>
              </Box>
            ))}
          </Box>
        </Section>
      )}
    </>
  );
}
