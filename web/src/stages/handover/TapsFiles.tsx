/** The FIR taps of each output that has any, as files. */
import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import { Section } from '../../ui/Panel';
import type { Work } from '../../state/project';

const KINDS = [
  ['wav', 'WAV'],
  ['csv', 'CSV'],
  ['txt', 'text'],
  ['f32', 'float32'],
] as const;

export function TapsFiles({ work }: { work: Work }) {
  const { slug, project, tune } = work;
  const having = project.layout.drivers.filter(({ id }) => {
    const one = tune.channels[id];
    return one.taps || one.high_pass?.taps || one.low_pass?.taps;
  });
  if (!having.length) return null;
  return (
    <Section title="FIR taps" aside={`for ${project.link.limits.rate / 1000} kHz`}>
      {having.map(({ id, name }) => (
        <Box key={id} sx={{ display: 'flex', gap: 1, fontSize: 12.5, lineHeight: '20px' }}>
          <Box sx={{ flex: 1 }}>{name}</Box>
          {KINDS.map(([kind, text]) => (
            <Link
              key={kind}
              href={`/api/projects/${slug}/taps/${id}.${kind}`}
              download
              aria-label={`Taps of ${name} as ${text}`}>
              {text}
            </Link>
          ))}
        </Box>
      ))}
    </Section>
  );
}
