/** What Seams shows: both ways, their sum, what timing costs, and the phase between them. */
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useMemo } from 'react';
import type { Crossover, Edit } from '../../api/types';
import { clock, hertz } from '../../ui/format';
import { drag } from '../../plot/drag';
import { Plot } from '../../plot/Plot';
import type { Geometry } from '../../plot/parts';
import { levelRange, toHertz, toX } from '../../plot/scale';
import { usePick, useWindow } from '../../state/window';
import { useLines } from '../common/lines';
import { Aside } from '../common/BelowChoice';
import { PlotHead } from '../common/PlotHead';
import { Stack } from '../common/Stack';
import type { StageProps } from '../props';
import { End, useSeam, useWhole, ends } from './seam';
import { PhasePlot } from './PhasePlot';
import { WholePlots } from './WholePlots';

export function SeamsPlots(props: StageProps) {
  const lacking = usePick('picture').picture?.facts.lacking;
  const whole = useWhole();
  if (whole && props.work.project.seams.length) return <WholePlots {...props} />;
  if (props.work.project.seams.length) return <OneSeam {...props} />;
  return (
    <Box sx={{ display: 'grid', placeItems: 'center' }}>
      <Typography color="text.secondary">{lacking ? `${lacking}.` : 'There is no seam in this system.'}</Typography>
    </Box>
  );
}

function OneSeam({ work }: StageProps) {
  const { project, tune, draft, commit } = work;
  const { own } = useTheme();
  const { seam, title } = useSeam(work);
  const facts = useWindow((state) => state.picture?.facts);
  const main = useLines(project, 'main');
  const range = useMemo(() => levelRange(main, 45), [main]);
  const loss = facts?.seam === seam.id ? facts.loss : null;
  const shades = useMemo(
    () =>
      loss
        ? [
            {
              between: ['ideal', 'sum'] as [string, string],
              fill: `${own.clay}99`,
              from: loss.low_hz,
              to: loss.high_hz,
            },
          ]
        : [],
    [loss, own],
  );
  const says = loss
    ? `both within 10 dB from ${hertz(loss.low_hz)} to ${hertz(loss.high_hz)}`
    : 'no overlap to be seen yet';
  const stretch = ({ width, top, bottom }: Geometry) =>
    loss && (
      <rect
        x={toX(loss.low_hz, width)}
        width={toX(loss.high_hz, width) - toX(loss.low_hz, width)}
        y={top}
        height={bottom - top}
        fill={own.clay}
        opacity={0.09}
        style={{ pointerEvents: 'none' }}
      />
    );
  const corner = (end: Crossover, driver: string, which: End, { width, top, bottom }: Geometry) => {
    const x = toX(end.corner_hz, width);
    const edit = (corner_hz: number): Edit[] => [
      { do: 'crossover', channel: driver, end: which, corner_hz, off: false },
    ];
    return (
      <g
        key={driver + which}
        style={{ cursor: 'ew-resize' }}
        data-testid={`corner-${driver}-${which}`}
        onPointerDown={(event) => {
          let at: number | null = null;
          drag(
            event,
            (px) => {
              at = toHertz(px, width);
              draft(edit(at));
            },
            () => at !== null && void commit(edit(at)),
          );
        }}>
        <rect x={x - 7} y={top} width={14} height={bottom - top} fill="transparent" />
        <line x1={x} x2={x} y1={top} y2={bottom} stroke={own.text} strokeDasharray="1 4" />
        <polygon points={`${x - 7},${top} ${x + 7},${top} ${x + 4},${top + 11} ${x - 4},${top + 11}`} fill={own.clay} />
      </g>
    );
  };
  return (
    <Stack
      lower={0.32}
      head={
        <PlotHead
          title={title}
          says={says}
          aside={
            <Aside says={facts?.measured_at ? `measured ${clock(facts.measured_at)}` : 'predicted'} stage="seams" />
          }
          hint={
            'Both ways and their sum. Good: the sum follows the dotted ideal where both play; what is ' +
            'shaded is lost to timing.'
          }
        />
      }>
      {(height, second) => (
        <>
          <Plot
            name={`Level at the seam ${title}`}
            unit="dB SPL"
            grid={project.grid}
            lines={main}
            range={range}
            height={height}
            shades={shades}>
            {(geometry) => (
              <>
                {stretch(geometry)}
                {loss && (
                  <text
                    x={Math.min(toX(loss.high_hz, geometry.width) + 8, geometry.width - 150)}
                    y={geometry.top + 18}
                    fill={own.clayText}>
                    shaded: lost to timing
                  </text>
                )}
                {seam.ways &&
                  ends(tune, seam).map(([driver, which, end]) => end && corner(end, driver, which, geometry))}
              </>
            )}
          </Plot>
          <PhasePlot
            project={project}
            name="Phase between the two"
            unit="phase between the two, degrees"
            height={second}>
            {stretch}
          </PhasePlot>
        </>
      )}
    </Stack>
  );
}
