/** A proposal: its figures before and after, why, what it changes; laid over plot and strip while one rests on it. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import type { Alignment, Project, Proposal } from '../../api/types';
import { plain } from '../../ui/format';

const loss = (value: number | null | undefined) => (value == null ? '—' : `${plain(value)} dB`);

/** A difference between two sides in the unit that reads best. */
const time = (us: number | null) => {
  if (us == null) return '—';
  const size = Math.abs(us);
  return size < 100 ? `${plain(size, 0)} µs` : `${plain(size / 1000, 2)} ms`;
};

const rowsOf = (was: Alignment, now: Alignment): [string, string, string][] => [
  ['lost at the seams', loss(was.mean_db), loss(now.mean_db)],
  ['left against right', loss(was.sides?.value), loss(now.sides?.value)],
  ['sides apart', time(was.apart_us), time(now.apart_us)],
];

export function OneProposal({
  project,
  proposal,
  before,
  first,
  onShow,
  onUse,
}: {
  project: Project;
  proposal: Proposal;
  before: Alignment;
  first: boolean;
  onShow: (shown: boolean) => void;
  onUse: () => void;
}) {
  const { own } = useTheme();
  const [open, setOpen] = useState(false);
  const against = proposal.figures.unlike;
  const far = proposal.figures.far.map((id) => project.seams.find((one) => one.id === id)?.name ?? id);
  return (
    <Box
      data-testid="proposal"
      onPointerEnter={() => onShow(true)}
      onPointerLeave={() => onShow(false)}
      onFocus={() => onShow(true)}
      onBlur={() => onShow(false)}
      sx={{
        bgcolor: own.raised,
        borderRadius: 0.75,
        px: 1,
        py: 0.5,
        fontSize: 12.5,
        borderLeft: `3px solid ${first ? own.clay : 'transparent'}`,
      }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
        <Box sx={{ flex: 1, fontWeight: 600 }}>{proposal.title}</Box>
        <Button size="small" sx={{ py: 0, minWidth: 0 }} aria-label={`Use: ${proposal.title}`} onClick={onUse}>
          use
        </Button>
      </Box>
      {rowsOf(before, proposal.figures).map(([name, was, now]) => (
        <Box key={name} sx={{ display: 'flex', lineHeight: '18px' }}>
          <Box sx={{ flex: 1, color: own.quiet }}>{name}</Box>
          <Box sx={{ color: own.quiet, width: 62, textAlign: 'right' }}>{was}</Box>
          <Box sx={{ width: 78, textAlign: 'right', color: own.good }}>{`→ ${now}`}</Box>
        </Box>
      ))}
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
    </Box>
  );
}
