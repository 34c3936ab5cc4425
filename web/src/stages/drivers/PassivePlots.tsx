/** Drivers, passive parts: each way through its ladder and the sum, and below what the amplifier sees. */
import { useTheme } from '@mui/material/styles';
import { useMemo } from 'react';
import type { Line } from '../../plot/parts';
import { Plot } from '../../plot/Plot';
import { levelRange } from '../../plot/scale';
import { HintToggle } from '../common/Hint';
import { useLines } from '../common/lines';
import { PlotHead } from '../common/PlotHead';
import { Stack } from '../common/Stack';
import type { StageProps } from '../props';
import { NothingYet } from '../common/NothingYet';

/** A load is read about what it is: the peak of a driver alone may leave the plot. */
const loadRange = (lines: Line[]): [number, number] => {
  const values = lines.find((one) => one.id === 'load')?.values ?? [];
  let top = 4;
  for (let i = 0; i < values.length; i++) if (values[i] > top) top = values[i];
  return [0, Math.ceil(Math.min(60, top * 1.3) / 4) * 4];
};

export function PassivePlots({ work }: StageProps) {
  const { project } = work;
  const { own } = useTheme();
  const lines = useLines(project, 'main');
  const lower = useLines(project, 'lower');
  const range = useMemo(() => levelRange(lines), [lines]);
  const ohms = useMemo(() => loadRange(lower), [lower]);
  const shades = useMemo(
    () => [{ between: ['sure-low', 'sure-high'] as [string, string], fill: own.sum + '26' }],
    [own],
  );
  return (
    <Stack
      lower={0.36}
      head={
        <PlotHead
          title="Passive parts"
          says={lines.length ? 'from measured impedances and responses' : undefined}
          aside={<HintToggle />}
          hint="Bold: through its parts; faint: the driver alone; shaded: what the parts’ tolerance makes of the sum."
        />
      }>
      {(main, second) => (
        <>
          <Plot
            name="Through the network"
            unit="dB SPL"
            grid={project.grid}
            lines={lines}
            range={range}
            height={main}
            shades={lines.some((one) => one.id === 'sure-low') ? shades : []}>
            {({ width, height }) =>
              !lines.length && (
                <NothingYet x={width / 2} y={height / 2}>
                  What a network does with the drivers stands here once one is begun.
                </NothingYet>
              )
            }
          </Plot>
          <Plot
            spans={false}
            name="Load of the amplifier"
            unit="ohm"
            grid={project.grid}
            lines={lower}
            range={ohms}
            height={second}
            step={ohms[1] / 4}
          />
        </>
      )}
    </Stack>
  );
}
