/**
 * Drivers: the bare curves over each other, the usable band of the selection, and a moving microphone's curve as it
 * grows.
 */
import { useTheme } from '@mui/material/styles';
import { useMemo } from 'react';
import type { Driver, Project } from '../../api/types';
import { hertz, plain } from '../../ui/format';
import { Plot } from '../../plot/Plot';
import { LEFT, levelRange, RIGHT, toX } from '../../plot/scale';
import { useWindow } from '../../state/window';
import { Aside } from '../common/BelowChoice';
import { Closer } from '../common/Closer';
import { GateHatch } from '../common/GateHatch';
import { useLines } from '../common/lines';
import { PlotHead } from '../common/PlotHead';
import type { StageProps } from '../props';
import { Stack } from '../common/Stack';
import { ImpedancePlots } from './ImpedancePlots';
import { PassivePlots } from './PassivePlots';
import { hueOf } from '../../ui/theme';
import { NothingYet } from '../common/NothingYet';

const inside = (hertz: number, width: number) => Math.max(LEFT, Math.min(width - RIGHT, toX(hertz, width)));

export function DriversPlots(props: StageProps) {
  const tab = useWindow((state) => state.tab);
  if (tab === 'passive') return <PassivePlots {...props} />;
  return tab === 'impedance' ? <ImpedancePlots {...props} /> : <BarePlots {...props} />;
}

function BarePlots({ work, selection }: StageProps) {
  const { project } = work;
  const { own } = useTheme();
  const lines = useLines(project, 'main');
  const range = useMemo(() => levelRange(lines.filter((line) => !line.id.startsWith('reference'))), [lines]);
  const picture = useWindow((state) => state.picture);
  const growing = useWindow((state) => state.growing);
  const driver = project.layout.drivers.find((one) => one.id === selection);
  const read = project.drivers[selection];
  const moving = picture?.facts.moving;
  const shades = useMemo(
    () =>
      growing
        ? [{ between: ['running-low', 'running-high'] as [string, string], fill: own.sum + '26' }]
        : moving
          ? [{ between: ['sure-low', 'sure-high'] as [string, string], fill: own.sum + '26' }]
          : [],
    [growing, moving, own],
  );
  const below = useWindow((state) => state.below);
  const says =
    moving && !growing
      ? `moving microphone: ${moving.averages} averages, sure within ${plain(moving.band_db)} dB`
      : 'filters, microphone and interface divided out';
  return (
    <Stack
      lower={below ? 0.45 : 0}
      head={
        <PlotHead
          title="Bare drivers"
          says={says}
          hint={
            'Each driver as it is. Good: left and right alike, smooth, and far enough over its neighbour ' +
            'where they meet.'
          }
          aside={
            <Aside says={below ? '' : `at −24 dBFS drive · ${project.rig.position.toLowerCase()}`} stage="drivers" />
          }
        />
      }>
      {(height, second) => (
        <>
          <Plot
            name="Bare drivers"
            unit={project.rig.reference ? 'dB SPL' : 'dB SPL, not calibrated'}
            grid={project.grid}
            lines={lines}
            range={range}
            height={height}
            shades={shades}>
            {(geometry) => {
              const { width, bottom } = geometry;
              return (
                <>
                  <GateHatch {...geometry} />
                  {!lines.length ? (
                    <NothingYet x={width / 2} y={bottom / 2}>
                      Each driver stands here once it is recorded: press Space, or bring a file.
                    </NothingYet>
                  ) : (
                    driver && read && !growing && <Usable driver={driver} read={read} width={width} bottom={bottom} />
                  )}
                </>
              );
            }}
          </Plot>
          {below && second > 60 && <Closer project={project} height={second} below={below} />}
        </>
      )}
    </Stack>
  );
}

interface UsableProps {
  driver: Driver;
  read: Project['drivers'][string];
  width: number;
  bottom: number;
}

/** The band that a driver plays, with how sure its ends are: the broad strokes. */
function Usable({ driver, read, width, bottom }: UsableProps) {
  const { own } = useTheme();
  const { low_hz: low, high_hz: high, low_octaves: lowOff, high_octaves: highOff } = read;
  const [from, to] = [inside(low, width), inside(high, width)];
  const about = (hz: number, off: number | null) =>
    off === null ? '' : `M${inside(hz * 2 ** -off, width)} ${bottom - 25}H${inside(hz * 2 ** off, width)}`;
  const sure = lowOff === null || highOff === null ? '' : ` · ends ±${plain(lowOff)} and ±${plain(highOff)} octaves`;
  const middle = Math.min((from + to) / 2, width - RIGHT - 190);
  return (
    <g
      stroke={hueOf(own, driver)}
      fill={hueOf(own, driver)}
      style={{ pointerEvents: 'none' }}
      data-testid="usable-band">
      <path d={`${about(low, lowOff)}${about(high, highOff)}`} fill="none" strokeWidth={6} strokeOpacity={0.3} />
      <path d={`M${from} ${bottom - 30}v10m0 -5H${to}m0 -5v10`} fill="none" strokeWidth={1.5} />
      <text x={Math.max(LEFT + 190, middle)} y={bottom - 34} textAnchor="middle" stroke="none">
        {`${driver.name}: usable from ${hertz(low)} to ${hertz(high)}${sure}`}
      </text>
    </g>
  );
}
