/** One end of a channel: shape, slope and corner, or the offer to set it. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import type { Corner, Crossover, Shape } from '../../api/types';
import { Choice, NumberField } from '../../ui/Field';
import { Row, Section } from '../../ui/Panel';
import type { Work } from '../../state/project';
import type { End } from './seam';
import { hertz, plain } from '../../ui/format';
import { hueOf } from '../../ui/theme';

/** Where a corner makes sense and why: in a line, all reasons when it is opened. */
function Sense({ corner, now }: { corner: Corner; now?: number }) {
  const [open, setOpen] = useState(false);
  const { own } = useTheme();
  const outside = now !== undefined && (now < corner.least_hz * 0.99 || now > corner.most_hz * 1.01);
  return (
    <>
      <ButtonBase
        aria-expanded={open}
        title={corner.says.join('; ')}
        onClick={() => setOpen(!open)}
        sx={{ fontSize: 11.5, color: outside ? own.clayText : own.quiet, justifyContent: 'flex-start', mt: 0.25 }}>
        {`${hertz(corner.least_hz)} to ${hertz(corner.most_hz)}, ${hertz(corner.hertz)} suggested`}
        {outside && '; now outside'}
      </ButtonBase>
      {open && (
        <Box component="ul" sx={{ m: 0, pl: 2, fontSize: 11.5, color: own.quiet }}>
          {corner.says.map((one) => (
            <li key={one}>{one}</li>
          ))}
        </Box>
      )}
    </>
  );
}

const SHAPES: { value: Shape; text: string }[] = [
  { value: 'linkwitz-riley', text: 'Linkwitz–Riley' },
  { value: 'butterworth', text: 'Butterworth' },
  { value: 'bessel', text: 'Bessel' },
];

export function CrossoverFields({
  work,
  driver,
  end,
  title,
  note,
}: {
  work: Work;
  driver: string;
  end: End;
  title: string;
  note: string;
}) {
  const { project, tune, commit } = work;
  const { own } = useTheme();
  const hue = hueOf(
    own,
    project.layout.drivers.find((one) => one.id === driver)!,
  );
  const now = tune.channels[driver][end];
  const offered = (now && project.link.slopes[now.shape]) ?? [];
  const has = now?.taps ? project.link.linear_slopes : offered;
  const slopes = now && !has.includes(now.slope_db) ? [...has, now.slope_db] : has;
  const change = (values: Partial<Crossover> & { linear?: boolean }) =>
    void commit([{ do: 'crossover', channel: driver, end, off: false, ...values }]);
  const late = (taps: number) => plain((taps / 2 / project.link.limits.rate) * 1e3);
  const off = () => void commit([{ do: 'crossover', channel: driver, end, off: true }]);
  const sense = project.corners[driver][end];
  const start = () => change({ corner_hz: sense.hertz });
  return (
    <Box sx={{ borderLeft: `4px solid ${hue}`, pl: 1 }}>
      <Section
        title={title}
        aside={
          now ? (
            <>
              <span>{note}</span>{' '}
              {project.link.limits.taps > 0 && (
                <Button
                  size="small"
                  sx={{ py: 0, minWidth: 0, fontSize: 11.5 }}
                  aria-pressed={now.taps > 0}
                  aria-label={`linear phase: ${title}`}
                  title={
                    now.taps
                      ? `Linear phase, ${late(now.taps)} ms late: press for sections again`
                      : 'Make it of linear phase, by FIR taps'
                  }
                  onClick={() => change({ linear: !now.taps })}>
                  {now.taps ? `linear, ${now.taps} taps` : 'linear'}
                </Button>
              )}
              <Button
                size="small"
                sx={{ py: 0, minWidth: 0, fontSize: 11.5 }}
                aria-label={`off: take the ${title} away`}
                onClick={off}>
                off
              </Button>
            </>
          ) : (
            note
          )
        }>
        {now ? (
          <Row>
            <Box sx={{ flex: 1.6, minWidth: 0 }}>
              <Choice
                label="Shape"
                hideLabel
                value={now.shape}
                options={SHAPES.filter(({ value }) => value === now.shape || project.link.slopes[value])}
                onChange={(shape) => change({ shape })}
              />
            </Box>
            <Box sx={{ flex: 1, minWidth: 0 }}>
              <Choice
                label="Slope"
                hideLabel
                value={now.slope_db}
                options={slopes.map((value) => ({ value, text: `${value} dB` }))}
                onChange={(slope_db) => change({ slope_db })}
              />
            </Box>
            <Box sx={{ flex: 1.15, minWidth: 0 }}>
              <NumberField
                label={`${title} corner`}
                hideLabel
                unit="Hz"
                value={now.corner_hz}
                digits={now.corner_hz < 200 ? 1 : 0}
                factor
                step={1 / 48}
                coarse={1 / 6}
                min={project.link.limits.corner_hz.least}
                max={project.link.limits.corner_hz.most}
                onCommit={(corner_hz) => change({ corner_hz })}
              />
            </Box>
          </Row>
        ) : (
          <Button
            variant="outlined"
            fullWidth
            sx={{ py: 0.25 }}
            onClick={start}>{`Set a ${end === 'high_pass' ? 'high-pass' : 'low-pass'}`}</Button>
        )}
        {note !== 'follows' && <Sense corner={sense} now={now?.corner_hz} />}
      </Section>
    </Box>
  );
}
