/** What the second plot says in figures, and the gate. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { NumberField } from '../../frame/Field';
import { Figure, Row, Section } from '../../frame/Panel';
import { hertz, plain, signed } from '../../format';
import { useDesk } from '../../store';

export function CloserFacts() {
  const { picture, below, gate, set } = useDesk();
  const facts = picture?.facts;
  if (!below || !facts || facts.lacking) return null;
  const decays = facts.decay?.filter((one) => one.t20 !== null) ?? [];
  const before = facts.gate?.before_ms ?? null;
  return (
    <>
      {facts.gate && (
        <Section title="Gate" aside={gate ? `true above ${hertz(1000 / gate)}` : 'the whole take'}>
          <Row>
            <NumberField label="Ends after" unit="ms" value={gate} step={0.2} coarse={2} min={0} max={500} onCommit={(value) => set({ gate: value })} />
            <Button variant="outlined" size="small" disabled={before === null} onClick={() => before !== null && set({ gate: before })}>Before the reflection</Button>
            <Button variant="outlined" size="small" disabled={!gate} onClick={() => set({ gate: 0 })}>Off</Button>
          </Row>
        </Section>
      )}
      {facts.sides && (
        <Section title={`${facts.sides.name} arrives later by`}>
          <Figure name="ms · samples · cm" value={`${signed(facts.sides.ms, 3)} · ${signed(facts.sides.samples, 1)} · ${signed(facts.sides.cm, 1)}`} />
        </Section>
      )}
      {decays.length > 0 && (
        <Section title="Decay time, third octaves" aside="T20, straightness">
          <Box data-testid="decay-times" sx={{ maxHeight: 96, overflowY: 'auto', columnCount: 2, fontSize: 12 }}>
            {decays.map((one) => (
              <Box key={one.hertz} sx={{ display: 'flex', justifyContent: 'space-between', color: (t) => ((one.quality ?? 0) < 0.95 ? t.own.quiet : t.own.text) }}>
                <span>{hertz(one.hertz)}</span><span>{`${Math.round(one.t20! * 1000)} ms, ${plain(one.quality ?? 0, 2)}`}</span>
              </Box>
            ))}
          </Box>
        </Section>
      )}
      {facts.distortion && (
        <Section title="Distortion, second to fifth">
          <Figure name={`most in the band, at ${hertz(facts.distortion.worst_hz)}`} value={`${plain(facts.distortion.worst_db)} dB · ${plain(facts.distortion.worst_percent, 2)} %`} />
        </Section>
      )}
    </>
  );
}
