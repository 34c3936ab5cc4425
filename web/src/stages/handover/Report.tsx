/** The report for the customer: who made it and whom it is for, and the page itself. */
import Box from '@mui/material/Box';
import InputBase from '@mui/material/InputBase';
import Link from '@mui/material/Link';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import { Section } from '../../ui/Panel';

const SHOP = 'imbrix-shop';

export function Report({ slug }: { slug: string }) {
  const { own } = useTheme();
  const [shop, setShop] = useState(() => localStorage.getItem(SHOP) ?? '');
  const [customer, setCustomer] = useState('');
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
  return (
    <Section title="Report for the customer">
      <Box sx={{ display: 'flex', gap: 1, mb: 0.5 }}>
        {field('Your shop', shop, keep)}
        {field('For whom', customer, setCustomer)}
      </Box>
      <Link
        href={`/api/projects/${slug}/report.html?${asked}`}
        target="_blank"
        rel="noopener"
        data-testid="report"
        sx={{ fontSize: 13 }}>
        Open the report, to be read or printed
      </Link>
    </Section>
  );
}
