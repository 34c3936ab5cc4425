/** The second plot where one looks closer: phase, time, decay, distortion or angles of what is selected. */
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useMemo } from 'react';
import type { Below, Project } from '../../api/types';
import { MapPlot } from '../../plot/MapPlot';
import { Plot } from '../../plot/Plot';
import { TimePlot } from '../../plot/TimePlot';
import { usePick } from '../../state/window';
import { Hint, HINT_HEIGHT } from './Hint';
import { useLines } from './lines';
import { PreRinging } from './PreRinging';
import { TapsDelay } from './TapsDelay';
import { TapsSpan } from './TapsSpan';
import { nice, rangeOf } from './ranges';

const UNITS_OF_DISTORTION = { db: 'dB under the fundamental', percent: '% of the fundamental', spl: 'dB SPL' };
const UNITS: Partial<Record<Below, string>> = {
  phase: 'degrees',
  unwrapped: 'degrees',
  'group-delay': 'ms',
  minimum: 'degrees',
  difference: 'dB over the take in force',
  sides: 'dB, left over right',
  impulse: '% of the peak',
  step: '% of the peak',
  envelope: 'dB',
};

/** What FIR taps do to the time before the main pulse, and after it. */
const ABOUT: [number, number] = [-12, 8];

/** The hint above, when it is wanted, and the plot. */
export function Closer({ project, height, below }: { project: Project; height: number; below: Below }) {
  const { picture, hints } = usePick('picture', 'hints');
  const says = picture?.facts.angles_say ?? (hints ? picture?.facts.explains : undefined);
  return (
    <>
      {says && <Hint says={says} />}
      <Lower project={project} height={height - (says ? HINT_HEIGHT : 0)} below={below} />
    </>
  );
}

function Lower({ project, height, below }: { project: Project; height: number; below: Below }) {
  const { own } = useTheme();
  const { picture, lens, depth, wish, set } = usePick('picture', 'lens', 'depth', 'wish', 'set');
  const lower = useLines(project, 'lower');
  const inTime = useLines(project, 'time');
  const curves = picture?.curves;
  const every = picture?.facts.map?.every ?? 1;
  const columns = useMemo(() => project.grid.filter((_, n) => n % every === 0), [project.grid, every]);
  const facts = picture?.facts;
  const range = useMemo(() => rangeOf(below, lower, lens.unit), [below, lower, lens.unit]);
  if (facts?.lacking) {
    return (
      <Box sx={{ height, display: 'grid', placeItems: 'center' }}>
        <Typography
          sx={{
            fontSize: 12.5,
            color: own.quiet,
          }}>{`${facts.lacking.charAt(0).toUpperCase()}${facts.lacking.slice(1)}.`}</Typography>
      </Box>
    );
  }
  if (below === 'waterfall' || below === 'spectrogram' || below === 'angles') {
    const map = curves?.find((curve) => curve.pane === 'map');
    if (!map?.x || !facts?.map) return <Box sx={{ height }} />;
    return (
      <MapPlot
        name={below === 'angles' ? 'Level over angle' : 'Decay'}
        unit={facts.map.unit}
        values={map.values}
        times={map.x}
        rows={facts.map.rows}
        frequencies={columns}
        height={height}
        ticks={facts.map.ticks}
        floor={below === 'angles' ? facts.map.floor : depth}
      />
    );
  }
  if (below === 'impulse' || below === 'envelope' || below === 'step') {
    const lines = inTime.flatMap((line) => {
      const curve = curves?.find((one) => one.id === line.id);
      return curve?.x ? [{ ...line, values: curve.values, x: curve.x }] : [];
    });
    return (
      <TimePlot
        name="In time"
        unit={UNITS[below]!}
        lines={lines}
        fit={picture?.view.part === 'taps' ? ABOUT : undefined}
        range={range}
        height={height}
        gate={picture?.view.gate_ms ?? 0}
        from={facts?.gate?.from_ms ?? 0}
        onFrom={(ms) => set({ lens: { ...lens, before_ms: ms } })}
        reflection={facts?.gate?.reflection_ms ?? null}
        onGate={(ms) => set({ gate: ms })}>
        {(geometry) =>
          picture?.view.part === 'taps' ? <PreRinging geometry={geometry} percent={below !== 'envelope'} /> : null
        }
      </TimePlot>
    );
  }
  // What is dragged stays in sight, wherever the curves are.
  const limit = below === 'group-delay' && picture?.view.part === 'taps' ? wish.group_delay_ms : 0;
  const reach: [number, number] = [Math.min(range[0], -1.15 * limit), Math.max(range[1], 1.15 * limit)];
  const step =
    below === 'phase' || below === 'minimum'
      ? 90
      : below === 'distortion' && lens.unit !== 'percent'
        ? 20
        : nice((reach[1] - reach[0]) / 4);
  return (
    <Plot
      spans={false}
      name="Closer"
      unit={below === 'distortion' ? UNITS_OF_DISTORTION[lens.unit] : (UNITS[below] ?? '')}
      grid={project.grid}
      lines={lower}
      range={reach}
      height={height}
      step={step}>
      {(geometry) =>
        facts && picture?.view.part === 'taps' ? (
          <>
            <TapsSpan geometry={geometry} />
            {below === 'group-delay' && <TapsDelay geometry={geometry} range={reach} />}
          </>
        ) : null
      }
    </Plot>
  );
}
