/** A new project: its name, a ready system, a processor, and what of the one does not go with the other. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import InputBase from '@mui/material/InputBase';
import Typography from '@mui/material/Typography';
import { useQueryClient } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { client, Refusal, settled } from '../api/client';
import type { Layout, Model, Projects } from '../api/types';
import { Choice } from '../ui/Field';
import { Row, Section } from '../ui/Panel';
import { PlaceChoice } from './PlaceChoice';
import { Remarks, useRemarks } from './Remarks';

interface Props {
  known: Projects;
  models: Model[];
  onBegun: (slug: string) => void;
}

export function NewProject({ known, models, onBegun }: Props) {
  const queries = useQueryClient();
  const [name, setName] = useState('');
  const [ready, setReady] = useState('front-3-sub');
  const [seat, setSeat] = useState<'left' | 'right'>('left');
  const [processor, setProcessor] = useState(models[0].key);
  const [place, setPlace] = useState('van');
  const [changed, setChanged] = useState<Layout | null>(null);
  const [wrong, setWrong] = useState('');
  const outputs = models.find((one) => one.key === processor)?.limits.outputs ?? 8;
  const layout = useMemo(
    () => ({ ...(changed ?? known.ready.find((one) => one.key === ready)!.layout), seat }),
    [changed, known, ready, seat],
  );
  const remarks = useRemarks(layout, outputs);
  const barred = remarks.some((one) => one.bars);
  const begin = async () => {
    try {
      const body = { name, ready, seat, layout, processor, place };
      const made = await settled<{ slug: string }>(client.POST('/api/projects', { body }));
      void queries.invalidateQueries({ queryKey: ['projects'] });
      onBegun(made.slug);
    } catch (error) {
      setWrong(error instanceof Refusal ? error.message : String(error));
    }
  };
  return (
    <Section title="A new project">
      <InputBase
        value={name}
        placeholder="Name"
        onChange={(event) => setName(event.target.value)}
        inputProps={{ 'aria-label': 'Name of the new project', maxLength: 80 }}
        onKeyDown={(event) => {
          if (event.key === 'Enter' && name.trim() && !barred) void begin();
        }}
        sx={{ width: '100%', fontSize: 13, height: 30, px: 1, border: 1, borderColor: 'divider', borderRadius: 1 }}
      />
      <Row>
        <Choice
          label="Layout"
          value={ready}
          options={known.ready.map((one) => ({ value: one.key, text: one.name }))}
          onChange={(key) => {
            setChanged(null);
            setReady(key);
          }}
        />
      </Row>
      <Row>
        <Choice
          label="Processor"
          value={processor}
          options={models.map((one) => ({ value: one.key, text: aboutModel(one) }))}
          onChange={setProcessor}
        />
      </Row>
      <PlaceChoice label="Place" place={place} onChange={setPlace} />
      <Row>
        <Choice
          label="The listener sits"
          value={seat}
          options={[
            { value: 'left', text: 'left' },
            { value: 'right', text: 'right' },
          ]}
          onChange={setSeat}
        />
        <Button
          variant="contained"
          disabled={!name.trim() || barred}
          onClick={() => void begin()}
          data-testid="begin-project">
          Begin
        </Button>
      </Row>
      <Remarks testId="remarks-before" remarks={remarks.filter((one) => one.bars)} onTake={setChanged} />
      {changed && (
        <Box sx={{ fontSize: 12.5, color: 'text.secondary' }}>
          {`${changed.drivers.length} drivers now. `}
          <Button size="small" sx={{ py: 0 }} onClick={() => setChanged(null)}>
            As it was
          </Button>
        </Box>
      )}
      {wrong && (
        <Typography role="alert" sx={{ fontSize: 12.5, mt: 0.5, color: (t) => t.own.clayText }}>
          {wrong}
        </Typography>
      )}
    </Section>
  );
}

/** A model in a line. */
export const aboutModel = ({ limits }: Model) =>
  `${limits.name} · ${limits.outputs} outputs, ${limits.rate / 1000} kHz, ${limits.bands} bands`;
