/** The journal: what was done, in order; name a revision, go back to any point, lay one beside the present. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import InputBase from '@mui/material/InputBase';
import Typography from '@mui/material/Typography';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { client, settled } from '../api/client';
import type { JournalEntry } from '../api/types';
import { clock } from '../ui/format';
import { Choice } from '../ui/Field';
import { usePick } from '../state/window';
import type { Work } from '../state/project';

const KINDS = [
  { value: '', text: 'everything' },
  { value: 'change', text: 'settings' },
  { value: 'take', text: 'takes' },
  { value: 'done', text: 'sent and stored' },
  { value: 'note', text: 'notes' },
];
/** What stands before an entry that is no revision. */
const MARK: Record<JournalEntry['kind'], string> = { change: '', take: '●', sent: '→', slot: '▣', note: '✎' };

export function Journal({ work, onClose, onSystem }: { work: Work; onClose: () => void; onSystem: () => void }) {
  const { slug, project } = work;
  const [channel, setChannel] = useState('');
  const [kind, setKind] = useState('');
  const key = ['journal', slug, channel, project.version];
  const { data = [] } = useQuery({
    queryKey: key,
    placeholderData: (before) => before,
    queryFn: () =>
      settled<JournalEntry[]>(
        client.GET('/api/projects/{slug}/journal', { params: { path: { slug }, query: { channel } } }),
      ),
  });
  const shown = data.filter((one) => !kind || one.kind === kind || (kind === 'done' && 'sent slot'.includes(one.kind)));
  const latest = [...shown].reverse();
  return (
    <Dialog open onClose={onClose} transitionDuration={0} fullWidth maxWidth="md" aria-labelledby="journal-title">
      <DialogTitle id="journal-title" sx={{ display: 'flex', justifyContent: 'space-between', gap: 1 }}>
        <Box sx={{ flex: 1 }}>Journal</Box>
        <Button
          variant="outlined"
          component="a"
          href={`/api/projects/${slug}/journal.txt${channel ? `?channel=${channel}` : ''}`}
          download
          data-testid="journal-text">
          As text
        </Button>
        <Button variant="outlined" onClick={onSystem} data-testid="open-system">
          Projects, system, processor
        </Button>
      </DialogTitle>
      <DialogContent sx={{ maxHeight: 520 }}>
        <Box sx={{ display: 'flex', gap: 1, mb: 1, alignItems: 'flex-end' }}>
          <Typography color="text.secondary" sx={{ fontSize: 12.5, flex: 2 }}>
            Every change of the tune is a revision. Name those you want to find again; “Compare” lays its predicted
            curve
            {' beside the present one; going back makes a new revision, which can be undone.'}
          </Typography>
          <Choice
            label="About"
            value={channel}
            options={[
              { value: '', text: 'all channels' },
              ...project.layout.drivers.map((one) => ({ value: one.id, text: one.name })),
            ]}
            onChange={setChannel}
          />
          <Choice label="Show" value={kind} options={KINDS} onChange={setKind} />
        </Box>
        {latest.map((one, n) => (
          <Entry
            key={`${one.kind}-${one.take ?? one.revision_id}-${one.at}-${n}`}
            work={work}
            entry={one}
            onBack={onClose}
            named={key}
          />
        ))}
        {data.length > 0 && !latest.length && (
          <Typography sx={{ fontSize: 13 }}>Nothing of this kind was done yet.</Typography>
        )}
      </DialogContent>
    </Dialog>
  );
}

interface EntryProps {
  work: Work;
  entry: JournalEntry;
  onBack: () => void;
  /** What is asked anew when a name was given. */
  named: unknown[];
}

function Entry({ work, entry: one, onBack, named }: EntryProps) {
  const { slug, project, act } = work;
  const { compare, set } = usePick('compare', 'set');
  const queries = useQueryClient();
  const id = one.revision_id;
  const at = { params: { path: { slug, revision_id: id ?? 0 } } };
  const change = one.kind === 'change';
  const rename = (name: string) => {
    if (name.trim() === (one.name ?? '')) return;
    void act(async () => {
      await settled(client.PUT('/api/projects/{slug}/revisions/{revision_id}/name', { ...at, body: { name } }));
      await queries.invalidateQueries({ queryKey: named });
      return settled(client.GET('/api/projects/{slug}', { params: { path: { slug } } }));
    });
  };
  const restore = () =>
    void act(() => settled(client.POST('/api/projects/{slug}/revisions/{revision_id}/restore', at))).then(onBack);
  const present = id === project.revision.id;
  return (
    <Box
      data-testid={`journal-${one.kind}`}
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 1.5,
        py: 0.25,
        borderTop: 1,
        borderColor: 'divider',
        fontSize: 13,
        color: one.aside ? 'text.secondary' : undefined,
      }}>
      <Box sx={{ width: 34, fontWeight: 600, color: change ? undefined : 'text.secondary' }}>
        {change ? one.revision : MARK[one.kind]}
      </Box>
      <Box sx={{ width: 46, color: 'text.secondary' }}>{clock(one.at)}</Box>
      <Box
        title={one.says}
        sx={{ flex: 1, minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
        {one.says + (one.aside ? ' · set aside' : '')}
      </Box>
      {change && (
        <InputBase
          defaultValue={one.name ?? ''}
          placeholder="name"
          inputProps={{ 'aria-label': `Name of revision ${one.revision}`, maxLength: 80 }}
          sx={{ width: 140, fontSize: 13, border: 1, borderColor: 'divider', borderRadius: 1, px: 1 }}
          onBlur={(event) => rename(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === 'Enter') rename((event.target as HTMLInputElement).value);
          }}
        />
      )}
      {change && (
        <Button disabled={present} onClick={() => set({ compare: compare === id ? null : id })}>
          {compare === id ? 'Stop comparing' : 'Compare'}
        </Button>
      )}
      {id !== null && id !== undefined && (
        <Button disabled={present} title={`The tune as it was then: revision ${one.revision}`} onClick={restore}>
          {change ? 'Go back to it' : 'Go back to then'}
        </Button>
      )}
    </Box>
  );
}
