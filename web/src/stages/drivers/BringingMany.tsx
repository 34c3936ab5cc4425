/** A folder of recordings brought at once: which file is of which driver is shown, and can be changed, before it is. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useEffect, useState } from 'react';
import { client, Refusal, settled } from '../../api/client';
import { formWith } from '../../api/files';
import type { Work } from '../../state/project';
import { Choice } from '../../ui/Field';

/** What is not brought. */
const NOBODY = '';
const DESCRIPTION = /\.(json|zip)$/i;
const TEXT = /\.(txt|csv)$/i;

interface Line {
  file: File;
  channel: string;
  /** What came of it: empty before it was brought, and where it was. */
  says: string;
  state: 'waits' | 'brought' | 'refused';
}

interface Props {
  work: Work;
  chosen: File[];
  onClose: () => void;
}

export function BringingMany({ work, chosen, onClose }: Props) {
  const { project, slug, act } = work;
  const [lines, setLines] = useState<Line[]>([]);
  const [busy, setBusy] = useState(false);
  const sweep = chosen.find((one) => DESCRIPTION.test(one.name));
  useEffect(() => {
    const files = chosen.filter((one) => !DESCRIPTION.test(one.name));
    let there = true;
    const sort = async () => {
      const sorted = await settled<{ channel: string | null }[]>(
        client.POST('/api/projects/{slug}/takes/sorted', {
          params: { path: { slug } },
          body: { names: files.map((one) => one.name) },
        }),
      );
      if (there)
        setLines(files.map((file, n) => ({ file, channel: sorted[n].channel ?? NOBODY, says: '', state: 'waits' })));
    };
    if (files.length) void act(sort);
    return () => {
      there = false;
    };
  }, [chosen, slug, act]);

  const change = (n: number, values: Partial<Line>) =>
    setLines((now) => now.map((one, m) => (m === n ? { ...one, ...values } : one)));
  const bring = async () => {
    setBusy(true);
    for (const [n, { file, channel, state }] of lines.entries()) {
      if (channel === NOBODY || state === 'brought') continue;
      await act(async () => {
        try {
          const kind = TEXT.test(file.name) ? 'text' : 'recording';
          const form = formWith(file, { channel, kind, ...(sweep && kind === 'recording' && { sweep }) });
          await settled(
            client.POST('/api/projects/{slug}/takes/upload', { params: { path: { slug } }, body: form as never }),
          );
          change(n, { state: 'brought', says: '' });
        } catch (error) {
          // The others are brought all the same: what is wrong with this one stands beside it.
          change(n, { state: 'refused', says: error instanceof Refusal ? error.message : String(error) });
        }
      });
    }
    setBusy(false);
  };
  const waiting = lines.filter((one) => one.channel !== NOBODY && one.state !== 'brought').length;
  const options = [
    { value: NOBODY, text: 'left out' },
    ...project.layout.drivers.map((one) => ({ value: one.id, text: one.name })),
  ];
  return (
    <Box data-testid="many" sx={{ mt: 1, p: 1, bgcolor: (t) => t.own.raised, borderRadius: 1 }}>
      {lines.map(({ file, channel, says, state }, n) => (
        <Box key={file.name} sx={{ mb: 0.75 }}>
          <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', fontSize: 12.5 }}>
            <Box sx={{ flex: 1, minWidth: 0, overflowWrap: 'anywhere' }}>{file.name}</Box>
            {state === 'brought' ? (
              <Box sx={{ color: (t) => t.own.good }}>brought</Box>
            ) : (
              <Choice
                hideLabel
                label={`Driver of ${file.name}`}
                value={channel}
                options={options}
                onChange={(value) => change(n, { channel: value, state: 'waits', says: '' })}
              />
            )}
          </Box>
          {says && <Box sx={{ fontSize: 12, color: (t) => t.own.clayText }}>{says}</Box>}
        </Box>
      ))}
      <Box sx={{ display: 'flex', gap: 1 }}>
        {waiting > 0 && (
          <Button size="small" variant="contained" disabled={busy} onClick={() => void bring()}>
            {`Bring ${waiting} ${waiting === 1 ? 'file' : 'files'}`}
          </Button>
        )}
        <Button size="small" variant="outlined" disabled={busy} onClick={onClose}>
          Close
        </Button>
      </Box>
    </Box>
  );
}
