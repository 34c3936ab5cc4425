/**
 * The impedance jig: its inputs and resistors, how it measures, and its calibration by open, short and a known
 * resistor.
 */
import Check from '@mui/icons-material/CheckOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { client, settled } from '../../api/client';
import type { Standard } from '../../api/types';
import { Choice, NumberField } from '../../ui/Field';
import { Row, Section } from '../../ui/Panel';
import { clock } from '../../ui/format';
import { Clips } from '../common/Clips';
import type { StageProps } from '../props';
import { useRigChange } from './useRigChange';

const METHODS = [
  { value: 'sweep', text: 'Sweeps' },
  { value: 'stepped', text: 'Single tones' },
] as const;

export function JigPart({ work }: StageProps) {
  const { rig } = work.project;
  const { jig } = rig;
  const change = useRigChange(work);
  const set = (values: Partial<typeof jig>) => change({ jig: { ...jig, ...values } });
  const inputs = Array.from({ length: rig.known_inputs }, (_, n) => ({
    value: n,
    text: rig.input_names[n] ?? `Input ${n + 1}`,
  }));
  const step = (which: Standard) =>
    void work.begin(() => settled(client.POST('/api/jig/{which}', { params: { path: { which } } })));
  const again = () => void work.onRig(() => settled(client.POST('/api/jig/forget')));
  const steps: [Standard, string, string][] = [
    ['open', 'Open', 'the clips hold nothing'],
    ['short', 'Short', 'the clips hold each other'],
    ['resistor', `${jig.known_ohm} ohm`, 'the clips hold the known resistor'],
  ];
  return (
    <>
      <Typography sx={{ fontSize: 12.5 }} color="text.secondary">
        The output drives the driver in series with a resistor; one input reads the voltage across each. All outputs of
        the processor are mute meanwhile.
      </Typography>
      <Row>
        <Choice
          label="Across the driver"
          value={jig.driver_input}
          options={inputs}
          onChange={(value) => set({ driver_input: value })}
        />
        <Choice
          label="Across the resistor"
          value={jig.resistor_input}
          options={inputs}
          onChange={(value) => set({ resistor_input: value })}
        />
      </Row>
      <Row>
        <NumberField
          label="Resistor of the jig"
          unit="ohm"
          value={jig.sense_ohm}
          step={0.1}
          coarse={1}
          min={0.1}
          max={1000}
          digits={2}
          onCommit={(value) => set({ sense_ohm: value })}
        />
        <NumberField
          label="Known resistor"
          unit="ohm"
          value={jig.known_ohm}
          step={0.1}
          coarse={1}
          min={0.1}
          max={1000}
          digits={2}
          onCommit={(value) => set({ known_ohm: value })}
        />
      </Row>
      <Row>
        <Choice label="By" value={jig.method} options={[...METHODS]} onChange={(value) => set({ method: value })} />
        <NumberField
          label="Sweeps"
          value={jig.repeats}
          step={1}
          min={1}
          max={16}
          digits={0}
          onCommit={(value) => set({ repeats: Math.round(value) })}
        />
        <NumberField
          label="Level"
          unit="dBFS"
          value={jig.level_db}
          step={1}
          min={-80}
          max={0}
          digits={0}
          onCommit={(value) => set({ level_db: value })}
        />
      </Row>
      <Section
        title="Calibration"
        aside={
          rig.jig_done
            ? rig.jig_stale
              ? 'stale'
              : `done at ${clock(rig.jig_done.made)}`
            : 'leads and inputs are not taken out'
        }>
        <Box sx={{ display: 'flex', flexDirection: 'column', gap: 0.5 }}>
          {steps.map(([which, name, says]) => (
            <Box key={which} sx={{ display: 'flex', alignItems: 'center', gap: 1, fontSize: 12.5 }}>
              <Button
                variant="outlined"
                size="small"
                disabled={work.recording}
                onClick={() => step(which)}
                data-testid={`jig-${which}`}
                sx={{ width: 84 }}>
                {name}
              </Button>
              <Box component="span" color="text.secondary">
                {says}
              </Box>
              {rig.jig_steps.includes(which) && (
                <Check titleAccess="there" sx={{ ml: 'auto', fontSize: 18, color: 'success.main' }} />
              )}
            </Box>
          ))}
        </Box>
        {(rig.jig_done || rig.jig_steps.length > 0) && (
          <Button size="small" sx={{ mt: 0.5 }} onClick={again}>
            Calibrate anew
          </Button>
        )}
      </Section>
      <Clips work={work} />
    </>
  );
}
