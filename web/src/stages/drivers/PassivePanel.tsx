/** Passive parts in Drivers: a network begun by the textbook, its parts turned, values searched for, its load. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import type { Bench, PassivePart } from '../../api/types';
import { Choice, NumberField } from '../../ui/Field';
import { Figure, PanelTitle, Row, Section, Trouble } from '../../ui/Panel';
import { hertz, plain } from '../../ui/format';
import { hueOf } from '../../ui/theme';
import type { Work } from '../../state/project';
import { BeginNetwork } from './BeginNetwork';
import { Searching } from '../common/Searching';
import { Ladder } from './Ladder';
import { PassiveJig } from './PassiveJig';
import { PartRow } from './PartRow';
import { turned, usePassive, without, withStep, withValue } from './passive';

export function PassivePanel({ work }: { work: Work }) {
  const { project } = work;
  const { own } = useTheme();
  const { state, busy, searching, refused, found, put, begin, remove, search, forgive } = usePassive(work);
  const [chosen, setChosen] = useState('');
  const [part, setPart] = useState<'parts' | 'jig'>('parts');
  if (!state) return <LinearProgress aria-label="Reading the bench" />;
  const bench = state.bench as Bench | null;
  if (!bench)
    return (
      <>
        <PanelTitle title="Passive parts" aside="coils, capacitors, resistors" />
        <BeginNetwork project={project} can={state.can} busy={busy} begin={(body) => void begin(body)} />
        <Trouble says={refused} onClose={forgive} />
      </>
    );
  const driver = (id: string) => project.layout.drivers.find((one) => one.id === id);
  const name = (id: string) => driver(id)?.name ?? id;
  const worth = state.worth;
  const mine = (n: number): PassivePart[] => state.parts.filter((one) => one.branch === n);
  const low = worth !== null && worth.load.least_ohm < worth.load.allowed_ohm;
  const parts = (
    <>
      {bench.network.branches.map((branch, n) => (
        <Section
          key={branch.driver}
          title={name(branch.driver)}
          aside={
            <>
              <Button
                size="small"
                sx={{ py: 0, fontSize: 11.5, minWidth: 0 }}
                aria-pressed={branch.inverted}
                onClick={() => void put(turned(bench, n))}>
                {branch.inverted ? 'leads exchanged' : 'leads straight'}
              </Button>
              <Add onAdd={(stands, kind) => void put(withStep(bench, n, stands, kind))} />
            </>
          }>
          <Ladder
            branch={branch}
            parts={mine(n)}
            hue={driver(branch.driver) ? hueOf(own, driver(branch.driver)!) : own.sum}
            chosen={chosen}
            choose={setChosen}
            onValue={(part, value) => void put(withValue(bench, part.branch, part.step, part.kind, value))}
          />
          <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', columnGap: 1 }}>
            {mine(n).map((part) => (
              <PartRow
                key={part.name}
                part={part}
                chosen={chosen === part.name}
                onValue={(value) => void put(withValue(bench, part.branch, part.step, part.kind, value))}
                onRemove={() => void put(without(bench, part.branch, part.step, part.kind))}
              />
            ))}
          </Box>
        </Section>
      ))}
      <Row>
        <Box sx={{ flex: 1 }}>
          <Choice
            label="Values"
            value={bench.series}
            options={[
              { value: 'E12', text: 'E12' },
              { value: 'E24', text: 'E24' },
              { value: 'any', text: 'Any' },
            ]}
            onChange={(series) => void put({ ...bench, series })}
          />
        </Box>
        <NumberField
          label="Tolerance"
          unit="%"
          digits={0}
          value={bench.percent}
          step={1}
          min={0}
          max={20}
          onCommit={(percent) => void put({ ...bench, percent })}
        />
        {bench.meetings.map((one, n) => (
          <NumberField
            key={n}
            label={n ? 'Upper meeting' : 'They meet at'}
            unit="Hz"
            digits={0}
            factor
            step={1 / 12}
            coarse={1 / 3}
            value={one.hertz}
            min={20}
            max={20000}
            onCommit={(at) =>
              void put({
                ...bench,
                meetings: bench.meetings.map((each, k) => (k === n ? { ...each, hertz: at } : each)),
              })
            }
          />
        ))}
      </Row>
      <Button variant="contained" disabled={busy} data-testid="search-values" onClick={() => void search()}>
        {searching ? 'Searching …' : 'Search for values'}
      </Button>
      {searching && <Searching slug={work.slug} />}
      <Trouble says={refused ?? (state.trouble || null)} onClose={forgive} />
      {found?.map((one) => (
        <Box
          key={one.title}
          data-testid="passive-found"
          sx={{ bgcolor: own.raised, borderRadius: 0.75, px: 1, py: 0.25, fontSize: 12.5, display: 'flex', gap: 1 }}>
          <Box sx={{ flex: 1 }}>
            {one.title}
            <Box sx={{ color: own.quiet, fontSize: 12 }}>
              {`sum within ${plain(one.worth.rms_db)} dB rms, load down to ${plain(one.worth.load.least_ohm)} ohm`}
            </Box>
          </Box>
          <Button
            size="small"
            aria-label={`Use: ${one.title}`}
            onClick={() => void put({ ...(one.bench as Bench), version: bench.version })}>
            use
          </Button>
        </Box>
      ))}
      {worth && (
        <Box data-testid="passive-worth">
          {bench.meetings.length > 0 && (
            <Figure
              name="Sum from the target"
              value={`${plain(worth.rms_db)} dB rms, ${plain(worth.worst_db)} at worst`}
              tone={worth.rms_db <= 1.5 ? 'good' : undefined}
            />
          )}
          <Figure name="Against the lowest alone" value={`${plain(worth.level_db)} dB`} />
          <Figure
            name="The amplifier sees at least"
            value={
              `${plain(worth.load.least_ohm)} ohm at ${hertz(worth.load.least_hz)}, ` +
              `${plain(worth.load.degrees, 0)}°`
            }
            tone={low ? 'clay' : undefined}
          />
        </Box>
      )}
      {state.says.map((one) => (
        <Typography key={one} sx={{ fontSize: 12 }} color="text.secondary">
          {one}
        </Typography>
      ))}
    </>
  );
  return (
    <>
      <PanelTitle
        title={bench.network.branches.map((one) => name(one.driver)).join(' + ')}
        aside={
          <Button size="small" sx={{ py: 0, fontSize: 11.5, minWidth: 0 }} onClick={() => void remove()}>
            begin anew
          </Button>
        }
      />
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        value={part}
        aria-label="Parts or jig"
        onChange={(_e, value) => value && setPart(value)}>
        <ToggleButton value="parts" sx={{ py: 0.1, fontSize: 12 }}>
          Parts
        </ToggleButton>
        <ToggleButton value="jig" sx={{ py: 0.1, fontSize: 12 }} data-testid="passive-jig">
          At the jig
        </ToggleButton>
      </ToggleButtonGroup>
      {part === 'jig' ? <PassiveJig work={work} bench={bench} state={state} /> : parts}
    </>
  );
}

const ADD = [
  ['series', 'coil', 'coil in series'],
  ['shunt', 'coil', 'coil across'],
  ['series', 'capacitor', 'capacitor in series'],
  ['shunt', 'capacitor', 'capacitor across'],
  ['series', 'resistor', 'resistor in series'],
  ['shunt', 'resistor', 'resistor across'],
] as const;

/** What can be put in next to the driver. */
function Add({ onAdd }: { onAdd: (stands: 'series' | 'shunt', kind: PassivePart['kind']) => void }) {
  const [open, setOpen] = useState(false);
  if (!open)
    return (
      <Button size="small" sx={{ py: 0, fontSize: 11.5, minWidth: 0 }} onClick={() => setOpen(true)}>
        add a part
      </Button>
    );
  return (
    <Box sx={{ display: 'inline-block', width: 150 }}>
      <Choice
        label="Part to add"
        hideLabel
        value=""
        options={[
          { value: '', text: 'which …' },
          ...ADD.map(([stands, kind, text]) => ({ value: `${stands} ${kind}`, text })),
        ]}
        onChange={(value) => {
          const one = ADD.find(([stands, kind]) => `${stands} ${kind}` === value);
          setOpen(false);
          if (one) onAdd(one[0], one[1]);
        }}
      />
    </Box>
  );
}
