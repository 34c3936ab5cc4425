/** Copies of everything that is kept: those that are there, and a button that makes one more. */
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { client, settled } from '../api/client';
import type { Copy } from '../api/types';
import type { Work } from '../state/project';
import { Section } from '../ui/Panel';
import { clock } from '../ui/format';

export function Copies({ work }: { work: Work }) {
  const [copying, setCopying] = useState(false);
  const { data: copies, refetch } = useQuery({
    queryKey: ['copies'],
    queryFn: () => settled<Copy[]>(client.GET('/api/copies')),
    staleTime: 0,
  });
  const copy = async () => {
    setCopying(true);
    await work.act(() => settled(client.POST('/api/copies')));
    await refetch();
    setCopying(false);
  };
  const newest = copies?.[0];
  return (
    <Section
      title="Copies"
      aside={
        <Button size="small" disabled={copying} data-testid="copy-now" onClick={() => void copy()} sx={{ py: 0 }}>
          {copying ? 'Copying …' : 'Copy now'}
        </Button>
      }>
      <Typography sx={{ fontSize: 12.5 }} color="text.secondary" data-testid="copies">
        {newest
          ? `${copies.length} in the data folder; the newest of ${newest.made.slice(0, 10)}, ${clock(newest.made)}, ` +
            `${(newest.size_bytes / 1e6).toFixed(1)} MB: ${newest.name}. `
          : 'None yet; one is made once a day. '}
        All projects and takes, without music. <code>imbrix restore</code> puts one back.
      </Typography>
    </Section>
  );
}
