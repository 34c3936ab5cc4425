/** The processor of a project: its model, another one from a file, and what of the tune does not fit it. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useQueryClient } from '@tanstack/react-query';
import { formWith } from '../api/files';
import { client, settled } from '../api/client';
import type { Model } from '../api/types';
import type { Work } from '../state/project';
import { useWindow } from '../state/window';
import { Choice } from '../ui/Field';
import { FileInput, useFile } from '../ui/FileInput';
import { Figure, Row, Section, Trouble } from '../ui/Panel';
import { minus } from '../ui/format';
import { aboutModel } from './NewProject';

const span = (range: { least: number; most: number }, unit: string, by = 1) =>
  minus(`${Number((range.least * by).toFixed(3))} to ${Number((range.most * by).toFixed(3))} ${unit}`);

export function Processor({ work, models }: { work: Work; models: Model[] }) {
  const { project, slug, act } = work;
  const { limits, model, misfits } = project.link;
  const queries = useQueryClient();
  const file = useFile();
  const error = useWindow((state) => state.error);
  const set = useWindow((state) => state.set);
  const path = { params: { path: { slug } } };
  const choose = (key: string) =>
    void act(() => settled(client.PUT('/api/projects/{slug}/processor', { ...path, body: { model: key } })));
  const fit = () => void act(() => settled(client.POST('/api/projects/{slug}/processor/fit', path)));
  const bring = (chosen: File) =>
    void act(async () => {
      const made = await settled<{ key: string }>(client.POST('/api/models', { body: formWith(chosen) as never }));
      await queries.invalidateQueries({ queryKey: ['models'] });
      return settled(client.PUT('/api/projects/{slug}/processor', { ...path, body: { model: made.key } }));
    });
  return (
    <Section
      title={`Processor of ${project.name}`}
      aside={
        model && (
          <Link href={`/api/models/${model}.json`} download>
            Model as a file
          </Link>
        )
      }>
      <Row>
        <Choice
          label="Processor of this project"
          hideLabel
          value={model}
          options={[
            ...models.map((one) => ({ value: one.key, text: aboutModel(one) })),
            ...(model ? [] : [{ value: '', text: `${limits.name} (no longer in the list)` }]),
          ]}
          onChange={(key) => key && choose(key)}
        />
        <Button variant="outlined" onClick={() => file.ask()}>
          Bring a model
        </Button>
      </Row>
      <FileInput file={file} accept=".json,application/json" testId="bring-model" onBring={bring} />
      <Trouble says={error} onClose={() => set({ error: null })} />
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', columnGap: 2, mt: 0.5 }}>
        <Figure name="Inputs, outputs" value={`${limits.inputs}, ${limits.outputs}`} />
        <Figure name="Gain" value={span(limits.gain_db, 'dB')} />
        <Figure name="Bands an output" value={String(limits.bands)} />
        <Figure name="Band gain" value={span(limits.band_gain_db, 'dB')} />
        <Figure name="Delay" value={span(limits.delay_s, 'ms', 1000)} />
        <Figure name="Slots" value={String(limits.slots)} />
      </Box>
      {misfits.length > 0 && (
        <Box data-testid="misfits" sx={{ mt: 0.5 }}>
          <Typography sx={{ fontSize: 12.5, fontWeight: 600 }}>
            {`The tune asks for ${misfits.length} ${misfits.length > 1 ? 'things' : 'thing'} that it cannot do`}
          </Typography>
          <Box
            component="ul"
            sx={{ m: 0, pl: 2, maxHeight: 90, overflowY: 'auto', fontSize: 12, color: (t) => t.own.clayText }}>
            {misfits.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </Box>
          <Button variant="outlined" size="small" onClick={fit} sx={{ mt: 0.5 }}>
            Set the nearest that it can do
          </Button>
        </Box>
      )}
    </Section>
  );
}
