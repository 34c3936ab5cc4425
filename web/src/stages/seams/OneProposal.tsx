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

/** A figure before and after, and whether it got worse. */
interface Figure {
  name: string;
  was: string;
  now: string;
  worse: boolean;
}

const worse = (was: number | null | undefined, now: number | null | undefined, by: number) =>
  was != null && now != null && Math.abs(now) > Math.abs(was) + by;

const figuresOf = (was: Alignment, now: Alignment): Figure[] => [
  {
    name: 'lost at the seams',
    was: loss(was.mean_db),
    now: loss(now.mean_db),
    worse: worse(was.mean_db, now.mean_db, 0.05),
  },
  {
    name: 'left against right',
    was: loss(was.sides?.value),
    now: loss(now.sides?.value),
    worse: worse(was.sides?.value, now.sides?.value, 0.05),
  },
  {
    name: 'sides apart',
    was: time(was.apart_us),
    now: time(now.apart_us),
    worse: worse(was.apart_us, now.apart_us, 10),
  },
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
  const figures = figuresOf(before, proposal.figures);
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
      {first ? (
        figures.map(({ name, was, now, worse }) => (
          <Box key={name} sx={{ display: 'flex', lineHeight: '18px' }}>
            <Box sx={{ flex: 1, color: own.quiet }}>{name}</Box>
            <Box sx={{ color: own.quiet, width: 62, textAlign: 'right' }}>{was}</Box>
            <Box sx={{ width: 78, textAlign: 'right', color: worse ? own.clayText : own.good }}>{`→ ${now}`}</Box>
          </Box>
        ))
      ) : (
        <Box sx={{ display: 'flex', gap: 1.5, lineHeight: '18px' }}>
          {figures.map(({ name, now, worse }) => (
            <Box key={name} title={name} sx={{ color: worse ? own.clayText : own.good }}>
              {`→ ${now}`}
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
    </Box>
  );
}
