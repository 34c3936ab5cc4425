/** The panel of Voice: the work order, level and target, the fit and its bands. */
import AddIcon from '@mui/icons-material/AddOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import ToggleButton from '@mui/material/ToggleButton';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import { client, settled } from '../../api/client';
import { formWith } from '../../api/files';
import type { Band } from '../../api/types';
import { FileInput, useFile } from '../../ui/FileInput';
import { Choice, NumberField } from '../../ui/Field';
import { KeyLine, PanelTitle, Row, Section } from '../../ui/Panel';
import { hertz, plain, signed, stepOf } from '../../ui/format';
import { alike, placesOf } from '../../state/system';
import { usePick } from '../../state/window';
import { fitSelection, fittedOf } from '../common/doing';
import { Live } from '../common/Live';
import type { StageProps } from '../props';
import { bandsOf, putBand } from './bands';
import { BandRow } from '../common/BandRow';
import { Bending } from './Bending';
import { FitLimits } from './FitLimits';
import { ThirdOctaves } from './ThirdOctaves';
import { PairTie } from './PairTie';
import { Taps } from './Taps';
import { Turning } from './Turning';

export function VoicePanel({ work, selection }: StageProps) {
  const { project, tune, slug, commit, act } = work;
  const { own } = useTheme();
  const { picture, progress, together, before, leftAlone, bending, width, thirds, taps, below, set } = usePick(
    'picture',
    'progress',
    'together',
    'before',
    'leftAlone',
    'bending',
    'width',
    'thirds',
    'taps',
    'below',
    'set',
  );
  const [fitting, setFitting] = useState(false);
  const facts = picture?.facts;
  const left = leftAlone?.about === selection ? leftAlone.dips : [];
  const listening = work.recording && progress?.kind === 'live';
  const driver = project.layout.drivers.find((one) => one.id === selection);
  const bands = bandsOf(work, selection);
  const can = project.link.limits;
  const room =
    can.bands -
    (selection
      ? bands.length + tune.common.length
      : bands.length + Math.max(...Object.values(tune.channels).map((c) => c.bands.length)));
  const tapped = taps && can.taps > 0;
  const pair = driver && driver.side !== 'both';
  const fit = async (like?: string) => {
    setFitting(true);
    await fitSelection(work, selection, like);
    setFitting(false);
  };
  const partner = driver && alike(project, driver).find((one) => one.id !== driver.id);
  const partnerSet = partner && tune.channels[partner.id].bands.length > 0;
  const copy = () =>
    partner && void commit([{ do: 'bands', channel: partner.id, bands }], `Bands of ${driver.name} to ${partner.name}`);
  const fitEach = async () => {
    setFitting(true);
    for (const one of order) if (!(await fitSelection(work, one))) break;
    setFitting(false);
  };
  const order = project.work_order;
  const load = (file: File) => {
    void act(async () => {
      const form = formWith(file);
      const added = await settled<{ key: string; understood: string }>(
        client.POST('/api/projects/{slug}/targets', { params: { path: { slug } }, body: form as never }),
      );
      set({ understood: `Read ${added.understood}.` });
      return settled(
        client.POST('/api/projects/{slug}/edits', {
          params: { path: { slug } },
          body: { edits: [{ do: 'target', curve: added.key }] },
        }),
      );
    });
  };
  const file = useFile();
  const price = facts?.price;
  const head = facts?.headroom;
  const headTitle =
    head &&
    `A sine at ${hertz(head.sine_hz)} peaks at ${signed(head.sine_db)} dB over full scale, ` +
      `a sweep at ${signed(head.sweep_db)} dB, pink noise at ${signed(head.pink_db)} dB`;
  const gain = driver ? tune.channels[driver.id].gain_db : 0;
  const name = (id: string) => project.layout.drivers.find((one) => one.id === id)!.name;
  const fresh: Band = {
    kind: 'peaking',
    frequency_hz: driver
      ? Math.round(Math.sqrt((facts?.deviation?.low_hz ?? 200) * (facts?.deviation?.high_hz ?? 5000)))
      : 1000,
    gain_db: -3,
    q: 2,
    off: false,
  };
  const fittedNow = fittedOf(project, selection);
  const places = placesOf(project, fittedNow.length ? fittedNow : project.layout.drivers.map((one) => one.id));
  const tied = driver !== undefined && tune.tied_bands.includes(driver.id);
  const pairName = driver && (together || tied) && pair ? `${driver.name.replace(/ [LR]$/, '')} L + R` : driver?.name;
  const fitted = pairName ?? 'all channels';
  return (
    <>
      <PanelTitle title="Work order" aside="far side first" />
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: '3px' }}>
        {[...order, ''].map((id) => (
          <ButtonBase
            key={id || 'all'}
            onClick={() => set({ selection: id, band: null })}
            aria-pressed={selection === id}
            data-testid={`voice-${id || 'all'}`}
            sx={{
              justifyContent: 'space-between',
              px: 1,
              height: 25,
              borderRadius: 0.75,
              bgcolor: own.raised,
              fontSize: 12.5,
              outline: selection === id ? `1px solid ${own.clay}` : 'none',
            }}>
            <span>{id ? name(id) : 'All channels'}</span>
            <Box component="span" sx={{ color: 'text.secondary', fontSize: 11 }}>
              {id
                ? tune.channels[id].bands.length
                  ? `${plain(tune.channels[id].gain_db)} dB`
                  : '—'
                : tune.common.length
                  ? `${tune.common.length} bands`
                  : 'last'}
            </Box>
          </ButtonBase>
        ))}
      </Box>
      {!tapped && (
        <Section
          title="Target"
          aside={
            <>
              <Button
                size="small"
                aria-expanded={bending}
                sx={{ py: 0, fontSize: 11.5, minWidth: 0 }}
                onClick={() => set({ bending: !bending })}>
                {bending ? 'Done bending' : 'Bend it'}
              </Button>
              <Button size="small" sx={{ py: 0, fontSize: 11.5 }} onClick={() => file.ask()}>
                Load a text file
              </Button>
            </>
          }>
          <FileInput file={file} accept=".txt,.csv,text/plain" testId="load-target" onBring={load} />
          <Row>
            <Box sx={{ flex: 1.5 }}>
              <Choice
                label="Curve"
                value={tune.target.curve}
                options={project.targets.map((one) => ({ value: one.key, text: one.name }))}
                onChange={(curve) => void commit([{ do: 'target', curve }])}
              />
            </Box>
            <NumberField
              label="Level at 1 kHz"
              unit="dB"
              value={tune.target.level_db}
              step={0.1}
              coarse={1}
              min={0}
              max={140}
              onCommit={(level_db) => void commit([{ do: 'target', level_db }])}
            />
          </Row>
          {bending && <Bending work={work} />}
          {price && !bending && (
            <Typography sx={{ fontSize: 12, mt: 0.5 }} color="text.secondary">
              {`Before correction ${plain(Math.max(0, -price.lowest))} dB short of it at the lowest, `}
              {`${plain(Math.max(0, price.highest))} dB over it at the highest. ${
                price.highest <= 0.5
                  ? 'All boost: lower the target to win headroom.'
                  : price.lowest >= -0.5
                    ? 'All cut: this costs loudness.'
                    : ''
              }`}
            </Typography>
          )}
        </Section>
      )}
      {driver && (
        <Row>
          <NumberField
            label={`Gain of ${driver.name}`}
            unit="dB"
            value={gain}
            sign
            step={stepOf(can.gain_db)}
            coarse={10 * stepOf(can.gain_db)}
            min={can.gain_db.least}
            max={can.gain_db.most}
            onCommit={(gain_db) => void commit([{ do: 'channel', channel: driver.id, gain_db }])}
          />
          <NumberField
            label="Delay"
            unit="ms"
            value={tune.channels[driver.id].delay_s * 1e3}
            digits={3}
            step={1e3 / can.rate}
            coarse={1e4 / can.rate}
            min={0}
            max={can.delay_s.most * 1e3}
            onCommit={(ms) => void commit([{ do: 'channel', channel: driver.id, delay_s: ms / 1e3 }])}
          />
          {partner && <PairTie work={work} driver={driver} partner={partner} what="level" />}
        </Row>
      )}
      {tapped ? (
        <Section
          title="FIR taps"
          aside={
            <Link
              component="button"
              sx={{ fontSize: 'inherit', verticalAlign: 'baseline' }}
              title="Bands and their fit again"
              onClick={() => set({ taps: false, below: '' })}>
              bands
            </Link>
          }>
          <Taps work={work} selection={selection} />
        </Section>
      ) : (
        <>
          <Section
            title={selection ? 'Bands' : 'Common bands'}
            aside={
              <>
                {`${room} free · `}
                <Link
                  component="button"
                  sx={{ fontSize: 'inherit', verticalAlign: 'baseline' }}
                  title="How the width of a band is told: press for the other way"
                  onClick={() => set({ width: width === 'Q' ? 'octaves' : 'Q' })}>
                  {width === 'Q' ? 'width as Q' : 'in octaves'}
                </Link>
                {' · '}
                <Link
                  component="button"
                  sx={{ fontSize: 'inherit', verticalAlign: 'baseline' }}
                  aria-pressed={thirds}
                  title="All third octaves beside each other, or the bands one by one"
                  onClick={() => set({ thirds: !thirds })}>
                  {thirds ? 'bands' : 'third octaves'}
                </Link>
                {can.taps > 0 && (
                  <>
                    {' · '}
                    <Link
                      component="button"
                      sx={{ fontSize: 'inherit', verticalAlign: 'baseline' }}
                      title="FIR taps: phase, which bands cannot correct"
                      onClick={() => set({ taps: true, below: below || 'phase' })}>
                      taps
                    </Link>
                  </>
                )}
              </>
            }>
            {thirds ? (
              <ThirdOctaves work={work} selection={selection} bands={bands} room={room} />
            ) : (
              <>
                <Box
                  role="list"
                  sx={{ maxHeight: 100, overflowY: 'auto', display: 'flex', flexDirection: 'column', gap: '2px' }}
                  tabIndex={0}
                  aria-label="Bands">
                  {bands.map((one, n) => (
                    <BandRow
                      key={n}
                      one={one}
                      n={n}
                      can={can}
                      put={(next) => void commit([putBand(selection, n, next)])}
                    />
                  ))}
                </Box>
                <Button
                  size="small"
                  startIcon={<AddIcon />}
                  disabled={room <= 0}
                  onClick={() =>
                    void commit([putBand(selection, bands.length, fresh)]).then(() => set({ band: bands.length }))
                  }>
                  Add a band
                </Button>
              </>
            )}
            {partner && !tied && bands.length > 0 && (
              <Button size="small" title={`${partner.name} gets these bands in the place of its own`} onClick={copy}>
                {`Copy to ${partner.name}`}
              </Button>
            )}
            {partner && <PairTie work={work} driver={driver} partner={partner} what="bands" />}
          </Section>
          <Section
            title="Fit"
            aside={
              pair && (
                <>
                  {partnerSet && (
                    <Button
                      size="small"
                      disabled={fitting}
                      title={`Fit ${driver.name} to what ${partner.name} does, in the place of the target`}
                      sx={{ py: 0, fontSize: 11.5, minWidth: 0, mr: 0.5 }}
                      onClick={() => void fit(partner.id)}>
                      {`Match ${partner.name}`}
                    </Button>
                  )}
                  <ToggleButton
                    value="together"
                    size="small"
                    disabled={tied}
                    selected={together || tied}
                    onChange={() => set({ together: !together })}
                    sx={{ py: 0, fontSize: 11.5, textTransform: 'none' }}>
                    Left and right together
                  </ToggleButton>
                </>
              )
            }>
            <FitLimits can={can} fitBands={project.fit_bands} folded={listening} places={places} />
          </Section>
          <Row>
            <Button
              variant="contained"
              sx={{ flex: 1.3 }}
              disabled={fitting}
              onClick={() => void fit()}
              data-testid="fit">
              {fitting ? 'Fitting …' : `Fit ${fitted}`}
            </Button>
            {driver && (
              <Button
                variant="outlined"
                sx={{ flex: 1 }}
                disabled={fitting}
                onClick={() => void fitEach()}
                data-testid="fit-each">
                Fit one by one
              </Button>
            )}
            <ToggleButton
              value="before"
              selected={before}
              size="small"
              sx={{ py: 0.3, fontSize: 12, textTransform: 'none' }}
              onChange={() => set({ before: !before })}>
              Before
            </ToggleButton>
          </Row>
        </>
      )}
      {facts?.most_boost_db !== undefined && (
        <Typography sx={{ fontSize: 12, color: facts.most_boost_db > 4 ? own.clayText : 'text.secondary' }}>
          {`Bands lift ${plain(facts.most_boost_db)} dB.`}
          {head && (
            <span data-testid="headroom" title={headTitle}>
              {` Full scale comes out at ${signed(Math.max(head.sine_db, head.sweep_db, head.pink_db))} dB` +
                (head.turned_up ? ' with the customer’s controls turned up.' : '.')}
            </span>
          )}
          {left.length > 0 && (
            <span
              data-testid="left-alone"
              title={left.map((one) => `${hertz(one.hertz)}: ${plain(one.deep_db)} dB, ${one.why}`).join('\n')}>
              {` Dips of the place left alone: ${left
                .slice(0, 3)
                .map((one) => hertz(one.hertz))
                .join(', ')}${left.length > 3 ? ` and ${left.length - 3} more` : ''}.`}
            </span>
          )}
        </Typography>
      )}
      {!selection && <Turning work={work} />}
      <Live work={work} channels={selection ? [selection] : []} />
      <KeyLine>F fit · B before/after · ↑↓ gain · N next</KeyLine>
    </>
  );
}
