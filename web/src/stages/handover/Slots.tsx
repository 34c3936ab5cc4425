/** Slots of the processor: stored, loaded, named, copied, locked, and held against the present tune. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import InputBase from '@mui/material/InputBase';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import { client, settled } from '../../api/client';
import type { Change } from '../../api/types';
import { Section } from '../../ui/Panel';
import type { Work } from '../../state/project';
import { ChangeTable } from '../common/ChangeTable';

export function Slots({ work }: { work: Work }) {
  const { project, slug, act } = work;
  const { own } = useTheme();
  const { link } = project;
  const [name, setName] = useState('');
  const [more, setMore] = useState<{ slot: number; at: HTMLElement } | null>(null);
  const [compared, setCompared] = useState<{ slot: number; changes: Change[] } | null>(null);
  const path = { params: { path: { slug } } };
  const at = (slot: number) => ({ params: { path: { slug, slot } } });
  const count = link.limits.slots;
  const numbers = Array.from({ length: count }, (_, n) => n + 1);
  const locked = (slot: number) => link.locked_slots.includes(slot);
  const store = (slot: number) =>
    void act(() => settled(client.POST('/api/projects/{slug}/processor/store', { ...path, body: { slot, name } })));
  const recall = (slot: number) =>
    void act(() =>
      settled(client.POST('/api/projects/{slug}/processor/recall', { ...path, body: { slot, name: '' } })),
    );
  const chosen = more?.slot ?? 0;
  const pick = (call: () => Promise<unknown>) => () => {
    setMore(null);
    void act(call);
  };
  const compare = (slot: number) =>
    pick(async () => {
      const changes = await settled<Change[]>(
        client.GET('/api/projects/{slug}/processor/slots/{slot}/changes', at(slot)),
      );
      setCompared({ slot, changes });
    });
  const copy = (slot: number, to: number) =>
    pick(() => settled(client.POST('/api/projects/{slug}/processor/slots/{slot}/copy', { ...at(slot), body: { to } })));
  const rename = (slot: number) =>
    pick(() =>
      settled(client.PUT('/api/projects/{slug}/processor/slots/{slot}/name', { ...at(slot), body: { name } })),
    );
  const lock = (slot: number) =>
    pick(() =>
      settled(
        client.PUT('/api/projects/{slug}/processor/slots/{slot}/lock', {
          ...at(slot),
          body: { locked: !locked(slot) },
        }),
      ),
    );
  return (
    <Section title="Slots" aside="outlive the power">
      <InputBase
        value={name}
        onChange={(event) => setName(event.target.value)}
        placeholder="Name for the slot"
        inputProps={{ 'aria-label': 'Name for the slot', maxLength: 60 }}
        sx={{
          border: 1,
          borderColor: 'divider',
          borderRadius: 1,
          px: 1,
          mb: 0.5,
          fontSize: 13,
          width: '100%',
          bgcolor: own.plot,
        }}
      />
      {numbers.map((slot) => (
        <Box
          key={slot}
          data-testid={`slot-${slot}`}
          sx={{
            display: 'flex',
            alignItems: 'center',
            gap: 0.5,
            fontSize: 13,
            bgcolor: own.raised,
            borderRadius: 0.75,
            pl: 1,
            mb: '3px',
          }}>
          <Box sx={{ flex: 1, minWidth: 0 }} component="span">
            {`${slot}  ${link.slots[slot] ?? 'empty'}` +
              (link.active_slot === slot ? ' · active' : '') +
              (locked(slot) ? ' · locked' : '')}
          </Box>
          <Button
            size="small"
            sx={SMALL}
            disabled={link.unsent.length > 0 || locked(slot)}
            onClick={() => store(slot)}
            aria-label={`Store in slot ${slot}`}>
            Store
          </Button>
          <Button
            size="small"
            sx={SMALL}
            disabled={!link.slots[slot]}
            onClick={() => recall(slot)}
            aria-label={`Load slot ${slot}`}>
            Load
          </Button>
          <Button
            size="small"
            sx={SMALL}
            aria-label={`More for slot ${slot}`}
            aria-haspopup="menu"
            onClick={(event) => setMore({ slot, at: event.currentTarget })}>
            …
          </Button>
        </Box>
      ))}
      {link.unsent.length > 0 && (
        <Typography sx={{ fontSize: 12 }} color="text.secondary">
          {link.by_hand ? 'Type the rest first' : 'Send first'}: a slot keeps what the processor runs.
        </Typography>
      )}
      <Menu open={more !== null} anchorEl={more?.at} onClose={() => setMore(null)} transitionDuration={0}>
        <MenuItem dense disabled={!link.slots[chosen]} onClick={compare(chosen)}>
          Compare with the present tune
        </MenuItem>
        <MenuItem dense disabled={!link.slots[chosen] || locked(chosen) || !name.trim()} onClick={rename(chosen)}>
          {name.trim() ? `Name it ${name.trim()}` : 'Name it (write the name above first)'}
        </MenuItem>
        <MenuItem dense disabled={chosen > count} onClick={lock(chosen)}>
          {locked(chosen) ? 'Unlock' : 'Lock'}
        </MenuItem>
        {numbers
          .filter((to) => to !== chosen)
          .map((to) => (
            <MenuItem key={to} dense disabled={!link.slots[chosen] || locked(to)} onClick={copy(chosen, to)}>
              {`Copy to slot ${to}` + (link.slots[to] ? `, in the place of ${link.slots[to]}` : '')}
            </MenuItem>
          ))}
      </Menu>
      {compared && (
        <Dialog open onClose={() => setCompared(null)} transitionDuration={0} fullWidth aria-labelledby="slot-title">
          <DialogTitle id="slot-title">
            {compared.changes.length
              ? `The present tune would change ${compared.changes.length} settings of slot ${compared.slot}`
              : `Slot ${compared.slot} holds the present tune`}
          </DialogTitle>
          <DialogContent sx={{ maxHeight: 460 }}>
            {compared.changes.length ? <ChangeTable changes={compared.changes} /> : 'Every setting is the same.'}
          </DialogContent>
          <DialogActions>
            <Button onClick={() => setCompared(null)}>Close</Button>
          </DialogActions>
        </Dialog>
      )}
    </Section>
  );
}

const SMALL = { minWidth: 0, px: 0.75 };
