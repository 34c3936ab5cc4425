/** The practice menu: what is plugged into the stand-ins, and the troubles that a person can learn to recognise. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { client, settled } from '../api/client';
import type { Practice } from '../api/types';
import { Choice, NumberField } from '../ui/Field';
import { Float } from '../ui/Float';
import { Row } from '../ui/Panel';
import { Tick } from '../ui/Tick';
import type { Work } from '../state/project';

const PLUGS = [
  { value: 'microphone', text: 'The microphone' },
  { value: 'loop', text: 'A loop from the output' },
  { value: 'calibrator-94', text: 'Microphone in a 94 dB calibrator' },
  { value: 'calibrator-114', text: 'Microphone in a 114 dB calibrator' },
] as const;

export function PracticeMenu({
  work,
  anchor,
  onClose,
}: {
  work: Work;
  anchor: HTMLElement | null;
  onClose: () => void;
}) {
  const { rig } = work.project;
  const { practice } = rig;
  const put = (values: Partial<Practice>) => {
    if (practice)
      void work.onRig(() => settled(client.PUT('/api/rig/practice', { body: { ...practice, ...values } as never })));
  };
  const none = () => put({ ...Object.fromEntries(Object.keys(rig.switches).map((name) => [name, false])), ears: 0 });
  return (
    <Float name="Practice" anchor={anchor} onClose={onClose} width={380}>
      <Typography component="h2" sx={{ fontSize: 16, fontWeight: 600 }}>
        Practice
      </Typography>
      {!practice ? (
        <Typography sx={{ fontSize: 12.5 }} color="text.secondary">
          The switches belong to the stand-in. Choose it under Rig, Device.
        </Typography>
      ) : (
        <>
          <Typography sx={{ fontSize: 12.5, mb: 1 }} color="text.secondary">
            Everything here is simulated. Plug and unplug, switch a trouble on, record, and see what it looks like.
          </Typography>
          <Choice
            label="In the microphone input"
            value={practice.plugged}
            options={[...PLUGS]}
            onChange={(value) => put({ plugged: value })}
          />
          <Row>
            <Choice
              label="Microphone"
              value={practice.microphone}
              options={[
                { value: 'measuring', text: 'Measuring' },
                { value: 'plain', text: 'Plain' },
              ]}
              onChange={(value) => put({ microphone: value })}
            />
            <Choice
              label="It points at"
              value={practice.pointing}
              options={[
                { value: 'source', text: 'the source' },
                { value: 'ceiling', text: 'the ceiling' },
              ]}
              onChange={(value) => put({ pointing: value })}
            />
          </Row>
          <Row>
            <NumberField
              label="Drivers turned away by"
              unit="°"
              value={practice.turned_deg}
              step={5}
              min={-90}
              max={90}
              digits={0}
              onCommit={(turned_deg) => put({ turned_deg })}
            />
            <NumberField
              label="Volume of the source, of 40"
              value={practice.source_volume}
              step={1}
              min={1}
              max={40}
              digits={0}
              onCommit={(source_volume) => put({ source_volume })}
            />
          </Row>
          <Row>
            <NumberField
              label="Ears of the listener, by number"
              value={practice.ears}
              zero="as a head in the middle"
              step={1}
              min={0}
              max={9999}
              digits={0}
              onCommit={(ears) => put({ ears })}
            />
          </Row>
          <Box sx={{ mt: 1, display: 'flex', flexDirection: 'column' }}>
            {Object.entries(rig.switches).map(([name, says]) => (
              <Tick
                key={name}
                testId={`switch-${name}`}
                label={says}
                on={Boolean(practice[name as keyof Practice])}
                onTurn={(on) => put({ [name]: on })}
              />
            ))}
          </Box>
          <Button variant="outlined" size="small" sx={{ mt: 1 }} onClick={none}>
            All well again
          </Button>
        </>
      )}
    </Float>
  );
}
