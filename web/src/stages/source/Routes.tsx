/** Who hears what: ready routes, and for each channel its inputs as chips. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Chip from '@mui/material/Chip';
import Typography from '@mui/material/Typography';
import { client, settled } from '../../api/client';
import type { Edit, Source } from '../../api/types';
import type { Work } from '../../state/project';
import { Section } from '../../ui/Panel';
import { signed } from '../../ui/format';
import type { useSource } from './useSource';

interface Props {
  work: Work;
  at: ReturnType<typeof useSource>;
  source: Source;
}
type Hears = Source['hears'][number];

export function Routes({ work, at, source }: Props) {
  const names = new Map(source.inputs.map((one) => [one.number, one.name]));
  const shown = source.inputs.filter(
    (one) => one.feed || source.hears.some((hears) => String(one.number) in hears.factors),
  );
  const ready = (key: string) =>
    at.take(
      () =>
        settled<Edit[]>(
          client.GET('/api/projects/{slug}/source/routes/{key}', {
            params: { path: { slug: work.slug, key: key as never } },
          }),
        ),
      source.routes[key],
    );
  const turn = (hears: Hears, number: number) => {
    const heard = Object.keys(hears.factors).map(Number);
    const now = heard.includes(number) ? heard.filter((one) => one !== number) : [...heard, number];
    const factors = Array.from({ length: Math.max(0, ...now) }, (_, n) => (now.includes(n + 1) ? 1 / now.length : 0));
    void work.commit([{ do: 'sources', channel: hears.channel, factors }], `${hears.name} hears otherwise`);
  };
  const says = ({ factors }: Hears) => {
    const heard = Object.entries(factors);
    if (!heard.length) return 'nothing';
    const words = heard.map(([number]) => (names.get(Number(number)) ?? `input ${number}`).toLowerCase()).join(' + ');
    const alike = new Set(heard.map(([, factor]) => factor)).size === 1;
    const level = 20 * Math.log10(Math.abs(heard[0][1]));
    return words + (heard.length > 1 && alike ? `, ${signed(level, 1)} dB each` : '');
  };
  return (
    <>
      <Section title="Ready routes">
        {Object.entries(source.routes).map(([key, words]) => (
          <Button
            key={key}
            variant="outlined"
            fullWidth
            data-testid={`route-${key}`}
            onClick={() => ready(key)}
            sx={{
              justifyContent: 'flex-start',
              textAlign: 'left',
              mb: '3px',
              py: 0.25,
              fontSize: 12,
              lineHeight: '15px',
            }}>
            {words}
          </Button>
        ))}
      </Section>
      <Section title="Who hears what" aside="press a chip to add or take away">
        <Box
          tabIndex={0}
          role="group"
          aria-label="Who hears what"
          sx={{ maxHeight: 400, overflowY: 'auto' }}
          data-testid="hears">
          {source.hears.map((hears) => (
            <Box key={hears.channel} sx={{ mb: '4px' }}>
              <Typography sx={{ fontSize: 12.5 }}>
                <b>{hears.name}</b>
                {` hears ${says(hears)}`}
              </Typography>
              <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: '3px' }}>
                {shown.map((one) => {
                  const on = String(one.number) in hears.factors;
                  return (
                    <Chip
                      key={one.number}
                      size="small"
                      clickable
                      color={on ? 'primary' : 'default'}
                      variant={on ? 'filled' : 'outlined'}
                      aria-pressed={on}
                      aria-label={`${hears.name} hears ${one.name}`}
                      label={one.name}
                      onClick={() => turn(hears, one.number)}
                      sx={{
                        height: 19,
                        fontSize: 11,
                        // Held or hovered it must stay as readable.
                        '&.MuiChip-colorPrimary.MuiChip-filled:is(:hover, :active, .Mui-focusVisible)': {
                          bgcolor: (t) => t.own.clay,
                          color: (t) => t.own.onClay,
                        },
                      }}
                    />
                  );
                })}
              </Box>
            </Box>
          ))}
        </Box>
      </Section>
      {source.says
        .filter((one) => one.includes('hears'))
        .map((one) => (
          <Typography
            key={one}
            role="status"
            sx={{ fontSize: 12.5, color: (t) => t.own.clayText }}>{`${one}.`}</Typography>
        ))}
    </>
  );
}
