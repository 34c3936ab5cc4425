/** What Voice shows: the channel against its target, and its correction below. */
import { useTheme } from '@mui/material/styles';
import { useMemo, useRef, useState } from 'react';
import type { Edit } from '../../api/types';
import { hertz, plain } from '../../ui/format';
import { drag } from '../../plot/drag';
import { Plot } from '../../plot/Plot';
import type { Geometry } from '../../plot/parts';
import { levelRange, toX } from '../../plot/scale';
import { usePick, useWindow } from '../../state/window';
import { useLines } from '../common/lines';
import { Aside } from '../common/BelowChoice';
import { BandHandle } from '../common/BandHandle';
import { Under } from '../common/Under';
import { PlotHead } from '../common/PlotHead';
import { Stack } from '../common/Stack';
import type { StageProps } from '../props';
import { bandsOf, putBand } from './bands';
import { BendHandles } from './BendHandles';
import { LeftAlone } from './LeftAlone';
import { TapLimits } from './TapLimits';
import { TapTolerance } from './TapTolerance';
import { hueOf } from '../../ui/theme';

export function VoicePlots({ work, selection }: StageProps) {
  const { project, tune, draft, commit } = work;
  const { own } = useTheme();
  const picture = useWindow((state) => state.picture);
  const limit = useWindow((state) => state.limits.boost_db);
  const leftAlone = useWindow((state) => state.leftAlone);
  const dips = leftAlone?.about === selection ? leftAlone.dips : [];
  const main = useLines(project, 'main');
  const lower = useLines(project, 'lower');
  const band = useWindow((state) => state.band);
  const bending = useWindow((state) => state.bending);
  const { taps, wish, set } = usePick('taps', 'wish', 'set');
  const range = useMemo(
    () =>
      levelRange(
        main.filter((line) => line.id !== 'own-target'),
        45,
      ),
    [main],
  );
  const held = useRef<[number, number] | null>(null);
  const [moving, setMoving] = useState(false);
  const driver = project.layout.drivers.find((one) => one.id === selection);
  const facts = picture?.facts;
  const bands = bandsOf(work, selection);
  const dev = facts?.deviation;
  const says = dev
    ? `${bands.length} bands · within ±${plain(dev.plus_minus)} dB ` +
      `of target from ${hertz(dev.low_hz)} to ${hertz(dev.high_hz)}`
    : 'no take yet';
  const line = main.find((one) => one.id === 'target');
  // While taps level a channel it is their limits that are drawn, and dragged.
  const levels = taps && wish.magnitude;
  const limits = levels ? [wish, ...wish.bounds] : [];
  const corrects: [number, number] = [
    Math.min(-13, ...limits.map((one) => -one.cut_db - 3)),
    Math.max(7, ...limits.map((one) => one.boost_db + 3)),
  ];
  const shown = moving && held.current ? held.current : range;

  const targetLine = ({ width, y, bottom, top }: Geometry) => {
    if (!line) return null;
    const points: string[] = [];
    const over: string[] = [];
    const under: string[] = [];
    for (let i = 0; i < project.grid.length; i += 8) {
      const px = toX(project.grid[i], width);
      points.push(`${px},${y(line.values[i])}`);
      over.push(`${px},${y(line.values[i] + 1.5)}`);
      under.unshift(`${px},${y(line.values[i] - 1.5)}`);
    }
    const move = (level_db: number): Edit[] => [{ do: 'target', level_db }];
    return (
      <g
        role="slider"
        tabIndex={0}
        aria-label="Target level"
        aria-valuenow={tune.target.level_db}
        aria-valuetext={`${plain(tune.target.level_db)} dB at 1 kHz`}
        style={{ cursor: 'ns-resize' }}
        data-testid="target-line"
        onKeyDown={(event) => {
          const way = { ArrowUp: 1, ArrowDown: -1 }[event.key];
          if (!way) return;
          event.preventDefault();
          event.stopPropagation();
          void commit(move(tune.target.level_db + way * (event.shiftKey ? 1 : 0.1)));
        }}
        onPointerDown={(event) => {
          const from = tune.target.level_db;
          const scale = (shown[1] - shown[0]) / (bottom - top);
          const box = event.currentTarget.ownerSVGElement!.getBoundingClientRect();
          const begun = event.clientY - box.top;
          let to = from;
          held.current = shown;
          setMoving(true);
          drag(
            event,
            (_x, py) => {
              to = Math.round((from + (begun - py) * scale) * 10) / 10;
              draft(move(to));
            },
            () => {
              held.current = null;
              setMoving(false);
              if (to !== from) void commit(move(to));
            },
          );
        }}>
        {!levels && <polygon points={[...over, ...under].join(' ')} fill={own.clay} opacity={0.16} />}
        <polyline points={points.join(' ')} fill="none" stroke="transparent" strokeWidth={16} />
      </g>
    );
  };
  const bends = (geometry: Geometry) => {
    if (!line || !bending) return null;
    const nearest = (at: number) => {
      const n = project.grid.findIndex((one) => one >= at);
      return line.values[n < 0 ? project.grid.length - 1 : n];
    };
    return (
      <BendHandles
        bends={tune.target.bends}
        level={nearest}
        geometry={geometry}
        perPixel={(shown[1] - shown[0]) / (geometry.bottom - geometry.top)}
        hold={(on) => {
          held.current = on ? shown : null;
          setMoving(on);
        }}
        change={(next, done) => {
          const edits: Edit[] = [{ do: 'target', bends: next }];
          if (done) void commit(edits);
          else draft(edits);
        }}
      />
    );
  };
  return (
    <Stack
      lower={0.34}
      head={
        <PlotHead
          title={driver ? driver.name : 'All channels'}
          says={says}
          aside={<Aside says="predicted" stage="voice" />}
          hint="What the microphone will hear against the target. Good: within the band; narrow dips are left alone."
        />
      }>
      {(height, second) => (
        <>
          <Plot
            name="Level against the target"
            unit="dB SPL"
            grid={project.grid}
            lines={main}
            range={shown}
            height={height}>
            {(geometry) => (
              <>
                {targetLine(geometry)}
                {levels && line && (
                  <TapTolerance geometry={geometry} range={shown} grid={project.grid} target={line.values} />
                )}
                {bends(geometry)}
                <LeftAlone dips={dips} geometry={geometry} />
              </>
            )}
          </Plot>
          <Under project={project} height={second}>
            <Plot
              name="Correction"
              unit="correction, dB"
              grid={project.grid}
              lines={lower}
              range={corrects}
              step={corrects[1] - corrects[0] > 30 ? 6 : 3}
              height={second}
              readings={false}>
              {(geometry) => (
                <>
                  {levels ? (
                    <TapLimits geometry={geometry} range={corrects} />
                  ) : (
                    <BoostLimit geometry={geometry} limit={limit} />
                  )}
                  {bands.map((one, n) => (
                    <BandHandle
                      key={n}
                      one={one}
                      can={project.link.limits}
                      n={n}
                      chosen={band === n}
                      colour={driver ? hueOf(own, driver) : own.sum}
                      geometry={geometry}
                      range={corrects}
                      choose={() => set({ band: n })}
                      change={(next, done) =>
                        done ? void commit([putBand(selection, n, next)]) : draft([putBand(selection, n, next)])
                      }
                      remove={() => void commit([putBand(selection, n, null)])}
                    />
                  ))}
                </>
              )}
            </Plot>
          </Under>
        </>
      )}
    </Stack>
  );
}

/** What a fit may not reach, above its limit. */
function BoostLimit({ geometry, limit }: { geometry: Geometry; limit: number }) {
  const { own } = useTheme();
  const left = toX(20, geometry.width);
  return (
    <>
      <rect
        x={left}
        width={toX(20000, geometry.width) - left}
        y={geometry.top}
        height={Math.max(0, geometry.y(limit) - geometry.top)}
        fill={own.clay}
        opacity={0.1}
        style={{ pointerEvents: 'none' }}
      />
      <text
        x={geometry.width - 20}
        y={geometry.top + 15}
        textAnchor="end"
        fill={own.clayText}>{`above the ${plain(limit, 0)} dB boost limit`}</text>
    </>
  );
}
