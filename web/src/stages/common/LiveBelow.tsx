/** Under the main plot while the analyser runs: phase, coherence or the running impulse. */
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useMemo, type ReactNode } from 'react';
import type { Project } from '../../api/types';
import { Plot } from '../../plot/Plot';
import { TimePlot } from '../../plot/TimePlot';
import { usePick } from '../../state/window';
import { useLines } from './lines';

/** What stands below when the analyser does not, as children. */
export function LiveBelow({ project, height, children }: { project: Project; height: number; children: ReactNode }) {
  const { growing, live, progress } = usePick('growing', 'live', 'progress');
  const below = progress?.kind === 'live' && growing ? live.below : '';
  const lines = useLines(project, below ? `live-${below}` : 'lower');
  const settled = growing?.facts.settled;
  const inTime = useMemo(
    () =>
      lines.flatMap((line) => {
        const curve = growing?.curves.find((one) => one.id === line.id);
        return curve?.x ? [{ ...line, values: curve.values, x: curve.x }] : [];
      }),
    [lines, growing],
  );
  if (!below) return children;
  if (below !== 'coherence' && !settled) {
    return (
      <Box sx={{ height, display: 'grid', placeItems: 'center' }}>
        <Typography role="status" sx={{ fontSize: 12.5 }} color="text.secondary">
          The delay is not taken out yet: phase means nothing before that.
        </Typography>
      </Box>
    );
  }
  if (below === 'impulse')
    return (
      <TimePlot
        name="Running impulse"
        unit="% of the peak"
        lines={inTime}
        range={[-105, 105]}
        height={height}
        gate={0}
        reflection={null}
        onGate={() => undefined}
      />
    );
  return below === 'phase' ? (
    <Plot
      spans={false}
      name="Live phase"
      unit="degrees, the delay taken out"
      grid={project.grid}
      lines={lines}
      range={[-180, 180]}
      step={90}
      height={height}
    />
  ) : (
    <Plot
      spans={false}
      name="Live coherence"
      unit="coherence: 1 is clear, under 0.6 is faded"
      grid={project.grid}
      lines={lines}
      range={[0, 1.02]}
      step={0.2}
      height={height}
    />
  );
}
