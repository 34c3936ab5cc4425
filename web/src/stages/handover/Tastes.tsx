/** Tastes: several targets on one alignment, each in a slot, to be switched while listening. */
import Button from '@mui/material/Button';
import Box from '@mui/material/Box';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { client, settled } from '../../api/client';
import { Section } from '../../ui/Panel';
import type { Work } from '../../state/project';

export function Tastes({ work }: { work: Work }) {
  const { project, slug, act } = work;
  const { link } = project;
  const [chosen, setChosen] = useState<string[]>([]);
  const [busy, setBusy] = useState(false);
  const free = Array.from({ length: link.limits.slots }, (_, n) => n + 1).filter((n) => !link.slots[n]);
  const flip = (key: string) =>
    setChosen(chosen.includes(key) ? chosen.filter((one) => one !== key) : [...chosen, key]);
  const make = async () => {
    setBusy(true);
    const tastes = chosen.map((curve, n) => ({ curve, slot: free[n] }));
    const made = await act(() =>
      settled(client.POST('/api/projects/{slug}/processor/tastes', { params: { path: { slug } }, body: { tastes } })),
    );
    setBusy(false);
    if (made) setChosen([]);
  };
  return (
    <Section title="Tastes" aside={`${free.length} slots free`}>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr' }}>
        {project.targets.map((one) => (
          <FormControlLabel
            key={one.key}
            sx={{ m: 0, '& .MuiTypography-root': { fontSize: 13 } }}
            control={
              <Checkbox
                size="small"
                sx={{ p: 0.4 }}
                checked={chosen.includes(one.key)}
                disabled={!chosen.includes(one.key) && chosen.length >= free.length}
                onChange={() => flip(one.key)}
              />
            }
            label={one.name}
          />
        ))}
      </Box>
      <Button
        variant="outlined"
        sx={{ mt: 0.5, width: '100%' }}
        disabled={!chosen.length || busy || link.unsent.length > 0}
        onClick={() => void make()}
        data-testid="make-tastes">
        {busy ? 'Fitting and storing …' : `Make ${chosen.length === 1 ? 'a slot of it' : 'a slot of each'}`}
      </Button>
      <Typography sx={{ fontSize: 12, mt: 0.5 }} color="text.secondary">
        {link.unsent.length > 0
          ? 'Send first: tastes are made of what the processor does.'
          : 'The correction common to all is fitted to each target, all equally loud. Load one to hear it.'}
      </Typography>
    </Section>
  );
}
