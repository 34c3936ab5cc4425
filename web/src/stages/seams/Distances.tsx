/** Distances by tape: entered, made into delays, and held against what was measured. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import { client, settled } from '../../api/client';
import type { Work } from '../../state/project';
import { NumberField } from '../../ui/Field';
import { Row, Section } from '../../ui/Panel';
import { signed } from '../../ui/format';
import { DIGITS, millimetres } from '../../state/lengths';

type Unit = 'cm' | 'in';

export function Distances({ work }: { work: Work }) {
  const { project, slug, act } = work;
  const { own } = useTheme();
  const [unit, setUnit] = useState<Unit>('cm');
  const { celsius, rows } = project.distances;
  const scale = 1e3 / millimetres(unit, 1);
  const path = { params: { path: { slug } } };
  const put = (body: { metres?: Record<string, number | null>; celsius?: number }) =>
    void act(() => settled(client.PUT('/api/projects/{slug}/distances', { ...path, body: { metres: {}, ...body } })));
  const apply = () => void act(() => settled(client.POST('/api/projects/{slug}/distances/apply', path)));
  const name = (id: string) => project.layout.drivers.find((one) => one.id === id)!.name;
  const missing = rows.filter((one) => one.metres === null).length;
  return (
    <Section title="Distances by tape" aside="driver to the middle of the head">
      <Row>
        <NumberField
          label="Temperature"
          unit="°C"
          value={celsius}
          digits={0}
          step={1}
          min={-40}
          max={60}
          onCommit={(value) => put({ celsius: value })}
        />
        <ToggleButtonGroup
          exclusive
          size="small"
          value={unit}
          aria-label="Unit"
          onChange={(_e, to) => to && setUnit(to)}>
          <ToggleButton value="cm" sx={{ py: 0, height: 30, textTransform: 'none' }}>
            cm
          </ToggleButton>
          <ToggleButton value="in" sx={{ py: 0, height: 30, textTransform: 'none' }}>
            in
          </ToggleButton>
        </ToggleButtonGroup>
      </Row>
      <Box sx={{ maxHeight: 250, overflow: 'auto', mt: 0.5 }}>
        {rows.map((one) => (
          <Box key={one.channel} data-testid={`distance-${one.channel}`} sx={{ mb: 0.5 }}>
            <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, fontSize: 12.5 }}>
              <Box sx={{ flex: 1 }}>{name(one.channel)}</Box>
              <Box sx={{ width: 100 }}>
                <NumberField
                  label={`Distance of ${name(one.channel)}`}
                  hideLabel
                  unit={unit}
                  zero="not known"
                  value={(one.metres ?? 0) * scale}
                  digits={DIGITS[unit]}
                  step={1}
                  coarse={10}
                  min={0}
                  max={50 * scale}
                  onCommit={(value) => put({ metres: { [one.channel]: value ? value / scale : null } })}
                />
              </Box>
              <Box
                sx={{ width: 74, textAlign: 'right', color: one.says ? own.clayText : own.quiet }}
                title="By how much later the sound was measured than the tape says">
                {one.apart_ms === null ? '' : `${signed(one.apart_ms, 2)} ms`}
              </Box>
            </Box>
            {one.says && <Box sx={{ fontSize: 11.5, color: own.clayText }}>{one.says}</Box>}
          </Box>
        ))}
      </Box>
      <Button variant="outlined" fullWidth disabled={missing > 0} onClick={apply}>
        {missing ? `${missing} distances are missing` : 'Set delays by distance'}
      </Button>
    </Section>
  );
}
