/** Coefficients for processors that are given them: kind of file, signs, fixed point and what that does. */
import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { client, sentence, settled } from '../../api/client';
import type { Effect } from '../../api/types';
import type { Work } from '../../state/project';
import { useWindow } from '../../state/window';
import { Choice, WordField } from '../../ui/Field';
import { Row, Section } from '../../ui/Panel';

const KINDS = [
  { value: 'txt', text: 'text' },
  { value: 'csv', text: 'CSV' },
  { value: 'json', text: 'JSON' },
  { value: 'h', text: 'header for C' },
];
const SIGNS = [
  { value: 'subtract', text: 'a1, a2 subtracted' },
  { value: 'add', text: 'a1, a2 added' },
];
const FORMATS = ['1.14', '1.22', '2.21', '1.30', '2.29', '4.27', '5.23'];
const OTHER = 'other';
/** What is less is nothing that anyone could measure. */
const LEAST_DB = 0.001;

export function Coefficients({ work }: { work: Work }) {
  const { slug, project } = work;
  const fixed = useWindow((state) => state.fixed);
  const set = useWindow((state) => state.set);
  const [kind, setKind] = useState('txt');
  const [sign, setSign] = useState('subtract');
  const [a0, setA0] = useState('without');
  const [own, setOwn] = useState(false);
  const revision = project.revision.id;
  const effect = useQuery({
    queryKey: ['effect', slug, revision, fixed],
    enabled: fixed !== '',
    retry: false,
    queryFn: () =>
      settled<Effect[]>(
        client.GET('/api/projects/{slug}/coefficients/effect', { params: { path: { slug }, query: { fixed } } }),
      ),
  });
  // The plot shows the error only while this is looked at.
  useEffect(() => () => set({ fixed: '' }), [set]);
  const asked = new URLSearchParams({ sign, a0: String(a0 === 'with'), fixed });
  const lines = effect.data ?? [];
  const refused = lines.filter((one) => one.refused);
  const worst = lines.reduce<Effect | null>((most, one) => (most && most.worst_db >= one.worst_db ? most : one), null);
  const name = (id: string) => project.layout.drivers.find((one) => one.id === id)?.name ?? id;
  return (
    <Section title="Coefficients" aside={`for ${project.link.limits.rate / 1000} kHz`}>
      <Row>
        <Choice label="Sections as" value={kind} options={KINDS} onChange={setKind} />
        <Choice label="Signs" value={sign} options={SIGNS} onChange={setSign} />
      </Row>
      <Row>
        <Choice
          label="a0, which is 1"
          value={a0}
          options={[
            { value: 'without', text: 'left out' },
            { value: 'with', text: 'written too' },
          ]}
          onChange={setA0}
        />
        <Choice
          label="Numbers"
          value={own ? OTHER : fixed}
          options={[
            { value: '', text: 'floating point' },
            ...FORMATS.map((one) => ({ value: one, text: `fixed, Q${one}` })),
            { value: OTHER, text: 'fixed, another' },
          ]}
          onChange={(value) => {
            setOwn(value === OTHER);
            if (value !== OTHER) set({ fixed: value });
          }}
        />
      </Row>
      {own && (
        <Box sx={{ mt: 0.5 }}>
          <WordField label="Bits before and after the point, as 3.28" value={fixed} most={5} onCommit={keepFormat} />
        </Box>
      )}
      {effect.error && (
        <Typography sx={{ fontSize: 12, mt: 0.5, color: (t) => t.own.clayText }} data-testid="fixed-says">
          {sentence(effect.error.message)}
        </Typography>
      )}
      {fixed && effect.data && (
        <Box data-testid="fixed-effect" sx={{ fontSize: 12, mt: 0.5 }}>
          {refused.map((one) => (
            <Box key={one.channel} sx={{ color: (t) => t.own.clayText }}>
              {`${name(one.channel)} does not fit: ${one.refused}.`}
            </Box>
          ))}
          {!refused.length && worst && (
            <Box sx={{ color: 'text.secondary' }}>
              {worst.worst_db < LEAST_DB
                ? 'Rounding moves every output by less than 0.001 dB.'
                : `Rounding moves no output by more than ${worst.worst_db.toPrecision(2)} dB ` +
                  `(${name(worst.channel)}, ${worst.worst_hz.toFixed(0)} Hz). The plot shows all.`}
            </Box>
          )}
        </Box>
      )}
      {!refused.length && !effect.error && (
        <Link
          sx={{ fontSize: 13 }}
          href={`/api/projects/${slug}/coefficients.${kind}?${asked}`}
          download
          data-testid="coefficients">
          Second-order sections, conventions stated
        </Link>
      )}
    </Section>
  );

  function keepFormat(text: string) {
    const clean = text.trim().replace(/^q/i, '');
    if (/^\d{1,2}\.\d{1,2}$/.test(clean)) set({ fixed: clean });
    else set({ error: 'A format is two numbers of bits with a point between them, as in 3.28.' });
  }
}
