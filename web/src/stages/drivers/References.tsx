/** Foreign curves as reference lines on any plot, their level aligned with the selection over the chosen span. */
import Delete from '@mui/icons-material/DeleteOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import IconButton from '@mui/material/IconButton';
import { client, settled } from '../../api/client';
import { formWith } from '../../api/files';
import type { Driver } from '../../api/types';
import { FileInput, useFile } from '../../ui/FileInput';
import { NumberField } from '../../ui/Field';
import { Row, Section } from '../../ui/Panel';
import type { Work } from '../../state/project';
import { signed } from '../../ui/format';
import { usePick } from '../../state/window';

export function References({ work, driver }: { work: Work; driver: Driver }) {
  const { project, slug, act } = work;
  const { picture, low, high, set } = usePick('picture', 'low', 'high', 'set');
  const file = useFile();
  const bring = (file: File) => {
    void act(async () =>
      settled(
        client.POST('/api/projects/{slug}/references', { params: { path: { slug } }, body: formWith(file) as never }),
      ),
    );
  };
  const at = (id: number) => ({ params: { path: { slug, reference_id: id } } });
  const show = (id: number, shown: boolean) =>
    void act(() =>
      settled(client.PUT('/api/projects/{slug}/references/{reference_id}', { ...at(id), body: { shown } })),
    );
  const align = (id: number) => {
    if (!picture) return;
    const body = { view: { ...picture.view }, curve: `bare-${driver.id}`, low_hz: low, high_hz: high };
    void act(() => settled(client.POST('/api/projects/{slug}/references/{reference_id}/align', { ...at(id), body })));
  };
  const remove = (id: number) =>
    void act(() => settled(client.DELETE('/api/projects/{slug}/references/{reference_id}', at(id))));
  return (
    <Section title="Reference lines" aside="on every plot">
      <Button variant="outlined" size="small" onClick={() => file.ask()}>
        Bring a curve or an impulse
      </Button>
      <FileInput file={file} accept=".txt,.csv,.wav,text/plain,audio/wav" testId="bring-reference" onBring={bring} />
      {project.references.map((one) => (
        <Box
          key={one.id}
          data-testid="reference"
          sx={{ display: 'flex', alignItems: 'center', fontSize: 12.5, gap: 0.5 }}>
          <Checkbox
            size="small"
            checked={one.shown}
            sx={{ p: 0.25 }}
            slotProps={{ input: { 'aria-label': `Show ${one.name}` } }}
            onChange={(event) => show(one.id, event.target.checked)}
          />
          <Box sx={{ flex: 1, minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
            {one.name}
          </Box>
          <Box component="span" color="text.secondary">
            {one.shift_db ? `${signed(one.shift_db)} dB` : ''}
          </Box>
          <Button
            size="small"
            sx={{ minWidth: 0, px: 0.5 }}
            onClick={() => align(one.id)}
            title={`Shift it to the mean level of ${driver.name} over the span`}>
            Align
          </Button>
          <IconButton size="small" sx={{ p: 0.25 }} aria-label={`Remove ${one.name}`} onClick={() => remove(one.id)}>
            <Delete sx={{ fontSize: 17 }} />
          </IconButton>
        </Box>
      ))}
      {project.references.length > 0 && (
        <Row>
          <NumberField
            label="Align from"
            unit="Hz"
            value={low}
            step={1 / 12}
            factor
            min={20}
            max={high}
            digits={0}
            onCommit={(value) => set({ low: value })}
          />
          <NumberField
            label="to"
            unit="Hz"
            value={high}
            step={1 / 12}
            factor
            min={low}
            max={20000}
            digits={0}
            onCommit={(value) => set({ high: value })}
          />
        </Row>
      )}
    </Section>
  );
}
