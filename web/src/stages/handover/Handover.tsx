/** Handover: send, read back, store in a slot, download the settings. */
import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { useMemo } from 'react';
import { KeyLine, PanelTitle, Section } from '../../ui/Panel';
import { Plot } from '../../plot/Plot';
import { useLines } from '../common/lines';
import { HintToggle } from '../common/Hint';
import { PlotHead } from '../common/PlotHead';
import { Stack } from '../common/Stack';
import { minus } from '../../ui/format';
import { usePick, useWindow } from '../../state/window';
import type { Work } from '../../state/project';
import type { StageProps } from '../props';
import { Coefficients } from './Coefficients';
import { TapsFiles } from './TapsFiles';
import { Customer } from './Customer';
import { Report } from './Report';
import { ByHand, Sent } from './Sent';
import { Slots } from './Slots';
import { Tastes } from './Tastes';
import { TypingSheet } from './TypingSheet';

export function HandoverPlots({ work }: StageProps) {
  if (work.project.link.by_hand) return <TypingSheet work={work} />;
  return <OutputPlots work={work} />;
}

/** The range of errors of rounding, rounded up to a size that stays while they change a little. */
function errorRange(lines: { values: ArrayLike<number> }[]): [number, number] {
  let most = 0;
  for (const one of lines) for (const value of Array.from(one.values)) most = Math.max(most, Math.abs(value));
  const size = [0.1, 0.5, 1, 2, 5, 10, 20].find((one) => most <= one) ?? 50;
  return [-size, size];
}

function OutputPlots({ work }: { work: Work }) {
  const { project } = work;
  const lines = useLines(project, 'main');
  const fixed = useWindow((state) => state.fixed);
  const usual = useMemo<[number, number]>(() => [-50, 10], []);
  const range = useMemo(() => (fixed ? errorRange(lines) : usual), [fixed, lines, usual]);
  const head = fixed ? (
    <PlotHead
      title={`What rounding to Q${fixed} does`}
      says="by how much each output would be louder than the tune says; one that does not fit is not drawn"
      smoothed={false}
    />
  ) : (
    <PlotHead
      title="What each output does"
      says="filters, bands and gain of the tune; faint where the processor still does something else"
      smoothed={false}
      aside={
        <>
          <HintToggle />
          {` ${project.link.limits.rate / 1000} kHz`}
        </>
      }
      hint={
        'Filters, bands and gain of each output. Good: every solid curve lies on its faint one: the ' +
        'processor does what the tune says.'
      }
    />
  );
  return (
    <Stack head={head}>
      {(height) => (
        <Plot
          name={fixed ? 'Error of each output in fixed point' : 'Response of each output'}
          unit="dB"
          grid={project.grid}
          lines={lines}
          range={range}
          height={height}
        />
      )}
    </Stack>
  );
}

const PARTS = [
  ['processor', 'Processor'],
  ['customer', 'Customer'],
  ['files', 'Files'],
] as const;

export function HandoverPanel({ work }: StageProps) {
  const { project, slug } = work;
  const { link } = project;
  const { handoverPart, set } = usePick('handoverPart', 'set');
  const [left, done] = link.by_hand ? ['to type', 'typed'] : ['unsent', 'sent'];
  return (
    <>
      <PanelTitle title="Handover" aside={link.unsent.length ? `${link.unsent.length} ${left}` : `all ${done}`} />
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        value={handoverPart}
        aria-label="What to hand over"
        onChange={(_e, value) => value && set({ handoverPart: value })}>
        {PARTS.map(([id, name]) => (
          <ToggleButton key={id} value={id} data-testid={`handover-${id}`} sx={{ py: 0.2, px: 0.5, fontSize: 12.5 }}>
            {name}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      {handoverPart === 'processor' && (
        <>
          {link.by_hand ? <ByHand work={work} /> : <Sent work={work} />}
          <Slots work={work} />
          {/* Tastes are sent one after another. */}
          {!link.by_hand && <Tastes work={work} />}
          <Section title="What the outputs hear" aside={`${link.limits.inputs} inputs`}>
            <Box component="ul" sx={{ m: 0, pl: 2, fontSize: 12.5 }} data-testid="routing">
              {link.routing.map((one) => (
                <li key={one.hears}>{minus(`${one.channels.join(', ')}: ${one.hears}`)}</li>
              ))}
            </Box>
          </Section>
        </>
      )}
      {handoverPart === 'customer' && (
        <>
          <Report slug={slug} />
          <Customer work={work} />
        </>
      )}
      {handoverPart === 'files' && (
        <>
          <Downloads slug={slug} />
          <Coefficients work={work} />
          <TapsFiles work={work} />
        </>
      )}
      <KeyLine>Ctrl K find an action · ? all keys</KeyLine>
    </>
  );
}

function Downloads({ slug }: { slug: string }) {
  const base = `/api/projects/${slug}/export`;
  return (
    <Section title="Download">
      <Box sx={{ display: 'flex', flexDirection: 'column', gap: 0.5, fontSize: 13 }}>
        <Link href={`/api/projects/${slug}/project.imbrix`} download data-testid="whole-project">
          The whole project as one file, with all takes
        </Link>
        <Link href={`/api/projects/${slug}/project.imbrix?sound=false`} download data-testid="project-without-sound">
          The same without raw sound, much smaller
        </Link>
        <Link href={`${base}/settings.json`} download>
          Settings as JSON
        </Link>
        <Link href={`${base}/settings.csv`} download>
          Settings as CSV
        </Link>
      </Box>
    </Section>
  );
}
