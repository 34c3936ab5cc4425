/** What Source shows: the feeds as they come and as they are straightened, or how they sum. */
import { useTheme } from '@mui/material/styles';
import { useMemo } from 'react';
import { Plot } from '../../plot/Plot';
import { levelRange } from '../../plot/scale';
import { usePick } from '../../state/window';
import { HintToggle } from '../common/Hint';
import { useLines } from '../common/lines';
import { PlotHead } from '../common/PlotHead';
import { Stack } from '../common/Stack';
import type { StageProps } from '../props';

const WORDS = {
  feeds: {
    title: 'What reaches the processor',
    says: 'each feed as it comes faint, with what its input does bold; 0 dB is the loudest',
    hint: 'The sound of the source before anything of yours. Good: every bold line flat between its ends, all alike.',
  },
  sum: {
    title: 'What feeds do together',
    says: 'the sum of two over the mean of both; as they come faint, with their inputs bold',
    hint:
      'Two feeds that are in step sum to 6 dB. One or two wide dips: an all-pass. A regular row of dips: a delay. ' +
      'Good: bold lines on the dashed one.',
  },
};

export function SourcePlots({ work }: StageProps) {
  const { project } = work;
  const { own } = useTheme();
  const { sourcePart } = usePick('sourcePart');
  const lines = useLines(project, 'main');
  const words = WORDS[sourcePart === 'sum' ? 'sum' : 'feeds'];
  const range = useMemo<[number, number]>(
    () => (sourcePart === 'sum' ? [-30, 10] : lines.length ? levelRange(lines, 40) : [-30, 10]),
    [sourcePart, lines],
  );
  return (
    <Stack head={<PlotHead title={words.title} says={words.says} hint={words.hint} aside={<HintToggle />} />}>
      {(height) => (
        <Plot
          name={words.title}
          unit="dB"
          grid={project.grid}
          lines={lines}
          range={range}
          height={height}
          step={sourcePart === 'sum' ? 6 : undefined}>
          {({ width, bottom }) =>
            !lines.length && (
              <text x={width / 2} y={bottom / 2} textAnchor="middle" fill={own.quiet}>
                Let the source play the track, clip the leads to its wires, and record: the feeds stand here then.
              </text>
            )
          }
        </Plot>
      )}
    </Stack>
  );
}
