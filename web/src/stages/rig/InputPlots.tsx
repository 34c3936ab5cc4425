/** Rig, any input: its waveform above and its spectrum below, live or of a recording. */
import { useTheme } from '@mui/material/styles';
import { useMemo, type ReactNode } from 'react';
import { Plot } from '../../plot/Plot';
import { WavePlot } from '../../plot/WavePlot';
import { usePick } from '../../state/window';
import { HintToggle } from '../common/Hint';
import { useLines } from '../common/lines';
import { PlotHead } from '../common/PlotHead';
import type { StageProps } from '../props';
import { Stack } from '../common/Stack';

export function InputPlots({ work, head, extra }: StageProps & { head: ReactNode; extra: number }) {
  const { project } = work;
  const { own } = useTheme();
  const { picture, growing, rawMarked, listen, progress, set } = usePick(
    'picture',
    'growing',
    'rawMarked',
    'listen',
    'progress',
    'set',
  );
  const lines = useLines(project, 'main');
  const live = growing !== null;
  const from = live ? growing.curves : picture?.curves;
  const least = from?.find((one) => one.id === 'wave-least');
  const most = from?.find((one) => one.id === 'wave-most');
  const raw = picture?.facts.raw;
  const unit = live ? (progress?.result?.unit ?? 'dBFS') : (raw?.unit ?? 'dBFS');
  const shown = useMemo(
    () =>
      live
        ? lines
            .filter((line) => line.id === 'spectrum' || line.id === 'held')
            .filter((line, n, all) => all.findIndex((one) => one.id === line.id && one.label === line.label) === n)
        : lines,
    [live, lines],
  );
  const range = useMemo<[number, number]>(() => {
    let [top, low] = [-Infinity, Infinity];
    for (const { values } of shown)
      for (let i = 0; i < values.length; i++)
        if (values[i] > -200) [top, low] = [Math.max(top, values[i]), Math.min(low, values[i])];
    const high = Number.isFinite(top) ? Math.ceil((top + 5) / 10) * 10 : 0;
    return [Math.min(high - 40, Math.max(high - 100, Math.floor((low - 5) / 10) * 10)), high];
  }, [shown]);
  const name =
    project.rig.input_names[
      live || !raw ? listen.input : (project.takes.find((one) => one.id === raw.take_id)?.input ?? 0)
    ] ?? 'Input';
  return (
    <Stack
      lower={0.5}
      extra={extra}
      head={
        <>
          {head}
          <PlotHead
            title={name}
            says={live ? 'as it is now' : raw ? `take ${raw.take_id}, as it came in` : 'nothing recorded yet'}
            smoothed={false}
            aside={<HintToggle />}
            hint={
              'What the input hears, untouched. Good: peaks well under 100 %, a quiet floor, no row of ' +
              'needles at 50 or 60 Hz and their multiples.'
            }
          />
        </>
      }>
      {(main, second) => (
        <>
          {least?.x && most ? (
            <WavePlot
              name="Waveform"
              x={least.x}
              least={least.values}
              most={most.values}
              height={main}
              span={live ? [least.x[0], least.x[least.x.length - 1]] : (raw?.shown ?? [0, 1])}
              whole={live ? [least.x[0], least.x[least.x.length - 1]] : [0, raw?.seconds ?? 1]}
              marked={live ? [0, 0] : rawMarked}
              onSpan={live ? undefined : (span) => set({ rawShown: span })}
              onMark={live ? undefined : (span) => set({ rawMarked: span })}
            />
          ) : (
            <svg width="100%" height={main}>
              <text x="50%" y="50%" textAnchor="middle" fill={own.quiet} fontSize={12.5}>
                Listen to an input or record it: its waveform stands here.
              </text>
            </svg>
          )}
          <Plot name="Spectrum" unit={unit} grid={project.grid} lines={shown} range={range} height={second} step={20} />
        </>
      )}
    </Stack>
  );
}
