/** Is it good data? What was found on a take, each with its evidence and what to try. */
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import type { Take } from '../../api/types';
import { minus, plain, signed } from '../../ui/format';

export function Verdict({ take }: { take: Take }) {
  if (!take.judged)
    return take.method === 'moving' ? (
      <Typography data-testid="verdict" sx={{ fontSize: 12 }} color="text.secondary">
        {`${take.averages} averages of a moving microphone: ` + 'levels can be fitted with it, delays cannot.'}
      </Typography>
    ) : null;
  const good = !take.troubles.length;
  const over = Object.values(take.evidence?.over_noise_db ?? {});
  const least = over.length ? Math.min(...over) : null;
  return (
    <Box
      data-testid="verdict"
      data-good={good ? 'yes' : 'no'}
      sx={{ display: 'flex', flexDirection: 'column', gap: 0.5 }}>
      {good && (
        <Typography sx={{ fontSize: 12.5, fontWeight: 600, color: (t) => t.own.good }}>
          {`Good data${least === null ? '' : `: at least ${plain(least, 0)} dB over the noise`}`}
        </Typography>
      )}
      {take.troubles.map((one) => (
        <Box
          key={one.says}
          data-testid={`trouble-${one.kind}`}
          sx={{ borderLeft: 3, borderColor: one.weight === 'doubt' ? 'primary.main' : 'divider', pl: 1 }}>
          <Typography sx={{ fontSize: 12.5, fontWeight: 600, lineHeight: '17px' }}>{one.says}</Typography>
          <Typography sx={{ fontSize: 11.5, lineHeight: '16px' }} color="text.secondary">
            {minus(`${one.evidence}. ${one.tries.charAt(0).toUpperCase()}${one.tries.slice(1)}.`)}
          </Typography>
        </Box>
      ))}
      {take.agrees && (
        <Typography sx={{ fontSize: 11.5 }} color="text.secondary" data-testid="agrees">
          {`Against the take before: ${signed(take.agrees.level_db)} dB, `}
          {`shape within ${plain(take.agrees.shape_db)} dB rms${
            take.agrees.later_us === null ? '' : `, ${signed(take.agrees.later_us, 0)} µs`
          }`}
        </Typography>
      )}
    </Box>
  );
}
