/** A switch that ties an aspect of a channel to its partner on the other side, or frees it. */
import ToggleButton from '@mui/material/ToggleButton';
import type { Driver } from '../../api/types';
import type { Work } from '../../state/project';

const SAYS = {
  level: 'The gain of both sides moves by as much',
  bands: 'Both sides have the same bands; all-passes stay their own',
};

export function PairTie({
  work,
  driver,
  partner,
  what,
}: {
  work: Work;
  driver: Driver;
  partner: Driver;
  what: 'level' | 'bands';
}) {
  const { tune, commit } = work;
  const tied = (what === 'level' ? tune.tied_levels : tune.tied_bands).includes(driver.id);
  const name = `${what} of ${driver.name} and ${partner.name}`;
  return (
    <ToggleButton
      value={what}
      size="small"
      selected={tied}
      aria-label={`${tied ? 'tied' : 'tie'}: ${name}`}
      title={SAYS[what]}
      sx={{ py: 0, px: 0.75, fontSize: 11.5, textTransform: 'none', whiteSpace: 'nowrap' }}
      onChange={() =>
        void commit([{ do: 'pair', channel: driver.id, what, tied: !tied }], `${tied ? 'Freed' : 'Tied'}: ${name}`)
      }>
      {tied ? 'tied' : 'tie'}
    </ToggleButton>
  );
}
