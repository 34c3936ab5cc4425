/** What Source shows: the feeds as they come and as they are straightened, or how they sum. */
import { useTheme } from '@mui/material/styles';
import { useMemo } from 'react';
import { Plot } from '../../plot/Plot';
import { levelRange } from '../../plot/scale';
import { usePick } from '../../state/window';
import { BandHandle } from '../common/BandHandle';
import { HintToggle } from '../common/Hint';
import { useLines } from '../common/lines';
import { PlotHead } from '../common/PlotHead';
import { Stack } from '../common/Stack';
import type { StageProps } from '../props';
import { bandsAt, putBandAt } from './inputBands';
import { NothingYet } from '../common/NothingYet';

const CORRECTS: [number, number] = [-18, 18];
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
  const { project, draft, commit } = work;
  const { own } = useTheme();
  const { sourcePart, sourceInput, band, set } = usePick('sourcePart', 'sourceInput', 'band', 'set');
  const lines = useLines(project, 'main');
  const lower = useLines(project, 'lower');
  const input = sourcePart === 'feeds' && lower.length ? sourceInput : 0;
  const bands = input ? bandsAt(work, input) : [];
  const words = WORDS[sourcePart === 'sum' ? 'sum' : 'feeds'];
  const range = useMemo<[number, number]>(
    () => (sourcePart === 'sum' ? [-30, 10] : lines.length ? levelRange(lines, 40) : [-30, 10]),
    [sourcePart, lines],
  );
  return (
    <Stack
      lower={input ? 0.34 : 0}
      head={<PlotHead title={words.title} says={words.says} hint={words.hint} aside={<HintToggle />} />}>
      {(height, second) => (
        <>
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
                <NothingYet x={width / 2} y={bottom / 2}>
                  Let the source play the track, clip the leads to its wires, and record: the feeds stand here then.
                </NothingYet>
              )
            }
          </Plot>
          {input > 0 && (
            <Plot
              name={`Correction of input ${input}`}
              unit={`input ${input}, dB`}
              grid={project.grid}
              lines={lower}
              range={CORRECTS}
              step={6}
              height={second}
              readings={false}>
              {(geometry) =>
                bands.map((one, n) => (
                  <BandHandle
                    key={n}
                    one={one}
                    can={project.link.limits}
                    n={n}
                    chosen={band === n}
                    colour={own.sum}
                    geometry={geometry}
                    range={CORRECTS}
                    choose={() => set({ band: n })}
                    change={(next, done) => {
                      const edits = [putBandAt(work, input, n, next)];
                      if (done) void commit(edits, `Input ${input}: bands`);
                      else draft(edits);
                    }}
                    remove={() => void commit([putBandAt(work, input, n, null)], `Input ${input}: bands`)}
                  />
                ))
              }
            </Plot>
          )}
        </>
      )}
    </Stack>
  );
}
