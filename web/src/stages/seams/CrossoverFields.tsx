/** One end of a channel: shape, slope and corner, or the offer to set it. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useTheme } from '@mui/material/styles';
import type { Crossover, Shape } from '../../api/types';
import { Choice, NumberField } from '../../ui/Field';
import { Row, Section } from '../../ui/Panel';
import type { Work } from '../../state/project';
import type { End } from './seam';
import { hueOf } from '../../ui/theme';

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
  const slopes = now && !offered.includes(now.slope_db) ? [...offered, now.slope_db] : offered;
  const change = (values: Partial<Crossover>) =>
    void commit([{ do: 'crossover', channel: driver, end, off: false, ...values }]);
  const off = () => void commit([{ do: 'crossover', channel: driver, end, off: true }]);
  const start = () =>
    change({
      corner_hz: end === 'high_pass' ? project.starts[driver].high_pass_hz : project.starts[driver].low_pass_hz,
    });
  return (
    <Box sx={{ borderLeft: `4px solid ${hue}`, pl: 1 }}>
      <Section
        title={title}
        aside={
          now ? (
            <>
              <span>{note}</span>{' '}
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
      </Section>
    </Box>
  );
}
