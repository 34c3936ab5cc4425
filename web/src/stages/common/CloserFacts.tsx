/** What the second plot says in figures, and the gate. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { Choice, NumberField } from '../../ui/Field';
import { Figure, Row, Section } from '../../ui/Panel';
import { hertz, plain, signed } from '../../ui/format';
import { Tick } from '../../ui/Tick';
import type { Lens } from '../../api/types';
import { usePick } from '../../state/window';

const SHAPES = [
  { value: 'half-cosine', text: 'half-cosine' },
  { value: 'hann', text: 'Hann' },
  { value: 'blackman', text: 'Blackman' },
  { value: 'rectangular', text: 'rectangular' },
] as { value: Lens['shape']; text: string }[];
const UNITS: { value: Lens['unit']; text: string }[] = [
  { value: 'db', text: 'dB under it' },
  { value: 'percent', text: 'per cent' },
  { value: 'spl', text: 'dB SPL' },
];

export function CloserFacts() {
  const { picture, gate, lens, depth, set } = usePick('picture', 'gate', 'lens', 'depth', 'set');
  const facts = picture?.facts;
  const below = picture?.view.below ?? '';
  if (!below || !facts || facts.lacking) return null;
  const decays = facts.decay?.filter((one) => one.t20 !== null) ?? [];
  const before = facts.gate?.before_ms ?? null;
  return (
    <>
      {facts.gate && (
        <Section
          title="Gate"
          aside={
            lens.cycles >= 1
              ? `${lens.cycles} cycles of each frequency`
              : gate
                ? `true above ${hertz(1000 / gate)}`
                : 'the whole take'
          }>
          <Row>
            <NumberField
              label="From before"
              unit="ms"
              value={facts.gate.from_ms}
              step={0.2}
              coarse={2}
              min={0}
              max={500}
              onCommit={(value) => set({ lens: { ...lens, before_ms: value } })}
            />
            <NumberField
              label="Ends after"
              unit="ms"
              value={gate}
              step={0.2}
              coarse={2}
              min={0}
              max={500}
              onCommit={(value) => set({ gate: value })}
            />
            <NumberField
              label="Cycles"
              zero="off"
              value={lens.cycles}
              step={1}
              coarse={5}
              min={0}
              max={200}
              digits={0}
              onCommit={(value) => set({ lens: { ...lens, cycles: value } })}
            />
          </Row>
          <Row>
            <Choice
              label="Shape of the gate"
              hideLabel
              value={lens.shape}
              options={SHAPES}
              onChange={(shape) => set({ lens: { ...lens, shape } })}
            />
            <Button
              variant="outlined"
              size="small"
              sx={{ flexShrink: 0 }}
              disabled={before === null}
              onClick={() => before !== null && set({ gate: before })}>
              Before the reflection
            </Button>
            <Button
              variant="outlined"
              size="small"
              sx={{ minWidth: 0 }}
              disabled={!gate && !lens.cycles}
              onClick={() => set({ gate: 0, lens: { ...lens, cycles: 0, before_ms: 0 } })}>
              Off
            </Button>
          </Row>
        </Section>
      )}
      {facts.sides && (
        <Section title={`${facts.sides.name} arrives later by`}>
          <Figure
            name="ms · samples · cm"
            value={`${signed(facts.sides.ms, 3)} · ${signed(facts.sides.samples, 1)} · ${signed(facts.sides.cm, 1)}`}
          />
        </Section>
      )}
      {['phase', 'unwrapped', 'group-delay'].includes(below) && (
        <Tick label="Arrival taken out" on={lens.unwound} onTurn={(unwound) => set({ lens: { ...lens, unwound } })} />
      )}
      {facts.map?.span_ms !== undefined && (
        <Section
          title="Decay shown"
          aside={
            <Box sx={{ width: 130 }}>
              <Choice
                label="What the time and the window suit"
                hideLabel
                value={lens.room ? 'room' : 'cabin'}
                options={[
                  { value: 'cabin', text: 'for a cabin' },
                  { value: 'room', text: 'for a room' },
                ]}
                onChange={(value) =>
                  set({ lens: { ...lens, room: value === 'room', decay_ms: 0, window_ms: 0, rise_ms: 0 } })
                }
              />
            </Box>
          }>
          <Row>
            <NumberField
              label="Time"
              unit="ms"
              value={facts.map.span_ms}
              step={20}
              coarse={100}
              min={20}
              max={2000}
              digits={0}
              onCommit={(value) => set({ lens: { ...lens, decay_ms: value } })}
            />
            <NumberField
              label="Window"
              unit="ms"
              value={facts.map.window_ms ?? 0}
              step={5}
              coarse={50}
              min={2}
              max={2000}
              digits={0}
              onCommit={(value) => set({ lens: { ...lens, window_ms: value } })}
            />
            {below === 'waterfall' && (
              <NumberField
                label="Rise"
                unit="ms"
                value={facts.map.rise_ms ?? 0}
                step={1}
                coarse={10}
                min={0.1}
                max={500}
                onCommit={(value) => set({ lens: { ...lens, rise_ms: value } })}
              />
            )}
            <NumberField
              label="Down to"
              unit="dB"
              value={depth}
              step={5}
              min={-80}
              max={-10}
              digits={0}
              onCommit={(value) => set({ depth: value })}
            />
          </Row>
        </Section>
      )}
      {decays.length > 0 && (
        <Section title="Decay times, ms" aside="EDT · T20 · T30 · straight">
          <Box data-testid="decay-times" sx={{ maxHeight: 96, overflowY: 'auto', fontSize: 12 }}>
            {decays.map((one) => (
              <Box
                key={one.hertz}
                sx={{
                  display: 'flex',
                  justifyContent: 'space-between',
                  color: (t) => ((one.quality ?? 0) < 0.95 ? t.own.quiet : t.own.text),
                }}>
                <Box component="span" sx={{ width: 60 }}>
                  {hertz(one.hertz)}
                </Box>
                {[one.edt, one.t20, one.t30].map((time, n) => (
                  <Box component="span" key={n} sx={{ width: 56, textAlign: 'right' }}>
                    {time === null ? '—' : Math.round(time * 1000)}
                  </Box>
                ))}
                <Box component="span" sx={{ width: 50, textAlign: 'right' }}>
                  {plain(one.quality ?? 0, 2)}
                </Box>
              </Box>
            ))}
          </Box>
        </Section>
      )}
      {facts.distortion && (
        <Section
          title="Distortion, second to fifth"
          aside={
            <Box sx={{ width: 110 }}>
              <Choice
                label="Unit of distortion"
                hideLabel
                value={lens.unit}
                options={UNITS}
                onChange={(unit) => set({ lens: { ...lens, unit } })}
              />
            </Box>
          }>
          <Figure
            name={`most in the band, at ${hertz(facts.distortion.worst_hz)}`}
            value={`${plain(facts.distortion.worst_db)} dB · ${plain(facts.distortion.worst_percent, 2)} %`}
          />
          {facts.distortion.other && (
            <Figure
              name={`the other take, at ${plain(facts.distortion.other.drive_dbfs, 0)} dBFS`}
              value={
                `${plain(facts.distortion.other.worst_db)} dB · ` +
                `${plain(facts.distortion.other.worst_percent, 2)} %`
              }
            />
          )}
        </Section>
      )}
    </>
  );
}
