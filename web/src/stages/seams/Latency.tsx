/** How long the chain takes, against a budget. */
import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { client, settled } from '../../api/client';
import type { Project } from '../../api/types';
import type { Work } from '../../state/project';
import { Choice } from '../../ui/Field';
import { plain } from '../../ui/format';

type Budget = Project['latency']['budget'];

const BUDGETS: { value: Budget; text: string }[] = [
  { value: 'none', text: 'No budget (car)' },
  { value: 'performer', text: '5 ms (performer)' },
  { value: 'processor', text: '1 ms (processor)' },
];

export function Latency({ work }: { work: Work }) {
  const { project, slug, act } = work;
  const { own } = useTheme();
  const { budget, channel, total_ms, processor_ms, delay_ms, filters_ms, over } = project.latency;
  const name = (id: string) => project.layout.drivers.find((one) => one.id === id)?.name ?? id;
  const choose = (to: Budget) =>
    void act(() =>
      settled(client.PUT('/api/projects/{slug}/latency', { params: { path: { slug } }, body: { budget: to } })),
    );
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, fontSize: 12 }} data-testid="latency">
      <Box
        sx={{ flex: 1, color: over.length ? own.clayText : own.quiet }}
        title={`Processor ${plain(processor_ms)}, delay ${plain(delay_ms)}, filters ${plain(filters_ms)} ms`}>
        {`Latency ${plain(total_ms)} ms at ${name(channel)}`}
        {over.length > 0 && `: ${over.map(name).join(', ')} over it`}
      </Box>
      <Box sx={{ width: 142 }}>
        <Choice label="Budget of latency" hideLabel value={budget} options={BUDGETS} onChange={choose} />
      </Box>
    </Box>
  );
}
