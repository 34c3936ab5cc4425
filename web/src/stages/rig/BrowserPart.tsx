/** The browser's microphone and output: which, how loud, and what is to be known of them. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { chosenSound, chooseSound, closeMicrophone, openMicrophone, useEnds } from '../../state/microphone';
import { useWindow } from '../../state/window';
import { Choice } from '../../ui/Field';
import { Figure, Section } from '../../ui/Panel';
import { minus } from '../../ui/format';
import type { Project } from '../../api/types';

const FLOOR_DB = -80;
const ASIDE = { open: 'open', asking: 'asking …', closed: '', refused: '' };

export function BrowserPart({ rig }: { rig: Project['rig'] }) {
  const microphone = useWindow((state) => state.microphone);
  const [chosen, setChosen] = useState(chosenSound);
  const open = microphone.state === 'open';
  const ends = useEnds(open);
  const { browser } = rig;
  const choose = (values: Partial<typeof chosen>) => {
    setChosen({ ...chosen, ...values });
    void chooseSound(values, rig.rate);
  };
  const choices = (found: { id: string; label: string }[]) => [
    { value: '', text: 'the one the system prefers' },
    ...found.map((one) => ({ value: one.id, text: one.label })),
  ];
  return (
    <Section title="Microphone of this browser" aside={ASIDE[microphone.state]}>
      {open && browser && (
        <Box data-testid="microphone-open">
          <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: 0.5 }}>
            <LinearProgress
              aria-label="Level at the microphone"
              variant="determinate"
              value={Math.min(100, Math.max(0, 100 * (1 - (microphone.peak ?? FLOOR_DB) / FLOOR_DB)))}
              sx={{ flex: 1, bgcolor: (t) => t.own.line }}
            />
            <Box sx={{ fontSize: 12, width: 72, textAlign: 'right' }}>
              {microphone.peak === null ? '' : minus(`${Math.max(FLOOR_DB, microphone.peak).toFixed(0)} dBFS`)}
            </Box>
          </Box>
          <Figure name="Runs at" value={`${browser.rate / 1000} kHz, ${browser.inputs} in, 2 out`} />
        </Box>
      )}
      {!open && browser && (
        <Typography sx={{ fontSize: 12 }} color="text.secondary" data-testid="microphone-elsewhere">
          Another window has its microphone open: {browser.label}.
        </Typography>
      )}
      {microphone.hidden && (
        <Typography sx={{ fontSize: 12, color: (t) => t.own.clayText }} data-testid="microphone-hidden">
          This window stood in the background while it recorded. A gap would have ended the take; keep it in front all
          the same.
        </Typography>
      )}
      <Choice
        label="Records"
        value={chosen.channels}
        options={[
          { value: 1, text: 'the microphone alone' },
          { value: 2, text: 'two inputs: microphone and loopback' },
        ]}
        onChange={(channels) => choose({ channels })}
      />
      {ends.inputs.length > 1 && (
        <Choice
          label="Microphone"
          value={ends.inputs.some((one) => one.id === chosen.input) ? chosen.input : ''}
          options={choices(ends.inputs)}
          onChange={(value) => choose({ input: value })}
        />
      )}
      {ends.outputs.length > 1 && 'setSinkId' in AudioContext.prototype && (
        <Choice
          label="Plays on"
          value={ends.outputs.some((one) => one.id === chosen.output) ? chosen.output : ''}
          options={choices(ends.outputs)}
          onChange={(value) => choose({ output: value })}
        />
      )}
      <Button
        size="small"
        variant={open ? 'outlined' : 'contained'}
        disabled={microphone.state === 'asking'}
        sx={{ mt: 0.5 }}
        onClick={() => (open ? closeMicrophone() : void openMicrophone(rig.rate))}>
        {open ? 'Close the microphone' : browser ? 'Open it here instead' : 'Open the microphone'}
      </Button>
      <Typography sx={{ fontSize: 12, mt: 0.5 }} color="text.secondary">
        The browser is asked to leave the sound alone. Microphone and output may run by clocks of their own: a marker
        (Takes) measures and removes that. Keep this window in front while it records.
      </Typography>
    </Section>
  );
}
