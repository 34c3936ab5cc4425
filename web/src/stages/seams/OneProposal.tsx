/** A proposal: its figures before and after, why, what it changes; laid over plot and strip while one rests on it. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import type { Project, Proposal } from '../../api/types';
import { plain } from '../../ui/format';
import { Resting } from '../common/Resting';

/** A figure in the unit that reads best. */
const spoken = (value: number | null, unit: 'dB' | 'us'): string => {
  if (value === null) return '—';
  if (unit === 'dB') return `${plain(value)} dB`;
  const size = Math.abs(value);
  return size < 100 ? `${plain(size, 0)} µs` : `${plain(size / 1000, 2)} ms`;
};

export function OneProposal({
  project,
  proposal,
  first,
  onShow,
  onUse,
}: {
  project: Project;
  proposal: Proposal;
  first: boolean;
  onShow: (shown: boolean) => void;
  onUse: () => void;
}) {
  const { own } = useTheme();
  const [open, setOpen] = useState(false);
  const against = proposal.figures.unlike;
  const far = proposal.figures.far.map((id) => project.seams.find((one) => one.id === id)?.name ?? id);
  return (
    <Resting testId="proposal" first={first} onShow={onShow}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
        <Box sx={{ flex: 1, fontWeight: 600 }}>{proposal.title}</Box>
        <Button size="small" sx={{ py: 0, minWidth: 0 }} aria-label={`Use: ${proposal.title}`} onClick={onUse}>
          use
        </Button>
      </Box>
      {first ? (
        proposal.compared.map(({ what, unit, before, after, worse }) => (
          <Box key={what} sx={{ display: 'flex', lineHeight: '18px' }}>
            <Box sx={{ flex: 1, color: own.quiet }}>{what}</Box>
            <Box sx={{ color: own.quiet, width: 62, textAlign: 'right' }}>{spoken(before, unit)}</Box>
            <Box sx={{ width: 78, textAlign: 'right', color: worse ? own.clayText : own.good }}>
              {`→ ${spoken(after, unit)}`}
            </Box>
          </Box>
        ))
      ) : (
        <Box sx={{ display: 'flex', gap: 1.5, lineHeight: '18px' }}>
          {proposal.compared.map(({ what, unit, after, worse }) => (
            <Box key={what} title={what} sx={{ color: worse ? own.clayText : own.good }}>
              {`→ ${spoken(after, unit)}`}
            </Box>
          ))}
        </Box>
      )}
      <Box sx={{ fontSize: 12, mt: 0.25 }}>{proposal.says}</Box>
      {against.length > 0 && (
        <Box sx={{ fontSize: 12, color: own.clayText }}>{`${against.join(', ')}: left moves against right.`}</Box>
      )}
      {far.length > 0 && (
        <Box sx={{ fontSize: 12, color: own.clayText }}>{`${far.join(', ')}: half a period off or more.`}</Box>
      )}
      <Button
        size="small"
        sx={{ py: 0, px: 0.5, minWidth: 0, fontSize: 11.5 }}
        aria-expanded={open}
        onClick={() => setOpen(!open)}>
        {`${proposal.changes.length} changes`}
      </Button>
      {open && (
        <Box component="ul" sx={{ m: 0, pl: 2, maxHeight: 160, overflow: 'auto', fontSize: 11.5 }}>
          {proposal.changes.map((one) => (
            <li key={one.channel + one.what}>{`${one.channel} ${one.what}: ${one.before} → ${one.after}`}</li>
          ))}
        </Box>
      )}
    </Resting>
  );
}
