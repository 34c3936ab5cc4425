/**
 * Drivers, impedance: magnitudes of all, the phase of the selection below, the planned corners and what the amplifier
 * allows.
 */
import { useTheme } from '@mui/material/styles';
import { useMemo } from 'react';
import { plain } from '../../ui/format';
import { Plot } from '../../plot/Plot';
import { LEFT, RIGHT, toX } from '../../plot/scale';
import { useWindow } from '../../state/window';
import { useLines } from '../common/lines';
import { HintToggle } from '../common/Hint';
import { PlotHead } from '../common/PlotHead';
import type { StageProps } from '../props';
import { Stack } from '../common/Stack';
import { NothingYet } from '../common/NothingYet';

export function ImpedancePlots({ work, selection }: StageProps) {
  const { project } = work;
  const { own } = useTheme();
  const lines = useLines(project, 'main');
  const lower = useLines(project, 'lower');
  const facts = useWindow((state) => state.picture?.facts.impedance);
  const range = useMemo<[number, number]>(() => {
    const mine = lines.filter(
      (line) => line.id.endsWith(selection) || line.id.startsWith('beside') || line.id === 'circuit',
    );
    let top = 10;
    for (const { values } of mine.length ? mine : lines)
      for (let i = 0; i < values.length; i++) if (values[i] > top) top = values[i];
    return [0, Math.ceil((top * 1.12) / 5) * 5];
  }, [lines, selection]);
  return (
    <Stack
      lower={0.36}
      head={
        <PlotHead
          title="Impedance"
          says={
            facts
              ? `${facts.calibrated ? 'leads and inputs taken out' : 'jig not calibrated'}` +
                `${facts.misfit === undefined ? '' : ` · circuit within ${plain(facts.misfit * 100, 1)} %`}`
              : undefined
          }
          smoothed={false}
          aside={<HintToggle />}
          hint={
            'How many ohms the amplifier sees. Good: one peak at the resonance, a slow rise to the top, ' +
            'left and right alike.'
          }
        />
      }>
      {(main, second) => (
        <>
          <Plot
            name="Impedance"
            unit="ohm"
            grid={project.grid}
            lines={lines}
            range={range}
            height={main}
            step={range[1] > 60 ? 20 : range[1] > 25 ? 10 : 5}>
            {({ width, height, y, top, bottom }) => (
              <g style={{ pointerEvents: 'none' }}>
                {!lines.length && (
                  <NothingYet x={width / 2} y={height / 2}>
                    Each driver’s impedance stands here once it is measured: clip the jig on and press Space.
                  </NothingYet>
                )}
                {facts && (
                  <>
                    <line
                      x1={LEFT}
                      x2={width - RIGHT}
                      y1={y(facts.allowed)}
                      y2={y(facts.allowed)}
                      stroke={own.clay}
                      strokeDasharray="2 4"
                    />
                    <text
                      x={width - RIGHT - 4}
                      y={y(facts.allowed) - 4}
                      textAnchor="end"
                      fill={own.clayText}>{`amplifier: ${facts.allowed} ohm`}</text>
                    {facts.corners.map((one) => (
                      <g key={one.what}>
                        <line
                          x1={toX(one.hertz, width)}
                          x2={toX(one.hertz, width)}
                          y1={top}
                          y2={bottom}
                          stroke={own.quiet}
                          strokeDasharray="4 3"
                        />
                        <circle cx={toX(one.hertz, width)} cy={y(one.ohms)} r={4} fill={own.sum} stroke={own.plot} />
                        <text
                          x={toX(one.hertz, width) + 6}
                          y={top + 30}
                          fill={own.quiet}>{`${one.what}: ${plain(one.ohms)} ohm, ${plain(one.degrees, 0)}°`}</text>
                      </g>
                    ))}
                  </>
                )}
              </g>
            )}
          </Plot>
          <Plot
            spans={false}
            name="Impedance phase"
            unit="degrees"
            grid={project.grid}
            lines={lower}
            range={[-90, 90]}
            height={second}
            step={45}
          />
        </>
      )}
    </Stack>
  );
}
