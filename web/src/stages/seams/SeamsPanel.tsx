/** The panel of Seams: corners, slopes, delay and polarity where two ways overlap. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import type { Edit, Facts, Seam } from '../../api/types';
import { Choice, NumberField } from '../../ui/Field';
import { KeyLine, PanelTitle, Row, Section } from '../../ui/Panel';
import { hertz, plain } from '../../ui/format';
import { DIGITS, LENGTHS, millimetres, nextLength } from '../../state/lengths';
import { groupsOf, partsOf, short } from '../../state/system';
import { NO_DRAFT, usePick } from '../../state/window';
import { recordForStage, recordNull, WHOLE } from '../common/doing';
import { Live } from '../common/Live';
import { Scan } from './Scan';
import type { StageProps } from '../props';
import { capital, outerEnds, titleOf, useSeam, useWhole } from './seam';
import { Whole } from './Whole';
import { CrossoverFields } from './CrossoverFields';
import { Offers } from './Offers';

export function SeamsPanel(props: StageProps) {
  const whole = useWhole();
  if (props.work.project.seams.length)
    return (
      <>
        <Which whole={whole} seams={props.work.project.seams} />
        {whole ? <Whole {...props} /> : <OneSeam {...props} />}
      </>
    );
  return (
    <>
      <PanelTitle title="Seam" />
      <Typography sx={{ fontSize: 12.5 }} color="text.secondary">
        A seam is where two ways overlap, or the two sides. This system has one way on one side: there is none.
      </Typography>
    </>
  );
}

/** All of them at once, or one after another. */
function Which({ whole, seams }: { whole: boolean; seams: Seam[] }) {
  const { set } = usePick('set');
  return (
    <ToggleButtonGroup
      exclusive
      fullWidth
      size="small"
      value={whole ? 'whole' : 'one'}
      aria-label="What is aligned"
      onChange={(_e, to) => to && set({ seam: to === 'whole' ? WHOLE : seams[0].id, draft: NO_DRAFT })}>
      <ToggleButton value="one" sx={{ py: 0, fontSize: 12.5, textTransform: 'none' }}>
        One seam
      </ToggleButton>
      <ToggleButton value="whole" sx={{ py: 0, fontSize: 12.5, textTransform: 'none' }}>
        Whole system
      </ToggleButton>
    </ToggleButtonGroup>
  );
}

/** The unit of a path: a press takes the next. */
function LengthChoice() {
  const { length, set } = usePick('length', 'set');
  const { own } = useTheme();
  return (
    <Button
      size="small"
      sx={{ py: 0, minWidth: 0, fontSize: 11.5 }}
      aria-label={`${LENGTHS.join(' ')}: the path is in ${length}`}
      onClick={() => set({ length: nextLength(length) })}>
      {LENGTHS.map((one, n) => (
        <Box key={one} component="span" sx={{ color: one === length ? own.clayText : own.quiet }}>
          {n ? `\u00a0 ${one}` : one}
        </Box>
      ))}
    </Button>
  );
}

/** What the measured null says of the polarity. */
function Nulled({ null: found }: { null: NonNullable<Facts['null']> }) {
  const { own } = useTheme();
  const says = { true: 'polarity right', false: 'polarity wrong', null: 'too little to tell' }[String(found.right)];
  return (
    <Box data-testid="null" sx={{ color: found.right ? own.good : own.clayText }}>
      {`inverted, measured: ${plain(found.depth_db, 0)} dB lower at ${hertz(found.hz)}: ${says}`}
    </Box>
  );
}

function OneSeam({ work, selection }: StageProps) {
  const { project, tune, commit, draft, recording } = work;
  const { own } = useTheme();
  const { seam, name } = useSeam(work);
  const { picture, progress, set } = usePick('picture', 'progress', 'set');
  const facts = picture?.facts.seam === seam.id ? picture.facts : undefined;
  const loss = facts?.loss;
  const siblings = project.seams.filter((one) => seam.name && one.name === seam.name);
  const sided = siblings.length > 1;
  // Where the pills of the strip do not lead to each of them.
  const many =
    groupsOf(project).length > 1 || project.seams.filter((one) => !one.ways && one.group === 'sub').length > 1;
  const limits = project.link.limits;
  const relative = facts?.delay_ms ?? 0;
  const setSeam = (values: { delay_s?: number; path_m?: number; invert?: boolean }, done = true) => {
    const edits: Edit[] = [{ do: 'seam', seam: seam.id, ...values }];
    if (done) void commit(edits);
    else draft(edits);
  };
  const { length } = usePick('length');
  const sample = facts?.sample_mm ?? 1;
  const one = millimetres(length, sample);
  const [more, setMore] = useState(false);
  const outer = outerEnds(project.seams, seam);
  const [lower, upper] = partsOf(project, seam).map((one) => short(one.replace(/ L \+ R$/, '')));
  return (
    <>
      <PanelTitle
        title={many ? 'Seam' : titleOf(project, seam)}
        aside={
          sided && (
            <ToggleButtonGroup
              exclusive
              size="small"
              value={seam.id}
              aria-label="Side of the seam"
              onChange={(_e, id) => id && set({ seam: id })}>
              {siblings.map((one) => (
                <ToggleButton key={one.id} value={one.id} sx={{ py: 0, px: 1, fontSize: 12 }}>
                  {one.side === 'both' ? 'Both' : one.side === 'left' ? 'Left' : 'Right'}
                </ToggleButton>
              ))}
            </ToggleButtonGroup>
          )
        }
      />
      {many && (
        <Row>
          <Choice
            label="Which seam"
            hideLabel
            value={seam.id}
            options={project.seams.map((one) => ({ value: one.id, text: titleOf(project, one) }))}
            onChange={(id) => set({ seam: id })}
          />
        </Row>
      )}
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 2 }} aria-live="polite" data-testid="loss">
        <Typography
          sx={{
            fontSize: 30,
            fontWeight: 600,
            lineHeight: 1,
            whiteSpace: 'nowrap',
            color: loss && loss.mean < 0.5 ? own.good : own.clayText,
          }}>
          {loss ? `${plain(loss.mean)} dB` : '—'}
        </Typography>
        <Box sx={{ fontSize: 12 }}>
          <div>
            {loss
              ? `lost, worst ${plain(loss.worst)} dB at ${hertz(loss.worst_hz)}`
              : 'nothing to judge: the two do not overlap'}
          </div>
          {loss && !facts?.null && (
            <Box color="text.secondary">{`inverted: ${plain(loss.null_db, 0)} dB at ${hertz(loss.null_hz)}`}</Box>
          )}
          {facts?.null && <Nulled null={facts.null} />}
          {facts?.pulse_says && !facts.null && <Box color="text.secondary">{facts.pulse_says}</Box>}
          {facts?.null_says && <Box color="text.secondary">{facts.null_says}</Box>}
        </Box>
      </Box>
      {seam.ways && (
        <>
          <CrossoverFields
            work={work}
            driver={seam.uppers[0]}
            end="high_pass"
            title={`${name(seam.uppers[0])} high-pass`}
            note={sided && tune.tied_sides.includes(seam.name!) ? 'left and right alike' : ''}
          />
          <CrossoverFields
            work={work}
            driver={seam.lowers[0]}
            end="low_pass"
            title={`${name(seam.lowers[0])} low-pass`}
            note={tune.tied_ways.includes(seam.name!) ? 'follows' : ''}
          />
          <Row>
            {(sided ? (['ways', 'sides'] as const) : (['ways'] as const)).map((what) => {
              const tied = (what === 'ways' ? tune.tied_ways : tune.tied_sides).includes(seam.name!);
              return (
                <ToggleButton
                  key={what}
                  value={what}
                  selected={tied}
                  size="small"
                  title={what === 'ways' ? 'Both ends move together' : 'Left and right are set alike'}
                  sx={{ flex: 1, py: 0.25, fontSize: 12, textTransform: 'none' }}
                  onChange={() => void commit([{ do: 'tie', ways: seam.name!, what, tied: !tied }])}>
                  {what === 'ways' ? 'Ends tied' : 'Sides tied'}
                </ToggleButton>
              );
            })}
            {outer.length > 0 && (
              <ToggleButton
                value="outer"
                selected={more}
                size="small"
                aria-expanded={more}
                sx={{ py: 0.25, fontSize: 12, textTransform: 'none' }}
                onChange={() => setMore(!more)}>
                Outer end
              </ToggleButton>
            )}
          </Row>
          {more &&
            outer.map(([driver, end]) => (
              <CrossoverFields
                key={driver + end}
                work={work}
                driver={driver}
                end={end}
                title={`${name(driver)} ${end === 'high_pass' ? 'high-pass' : 'low-pass'}`}
                note="outer end"
              />
            ))}
        </>
      )}
      <Section title={`${capital(upper)} against ${lower}`} aside={<LengthChoice />}>
        <Row>
          <NumberField
            label="Delay"
            unit="ms"
            value={relative}
            digits={3}
            sign
            step={1e3 / limits.rate}
            coarse={1e4 / limits.rate}
            min={-20}
            max={20}
            onCommit={(ms) => setSeam({ delay_s: ms / 1e3 })}
          />
          <NumberField
            label="as path"
            unit={length}
            value={(facts?.path_mm ?? 0) / one}
            digits={DIGITS[length]}
            sign
            step={sample / one}
            coarse={(10 * sample) / one}
            min={-6800 / one}
            max={6800 / one}
            onCommit={(value) => setSeam({ path_m: (value * one) / 1e3 })}
          />
          <ToggleButtonGroup
            exclusive
            size="small"
            value={facts?.inverted ? 'minus' : 'plus'}
            aria-label="Polarity"
            sx={{ height: 30 }}
            onChange={(_e, to) => to && setSeam({ invert: to === 'minus' })}>
            <ToggleButton value="plus" aria-label="Same polarity">
              +
            </ToggleButton>
            <ToggleButton value="minus" aria-label="Opposite polarity">
              −
            </ToggleButton>
          </ToggleButtonGroup>
        </Row>
      </Section>
      {!(more && outer.length) && (
        <Section title="Loss against delay" aside={`dashed: polarity ${facts?.inverted ? '+' : '−'}`}>
          <Scan picture={picture} now={relative} onDrag={(ms, done) => setSeam({ delay_s: ms / 1e3 }, done)} />
        </Section>
      )}
      <Offers work={work} seam={seam} />
      <Row>
        <Button
          variant="contained"
          sx={{ flex: 1 }}
          disabled={recording}
          onClick={() => recordForStage(work, selection)}>
          {project.link.unsent.length ? 'Send and record' : 'Record'}{' '}
          {seam.uppers.length + seam.lowers.length === 2 ? 'both' : 'all'}
        </Button>
        <Button
          variant="outlined"
          disabled={recording}
          title={`Measures with ${upper} inverted, then puts it back: a deep null says that the polarity is right`}
          onClick={() => recordNull(work, seam)}>
          Record the null
        </Button>
      </Row>
      {progress?.message && <Typography sx={{ fontSize: 12.5, color: own.clayText }}>{progress.message}</Typography>}
      <Live work={work} channels={[...seam.lowers, ...seam.uppers]} />
      <KeyLine>P polarity · , . delay · [ ] corner · N next seam · Space record</KeyLine>
    </>
  );
}
