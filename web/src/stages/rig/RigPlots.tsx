/** Rig: the ready line, and what is divided out of every take: microphone and interface. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useMemo } from 'react';
import type { Rig } from '../../api/types';
import { minus } from '../../ui/format';
import { Plot } from '../../plot/Plot';
import { useWindow, usePick } from '../../state/window';
import { HintToggle } from '../common/Hint';
import { useLines } from '../common/lines';
import { InputPlots } from './InputPlots';
import { PlotHead } from '../common/PlotHead';
import type { StageProps } from '../props';
import { Stack } from '../common/Stack';
import { NothingYet } from '../common/NothingYet';

const LINE_HEIGHT = 78;

export function RigPlots(props: StageProps) {
  const part = useWindow((state) => state.part);
  return part === 'input' ? (
    <InputPlots {...props} head={<ReadyLine rig={props.work.project.rig} />} extra={LINE_HEIGHT} />
  ) : (
    <CorrectionPlots {...props} />
  );
}

function CorrectionPlots({ work }: StageProps) {
  const { project } = work;
  const part = useWindow((state) => state.part);
  const lines = useLines(project, 'main');
  const lower = useLines(project, 'lower');
  const range = useMemo<[number, number]>(() => {
    let most = 5;
    for (const { values } of lines)
      for (let i = 0; i < values.length; i++)
        if (Number.isFinite(values[i])) most = Math.max(most, Math.abs(values[i]));
    const top = Math.min(40, Math.ceil((most + 0.5) / 5) * 5);
    return [-top, top];
  }, [lines]);
  const two = part === 'level' && lower.length > 0;
  return (
    <Stack
      head={
        <>
          <ReadyLine rig={project.rig} />
          <PlotHead
            title="Divided out of every take"
            says="what the microphone and the interface add"
            smoothed={false}
            hint={
              'What the microphone and the sound card add of their own. Good: flat within a few dB; it is ' +
              'taken out of every take.'
            }
            aside={
              <>
                <HintToggle /> <ToInput />
              </>
            }
          />
        </>
      }
      lower={two ? 0.42 : 0}
      extra={LINE_HEIGHT}>
      {(main, second) => (
        <>
          <Plot name="Corrections" unit="dB" grid={project.grid} lines={lines} range={range} height={main} step={5}>
            {({ width, bottom }) =>
              !lines.length && (
                <NothingYet x={width / 2} y={bottom / 2}>
                  The microphone’s correction and the interface’s own response stand here once they are known.
                </NothingYet>
              )
            }
          </Plot>
          {two && (
            <Plot
              spans={false}
              name="Signal over noise"
              unit="dB over noise"
              grid={project.grid}
              lines={lower}
              range={[0, 80]}
              height={second}
              step={20}
            />
          )}
        </>
      )}
    </Stack>
  );
}

/** From the rig to any of its inputs as it is, and back. */
function ToInput() {
  const { set } = usePick('set');
  return (
    <Button variant="outlined" size="small" onClick={() => set({ part: 'input' })} data-testid="any-input">
      Look at any input
    </Button>
  );
}

const WORDS = { set: 'set', stale: 'stale', missing: 'to do' } as const;

/** What is set, what is stale, what is missing: at a glance, and the way to each. */
function ReadyLine({ rig }: { rig: Rig }) {
  const { own } = useTheme();
  const { part, set } = usePick('part', 'set');
  const tone = { set: own.good, stale: own.clay, missing: own.quiet };
  return (
    <Box
      component="nav"
      aria-label="Ready line"
      sx={{ height: LINE_HEIGHT, display: 'flex', gap: '4px', pl: '52px', pr: '12px', pt: 1.5, alignItems: 'stretch' }}>
      {rig.ready.map((one) => (
        <ButtonBase
          key={one.key}
          onClick={() => set({ part: one.key })}
          aria-current={one.key === part ? 'true' : undefined}
          data-testid={`ready-${one.key}`}
          data-state={one.state}
          title={one.says}
          sx={{
            flex: 1,
            minWidth: 0,
            display: 'flex',
            flexDirection: 'column',
            alignItems: 'stretch',
            justifyContent: 'flex-start',
            textAlign: 'left',
            px: 1,
            pt: 0.5,
            borderRadius: 1,
            bgcolor: one.key === part ? own.raised : own.panel,
            borderTop: `3px solid ${tone[one.state]}`,
            outline: one.key === part ? `1px solid ${own.clay}` : 'none',
            outlineOffset: '-1px',
          }}>
          {/* Where both do not fit, the word wraps out of sight: the colour and the second line say the same. */}
          <Box
            sx={{
              display: 'flex',
              flexWrap: 'wrap',
              columnGap: 0.5,
              justifyContent: 'space-between',
              height: 17,
              overflow: 'hidden',
            }}>
            <Typography noWrap sx={{ fontSize: 12.5, fontWeight: 600, lineHeight: '17px' }}>
              {one.name}
            </Typography>
            <Typography
              sx={{
                fontSize: 11,
                lineHeight: '17px',
                color: one.state === 'set' ? own.good : one.state === 'stale' ? own.clayText : own.quiet,
              }}>
              {WORDS[one.state]}
            </Typography>
          </Box>
          <Typography
            sx={{
              fontSize: 11,
              lineHeight: '14px',
              display: '-webkit-box',
              WebkitLineClamp: 2,
              WebkitBoxOrient: 'vertical',
              overflow: 'hidden',
            }}
            color="text.secondary">
            {minus(one.says)}
          </Typography>
        </ButtonBase>
      ))}
    </Box>
  );
}
