/** Record the whole or a part, and see whether what was predicted came true. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useMemo } from 'react';
import { client, settled } from '../../api/client';
import { Choice, NumberField } from '../../ui/Field';
import { Figure, KeyLine, Row, Section } from '../../ui/Panel';
import { clock, hertz, minus, plain, signed } from '../../ui/format';
import { Plot } from '../../plot/Plot';
import { levelRange, toX } from '../../plot/scale';
import { hasSides } from '../../state/system';
import { useWindow, usePick } from '../../state/window';
import { fitMeasured, proofChannels, recordForStage, recordThroughSource } from '../common/doing';
import { useLines } from '../common/lines';
import { Aside } from '../common/BelowChoice';
import { Live } from '../common/Live';
import { Under } from '../common/Under';
import { GateHatch } from '../common/GateHatch';
import { PlotHead } from '../common/PlotHead';
import { RunBox } from '../common/RunBox';
import { Stack } from '../common/Stack';
import type { StageProps } from '../props';
import { hueOf } from '../../ui/theme';
import { NothingYet } from '../common/NothingYet';

export function MeasurePlots({ work }: StageProps) {
  const { project } = work;
  const { own } = useTheme();
  const { picture, low, high } = usePick('picture', 'low', 'high');
  const main = useLines(project, 'main');
  const lower = useLines(project, 'lower');
  const range = useMemo(() => levelRange(main, 45), [main]);
  const take = picture?.facts.take;
  const shades = useMemo(
    () => [{ between: ['measured', 'predicted'] as [string, string], fill: `${own.clay}77` }],
    [own],
  );
  const span = (width: number, top: number, bottom: number) => (
    <g fill={own.ground} opacity={0.55} style={{ pointerEvents: 'none' }}>
      <rect x={toX(20, width)} width={Math.max(0, toX(low, width) - toX(20, width))} y={top} height={bottom - top} />
      <rect
        x={toX(high, width)}
        width={Math.max(0, toX(20000, width) - toX(high, width))}
        y={top}
        height={bottom - top}
      />
    </g>
  );
  const names = take?.channels.map((id) => project.layout.drivers.find((one) => one.id === id)?.name).join(', ');
  const whole = take?.channels.length === project.layout.drivers.length;
  return (
    <Stack
      lower={0.3}
      head={
        <PlotHead
          title="Measured against predicted"
          says={take ? (whole ? 'the whole system' : names) : 'nothing recorded yet: the prediction is drawn'}
          aside={<Aside says={take ? `recorded ${clock(take.made)}` : ''} stage="proof" />}
          hint={
            'What was measured with everything playing. ' +
            'Good: lies on the prediction, and within the target’s band.'
          }
        />
      }>
      {(height, second) => (
        <>
          <Plot
            name="Measured, predicted and target"
            unit="dB SPL"
            grid={project.grid}
            lines={main}
            range={range}
            height={height}
            shades={shades}>
            {(geometry) => (
              <>
                {span(geometry.width, geometry.top, geometry.bottom)}
                <GateHatch {...geometry} />
              </>
            )}
          </Plot>
          <Under project={project} height={second}>
            <Plot
              spans={false}
              name="Measured minus predicted"
              unit="measured minus predicted, dB"
              grid={project.grid}
              lines={lower}
              range={[-6, 6]}
              step={3}
              height={second}
              readings={false}>
              {({ width, top, bottom, y }) => (
                <>
                  <rect
                    x={toX(20, width)}
                    width={toX(20000, width) - toX(20, width)}
                    y={y(1)}
                    height={y(-1) - y(1)}
                    fill={own.good}
                    opacity={0.12}
                  />
                  {span(width, top, bottom)}
                  {!take && (
                    <NothingYet x={width / 2} y={(top + bottom) / 2}>
                      Record the whole to see how far it strays from the prediction.
                    </NothingYet>
                  )}
                </>
              )}
            </Plot>
          </Under>
        </>
      )}
    </Stack>
  );
}

export function MeasurePanel({ work, selection }: StageProps) {
  const { project, recording } = work;
  const { own } = useTheme();
  const { picture, progress, proofMethod, low, high, set } = usePick(
    'picture',
    'progress',
    'proofMethod',
    'low',
    'high',
    'set',
  );
  useWindow((state) => state.proofChannels);
  const facts = picture?.facts;
  const chosen = proofChannels(project);
  const drivers = project.layout.drivers;
  const takes = project.takes.filter((one) => one.purpose === 'proof' && !one.discarded);
  const unsent = project.link.unsent.length;
  const all = chosen.length === drivers.length;
  const flip = (id: string) =>
    set({
      proofChannels: chosen.includes(id)
        ? chosen.filter((one) => one !== id)
        : drivers.map((d) => d.id).filter((one) => chosen.includes(one) || one === id),
    });
  const sided = hasSides(project);
  const only = (keep: (side: string) => boolean) =>
    set({ proofChannels: drivers.filter((d) => keep(d.side)).map((d) => d.id) });
  const dev = facts?.deviation;
  const came = facts?.prediction;
  const whole = takes.some((one) => one.method === 'moving' && one.channels.length === drivers.length);
  return (
    <>
      <Section title="Channels that play" aside={all ? 'the whole' : `${chosen.length} of ${drivers.length}`}>
        <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5 }}>
          {drivers.map((driver) => (
            <ToggleButton
              key={driver.id}
              value={driver.id}
              size="small"
              selected={chosen.includes(driver.id)}
              onChange={() => flip(driver.id)}
              sx={{
                py: 0.1,
                px: 0.9,
                fontSize: 12,
                textTransform: 'none',
                borderColor: hueOf(own, driver),
                color: 'text.secondary',
                '&.Mui-selected': { color: 'text.primary' },
              }}>
              {driver.name}
            </ToggleButton>
          ))}
        </Box>
        <Box sx={{ display: 'flex', gap: 0.5, mt: 0.5 }}>
          <Button size="small" onClick={() => set({ proofChannels: null })}>
            All
          </Button>
          {sided && (
            <>
              <Button size="small" onClick={() => only((side) => side !== 'right')}>
                Left and sub
              </Button>
              <Button size="small" onClick={() => only((side) => side !== 'left')}>
                Right and sub
              </Button>
            </>
          )}
        </Box>
      </Section>
      {unsent > 0 && (
        <Typography sx={{ fontSize: 12.5, color: own.clayText }}>
          {`${unsent} changes are not in the processor yet. A ` +
            `recording measures the processor, so they are sent first.`}
        </Typography>
      )}
      {recording && progress && progress.kind !== 'live' ? (
        <RunBox work={work} progress={progress} />
      ) : (
        <Box sx={{ display: 'flex', flexDirection: 'column', gap: 0.75 }}>
          <Choice
            label="Method"
            hideLabel
            value={proofMethod}
            options={[
              { value: 'sweep', text: 'Sweep, microphone still' },
              { value: 'moving', text: 'Pink noise, microphone moving' },
            ]}
            onChange={(value) => set({ proofMethod: value })}
          />
          <Button
            variant="contained"
            disabled={!chosen.length}
            onClick={() => recordForStage(work, selection)}
            data-testid="record-proof">
            {`${unsent ? 'Send and record' : 'Record'} ${all ? 'the whole' : 'these'}`}
          </Button>
          {project.stages.source !== '—' && (
            <Button
              variant="outlined"
              disabled={!chosen.length}
              title="The source plays its track through its own wires and the inputs as set. The level is matched."
              onClick={() => recordThroughSource(work, chosen)}
              data-testid="proof-by-source">
              {`${unsent ? 'Send, then let' : 'Let'} the source play it`}
            </Button>
          )}
        </Box>
      )}
      {progress?.purpose === 'proof' && progress.message && (
        <Typography role="status" sx={{ fontSize: 12.5, color: own.clayText }}>
          {progress.message}
        </Typography>
      )}
      <Section title="Figures" aside={`${hertz(dev?.low_hz ?? low)} to ${hertz(dev?.high_hz ?? high)}`}>
        {dev && (
          <Box
            sx={{ fontSize: 26, fontWeight: 600, color: dev.plus_minus <= 3 ? own.good : own.clayText }}
            data-testid="plus-minus">{`±${plain(dev.plus_minus)} dB`}</Box>
        )}
        {dev ? (
          <>
            <Figure name="about the target, level difference" value={`${signed(dev.mean)} dB`} />
            <Figure
              name="farthest from the target as placed"
              value={`${plain(dev.worst)} dB`}
              tone={dev.worst <= 3 ? 'good' : 'clay'}
            />
          </>
        ) : (
          <Typography sx={{ fontSize: 12.5 }} color="text.secondary">
            They stand here when something was recorded.
          </Typography>
        )}
        {came && (
          <Figure
            name="measured against predicted, rms"
            value={`${plain(came.rms, 2)} dB`}
            tone={came.rms <= 0.5 ? 'good' : 'clay'}
          />
        )}
        {came && (
          <Figure name="at worst" value={`${plain(came.worst, 2)} dB`} tone={came.worst <= 1.5 ? 'good' : 'clay'} />
        )}
        {facts?.sides_db !== undefined && (
          <Figure
            name={`left against right, ${facts.sides_measured ? 'measured' : 'predicted'}, rms`}
            value={`${plain(facts.sides_db)} dB`}
            tone={facts.sides_db <= 1.5 ? 'good' : 'clay'}
          />
        )}
        {facts?.sides_measured && (facts.sides_db ?? 0) > 0 && (
          <Button
            size="small"
            variant="outlined"
            disabled={recording}
            data-testid="match-sides"
            title="Bands of opposite gains, half on each side, as a moving microphone measured both; send after it"
            onClick={() =>
              void work.act(() =>
                settled(client.POST('/api/projects/{slug}/sides', { params: { path: { slug: work.slug } } })),
              )
            }>
            Match both sides
          </Button>
        )}
        {facts?.parting?.says && (
          <Typography sx={{ fontSize: 12.5, color: own.clayText, mt: 0.5 }} data-testid="parting">
            {minus(`It looks like this: ${facts.parting.says}.`)}
          </Typography>
        )}
      </Section>
      {whole && (
        <Button
          variant="outlined"
          disabled={recording}
          data-testid="fit-measured"
          title="The bands common to all channels, to what the moving microphone heard; send and record again after it"
          onClick={() => void fitMeasured(work)}>
          Fit what was measured
        </Button>
      )}
      <Row>
        <NumberField
          label="Span from"
          unit="Hz"
          value={low}
          digits={0}
          factor
          step={1 / 12}
          coarse={1 / 3}
          min={20}
          max={high}
          onCommit={(value) => set({ low: value })}
        />
        <NumberField
          label="to"
          unit="Hz"
          value={high}
          digits={0}
          factor
          step={1 / 12}
          coarse={1 / 3}
          min={low}
          max={20000}
          onCommit={(value) => set({ high: value })}
        />
      </Row>
      {takes.length > 0 && (
        <Choice
          label="Recording"
          value={facts?.take?.id ?? takes[0].id}
          options={takes.map((one) => ({
            value: one.id,
            text:
              `${clock(one.made)} · ` +
              (one.channels.length === drivers.length
                ? 'the whole'
                : one.channels.map((id) => drivers.find((d) => d.id === id)?.name).join(', ')),
          }))}
          onChange={(id) => set({ proofTake: Number(id) })}
        />
      )}
      {!(recording && progress?.kind !== 'live') && <Live work={work} channels={all ? [] : chosen} />}
      <KeyLine>Space record and stop · Ctrl K find an action</KeyLine>
    </>
  );
}
