/** How two feeds sum: in words, and the least of it before and after. */
import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import type { Source } from '../../api/types';
import { usePick } from '../../state/window';
import { Section } from '../../ui/Panel';
import { signed } from '../../ui/format';

type Sum = Source['sums'][number];
const named = (one: Sum) => `sum-${one.first}-${one.second}`;

export function Sums({ source }: { source: Source }) {
  const { own } = useTheme();
  const { sourceSum, set } = usePick('sourceSum', 'set');
  const chosen = source.sums.find((one) => named(one) === sourceSum) ?? source.sums[0];
  const here = (one: Sum) => one === chosen;
  if (!source.sums.length)
    return (
      <Typography sx={{ fontSize: 12.5 }} color="text.secondary">
        Record two feeds that belong together, left and right or front and rear, to see whether they sum.
      </Typography>
    );
  return (
    <Section title="Sums" aside="least, as they come → now">
      {source.sums.map((one) => (
        <ButtonBase
          key={one.names}
          data-testid="sum"
          aria-pressed={here(one)}
          onClick={() => set({ sourceSum: named(one) })}
          sx={{
            display: 'block',
            width: 1,
            textAlign: 'left',
            bgcolor: own.raised,
            outline: here(one) ? `1px solid ${own.clay}` : 'none',
            borderRadius: 0.75,
            px: 1,
            py: 0.5,
            mb: '4px',
          }}>
          <Box sx={{ display: 'flex', justifyContent: 'space-between', fontSize: 12.5, fontWeight: 600 }}>
            <span>{one.names}</span>
            <Box component="span" sx={{ color: one.aligned ? own.good : own.text, whiteSpace: 'nowrap' }}>
              {`${signed(one.before_db[0], 1)} → ${signed(one.after_db[0], 1)} dB`}
            </Box>
          </Box>
          <Typography sx={{ fontSize: 12 }} color="text.secondary">
            {`As they come: ${one.verdict}.${one.apart && ` Now: ${one.apart}.`}`}
          </Typography>
        </ButtonBase>
      ))}
      <Typography sx={{ fontSize: 12 }} color="text.secondary">
        6 dB everywhere means in step. An all-pass of one feed is undone by giving the same to the others: then all turn
        alike.
      </Typography>
    </Section>
  );
}
