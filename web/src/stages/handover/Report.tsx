/** The report for the customer: who made it and whom it is for, and the page itself. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import InputBase from '@mui/material/InputBase';
import Link from '@mui/material/Link';
import { useTheme } from '@mui/material/styles';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { client, Refusal, settled } from '../../api/client';
import { formWith } from '../../api/files';
import { FileInput, useFile } from '../../ui/FileInput';
import { Section, Trouble } from '../../ui/Panel';

const SHOP = 'imbrix-shop';

export function Report({ slug }: { slug: string }) {
  const { own } = useTheme();
  const [shop, setShop] = useState(() => localStorage.getItem(SHOP) ?? '');
  const [customer, setCustomer] = useState('');
  const [refused, setRefused] = useState<string | null>(null);
  const file = useFile();
  const asked = new URLSearchParams({ shop, customer }).toString();
  const keep = (name: string) => {
    localStorage.setItem(SHOP, name);
    setShop(name);
  };
  const field = (label: string, value: string, change: (value: string) => void) => (
    <InputBase
      value={value}
      onChange={(event) => change(event.target.value)}
      placeholder={label}
      inputProps={{ 'aria-label': label, maxLength: 80 }}
      sx={{ border: 1, borderColor: 'divider', borderRadius: 1, px: 1, fontSize: 13, flex: 1, bgcolor: own.plot }}
    />
  );
  const logo = useQuery({
    queryKey: ['logo'],
    retry: false,
    queryFn: async () => (await settled<{ kept: boolean }>(client.GET('/api/logo/state'))).kept,
  });
  const kept = async (answer: Promise<unknown>) => {
    try {
      await answer;
      setRefused(null);
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      setRefused(error.message);
    }
    await logo.refetch();
  };
  const bring = (picture: File) => kept(settled(client.POST('/api/logo', { body: formWith(picture) as never })));
  return (
    <Section
      title="Report for the customer"
      aside={
        <>
          <Button size="small" sx={{ py: 0, fontSize: 11.5, minWidth: 0 }} onClick={() => file.ask()}>
            {logo.data ? 'Another logo' : 'Add a logo'}
          </Button>
          {logo.data && (
            <Button
              size="small"
              sx={{ py: 0, fontSize: 11.5, minWidth: 0 }}
              onClick={() => void kept(settled(client.DELETE('/api/logo')))}>
              no logo
            </Button>
          )}
        </>
      }>
      <FileInput file={file} accept="image/png,image/jpeg" testId="bring-logo" onBring={(one) => void bring(one)} />
      <Trouble says={refused} onClose={() => setRefused(null)} />
      <Box sx={{ display: 'flex', gap: 1, mb: 0.5 }}>
        {field('Your shop', shop, keep)}
        {field('For whom', customer, setCustomer)}
      </Box>
      <Link
        href={`/api/projects/${slug}/report.pdf?${asked}`}
        download
        data-testid="report-pdf"
        sx={{ fontSize: 13, mr: 2 }}>
        Report as PDF
      </Link>
      <Link
        href={`/api/projects/${slug}/report.html?${asked}`}
        target="_blank"
        rel="noopener"
        data-testid="report"
        sx={{ fontSize: 13 }}>
        Open it as a page
      </Link>
    </Section>
  );
}
