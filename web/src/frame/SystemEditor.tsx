/** A system's drivers: their names, outputs and passive parts, another one, and what is wrong with them. */
import Delete from '@mui/icons-material/DeleteOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import InputBase from '@mui/material/InputBase';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { client, settled } from '../api/client';
import type { Driver, Group, Kind, Layout, Projects, Side } from '../api/types';
import { Choice } from '../ui/Field';
import { Row, Section } from '../ui/Panel';
import { hueOf } from '../ui/theme';
import { Remarks, useRemarks } from './Remarks';

const SIDES: { value: Side; text: string }[] = [
  { value: 'left', text: 'left' },
  { value: 'right', text: 'right' },
  { value: 'both', text: 'mono' },
];

interface Props {
  layout: Layout;
  title: string;
  outputs: number;
  known: Projects;
  onKeep: (layout: Layout) => void;
}

export function SystemEditor({ layout, title, outputs, known, onKeep }: Props) {
  const [draft, setDraft] = useState(layout);
  const remarks = useRemarks(draft, outputs);
  const changed = JSON.stringify(draft) !== JSON.stringify(layout);
  const put = (drivers: Driver[]) => setDraft({ ...draft, drivers });
  return (
    <Section title={`System of ${title}`} aside={`${draft.drivers.length} of ${outputs} outputs`}>
      <Box sx={{ maxHeight: 250, overflowY: 'auto', mt: 0.5 }}>
        {draft.drivers.map((one, n) => (
          <DriverRow
            key={n}
            driver={one}
            outputs={outputs}
            known={known}
            onChange={(values) => put(draft.drivers.map((other) => (other === one ? { ...one, ...values } : other)))}
            onRemove={() => put(draft.drivers.filter((other) => other !== one))}
          />
        ))}
      </Box>
      <Another draft={draft} known={known} onAdd={setDraft} />
      <Remarks testId="remarks" remarks={remarks} onTake={setDraft} />
      <Box sx={{ display: 'flex', gap: 1, mt: 1 }}>
        <Button
          variant="contained"
          disabled={!changed || remarks.some((one) => one.bars)}
          onClick={() => onKeep(draft)}
          data-testid="keep-system">
          Keep this system
        </Button>
        <Button variant="outlined" disabled={!changed} onClick={() => setDraft(layout)}>
          As it was
        </Button>
      </Box>
      <Typography sx={{ fontSize: 12, mt: 0.5 }} color="text.secondary">
        Takes of a driver that goes stay on disk and come back with it.
      </Typography>
    </Section>
  );
}

interface RowProps {
  driver: Driver;
  outputs: number;
  known: Projects;
  onChange: (values: Partial<Driver>) => void;
  onRemove: () => void;
}

function DriverRow({ driver, outputs, known, onChange, onRemove }: RowProps) {
  const nameOf = (kind: Kind) => known.kinds.find((one) => one.kind === kind)!.name.toLowerCase();
  const group = known.groups.find((one) => one.group === driver.group)!;
  const higher = group.kinds.slice(group.kinds.indexOf(driver.kind) + 1).filter((kind) => kind !== 'full');
  const where = driver.group === 'sub' ? '' : `${group.name.toLowerCase()} `;
  const side = SIDES.find((one) => one.value === driver.side)!.text;
  return (
    <Box data-testid={`system-${driver.id}`} sx={{ display: 'flex', alignItems: 'center', gap: 0.75, mb: 0.5 }}>
      <Box sx={{ width: 4, height: 28, borderRadius: 1, bgcolor: (t) => hueOf(t.own, driver) }} />
      <InputBase
        value={driver.name}
        onChange={(event) => onChange({ name: event.target.value })}
        inputProps={{ 'aria-label': `Name of ${driver.id}`, maxLength: 40 }}
        sx={{ flex: 1, fontSize: 13, height: 28, px: 1, border: 1, borderColor: 'divider', borderRadius: 1 }}
      />
      <Box sx={{ width: 96, fontSize: 12, lineHeight: '14px', color: 'text.secondary' }}>
        {`${where}${nameOf(driver.kind)}, ${side}`}
      </Box>
      <Box sx={{ width: 116 }}>
        {higher.length > 0 && (
          <Choice
            label={`What ${driver.name} feeds`}
            hideLabel
            value={driver.passive_to ?? ''}
            options={[
              { value: '', text: 'active' },
              ...higher.map((kind) => ({ value: kind, text: `passive + ${nameOf(kind)}` })),
            ]}
            onChange={(kind) => onChange({ passive_to: (kind || null) as Kind | null })}
          />
        )}
      </Box>
      <Box sx={{ width: 88 }}>
        <Choice
          label={`Output of ${driver.name}`}
          hideLabel
          value={driver.output}
          options={Array.from({ length: Math.max(outputs, driver.output) }, (_, m) => ({
            value: m + 1,
            text: `output ${m + 1}`,
          }))}
          onChange={(output) => onChange({ output })}
        />
      </Box>
      <IconButton size="small" aria-label={`Remove ${driver.name}`} onClick={onRemove}>
        <Delete fontSize="small" />
      </IconButton>
    </Box>
  );
}

/** One more driver, on the first output that is free. */
function Another({ draft, known, onAdd }: { draft: Layout; known: Projects; onAdd: (layout: Layout) => void }) {
  const [group, setGroup] = useState<Group>('rear');
  const [asked, setKind] = useState<Kind>('full');
  const [side, setSide] = useState<Side>('left');
  const kinds = known.groups.find((one) => one.group === group)!.kinds;
  const kind = kinds.includes(asked) ? asked : kinds[0];
  const add = () =>
    void settled<Layout>(client.POST('/api/layout/driver', { body: { layout: draft, group, kind, side } }))
      .then(onAdd)
      .catch(() => undefined);
  return (
    <Row>
      <Choice
        label="Another driver"
        value={group}
        options={known.groups.map((one) => ({ value: one.group, text: one.name }))}
        onChange={setGroup}
      />
      <Choice
        label="Way"
        value={kind}
        options={known.kinds
          .filter((one) => kinds.includes(one.kind))
          .map((one) => ({ value: one.kind, text: one.name }))}
        onChange={setKind}
      />
      <Choice label="Side" value={side} options={SIDES} onChange={setSide} />
      <Button variant="outlined" onClick={add} data-testid="add-driver">
        Add
      </Button>
    </Row>
  );
}
