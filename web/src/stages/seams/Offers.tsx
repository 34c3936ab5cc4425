/** The best settings that a search found. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useQuery } from '@tanstack/react-query';
import { client, Refusal, settled } from '../../api/client';
import type { Offer, Seam } from '../../api/types';
import { Section } from '../../ui/Panel';
import type { Work } from '../../state/project';
import { plain, signed } from '../../ui/format';

const APART =
  'How far apart the direct sounds of both ways arrive then. First come settings whose sounds arrive at once and ' +
  'move first as the crossover wants it: they hold at more than one spot.';

export function Offers({ work, seam }: { work: Work; seam: Seam }) {
  const { project, slug, commit } = work;
  const { own } = useTheme();
  const query = useQuery({
    queryKey: ['offers', slug, seam.id, project.revision.id, project.takes[0]?.id],
    retry: false,
    queryFn: () =>
      settled<Offer[]>(
        client.GET('/api/projects/{slug}/seams/{seam_id}/offers', { params: { path: { slug, seam_id: seam.id } } }),
      ),
  });
  const words = (one: Offer) =>
    `${one.change ? `${one.change}, ` : ''}${signed(one.delay_ms, 3)} ms ${one.inverted ? '−' : '+'}`;
  /** Where a sum is right with the sounds far apart it is right at one spot only. */
  const apart = ({ away_ms, says }: Offer) => {
    if (says.length) return says[0];
    if (away_ms == null) return '';
    return Math.abs(away_ms) < 0.05 ? 'together' : `${plain(Math.abs(away_ms), 2)} ms apart`;
  };
  return (
    <Section title="Best settings found" aside={query.isFetching ? 'searching …' : 'mean loss'}>
      {query.error instanceof Refusal && (
        <Typography sx={{ fontSize: 12.5 }} color="text.secondary">
          {query.error.message}
        </Typography>
      )}
      <Box sx={{ maxHeight: 87, overflow: 'auto' }}>
        {query.data?.map((one, n) => (
          <Box
            key={n}
            data-testid="offer"
            sx={{
              display: 'flex',
              alignItems: 'center',
              bgcolor: own.raised,
              borderRadius: 0.75,
              px: 1,
              mb: '3px',
              fontSize: 12.5,
              height: 26,
            }}>
            <Box sx={{ flex: 1, minWidth: 0, whiteSpace: 'nowrap' }}>{words(one)}</Box>
            <Box
              sx={{ fontSize: 11.5, color: own.quiet, pr: 1, whiteSpace: 'nowrap' }}
              title={one.says.length ? one.says.join('; ') : APART}>
              {apart(one)}
            </Box>
            <Box sx={{ color: own.good, width: 50 }}>{`${plain(one.mean_db, 2)} dB`}</Box>
            {one.edits.length > 0 && (
              <Button
                size="small"
                sx={{ py: 0, minWidth: 0 }}
                aria-label={`Use ${words(one)}`}
                onClick={() => void commit(one.edits, `Seam ${seam.id}: ${words(one)}`)}>
                use
              </Button>
            )}
          </Box>
        ))}
      </Box>
    </Section>
  );
}
