/** Who hears what: ready routes, and for each channel its inputs as chips. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Chip from '@mui/material/Chip';
import Typography from '@mui/material/Typography';
import { client, settled } from '../../api/client';
import type { Edit, Source } from '../../api/types';
import type { Work } from '../../state/project';
import { Section } from '../../ui/Panel';
import { minus } from '../../ui/format';
import type { useSource } from './useSource';

interface Props {
  work: Work;
  at: ReturnType<typeof useSource>;
  source: Source;
}
type Hears = Source['hears'][number];

export function Routes({ work, at, source }: Props) {
  const shown = source.inputs.filter(
    (one) => one.feed || source.hears.some((hears) => hears.inputs.includes(one.number)),
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
  const turn = ({ channel, name, inputs }: Hears, number: number) => {
    const now = inputs.includes(number) ? inputs.filter((one) => one !== number) : [...inputs, number];
    void work.commit([{ do: 'sources', channel, inputs: now }], `${name} hears otherwise`);
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
                {minus(` hears ${hears.says}`)}
              </Typography>
              <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: '3px' }}>
                {shown.map((one) => {
                  const on = hears.inputs.includes(one.number);
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
      {source.route_says.map((one) => (
        <Typography
          key={one}
          role="status"
          sx={{ fontSize: 12.5, color: (t) => t.own.clayText }}>{`${one}.`}</Typography>
      ))}
    </>
  );
}
