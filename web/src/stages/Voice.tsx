/** Voice: level and correction of each channel by the target, then of all together. */
import AddIcon from '@mui/icons-material/AddOutlined';
import CloseIcon from '@mui/icons-material/CloseOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import IconButton from '@mui/material/IconButton';
import ToggleButton from '@mui/material/ToggleButton';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useMemo, useRef, useState } from 'react';
import { client, settled } from '../api/client';
import { formWith } from '../api/files';
import type { Band, BandKind, Driver, Edit, Kind, Project } from '../api/types';
import { Choice, NumberField } from '../frame/Field';
import { KeyLine, PanelTitle, Row, Section } from '../frame/Panel';
import type { Work } from '../frame/useProject';
import { hertz, plain } from '../format';
import { drag } from '../plot/drag';
import { Plot, type Geometry } from '../plot/Plot';
import { levelRange, toHertz, toX } from '../plot/scale';
import { useDesk } from '../store';
import { fitSelection } from './doing';
import { useLines } from './lines';
import { Aside } from './BelowChoice';
import { Live } from './Live';
import { Under } from './Under';
import { PlotHead } from './PlotHead';
import { Stack } from './Stack';
import type { StageProps } from './props';

const KINDS: { value: BandKind; text: string }[] = [
  { value: 'peaking', text: 'Peaking' }, { value: 'low_shelf', text: 'Low shelf' }, { value: 'high_shelf', text: 'High shelf' }, { value: 'all_pass', text: 'All-pass' },
];

const bandsOf = (work: Work, selection: string): Band[] => (selection ? work.tune.channels[selection].bands : work.tune.common);
const target = (selection: string) => selection || null;
const putBand = (selection: string, index: number, band: Band | null): Edit => ({ do: 'band', channel: target(selection), index, band });

export function VoicePlots({ work, selection }: StageProps) {
  const { project, tune, draft, commit } = work;
  const { own } = useTheme();
  const picture = useDesk((desk) => desk.picture);
  const limit = useDesk((desk) => desk.limits.boost_db);
  const main = useLines(project, 'main');
  const lower = useLines(project, 'lower');
  const band = useDesk((desk) => desk.band);
  const set = useDesk((desk) => desk.set);
  const range = useMemo(() => levelRange(main.filter((line) => line.id !== 'own-target'), 45), [main]);
  const held = useRef<[number, number] | null>(null);
  const [moving, setMoving] = useState(false);
  const driver = project.layout.drivers.find((one) => one.id === selection);
  const facts = picture?.facts;
  const bands = bandsOf(work, selection);
  const dev = facts?.deviation;
  const says = dev ? `${bands.length} bands · within ±${plain(dev.plus_minus)} dB of target from ${hertz(dev.low_hz)} to ${hertz(dev.high_hz)}` : 'no take yet';
  const line = main.find((one) => one.id === 'target');
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
      <g role="slider" tabIndex={0} aria-label="Target level" aria-valuenow={tune.target.level_db} aria-valuetext={`${plain(tune.target.level_db)} dB at 1 kHz`} style={{ cursor: 'ns-resize' }} data-testid="target-line"
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
          drag(event, (_x, py) => { to = Math.round((from + (begun - py) * scale) * 10) / 10; draft(move(to)); },
            () => { held.current = null; setMoving(false); if (to !== from) void commit(move(to)); });
        }}>
        <polygon points={[...over, ...under].join(' ')} fill={own.clay} opacity={0.16} />
        <polyline points={points.join(' ')} fill="none" stroke="transparent" strokeWidth={16} />
      </g>
    );
  };
  return (
    <Stack lower={0.34} head={<PlotHead title={driver ? driver.name : 'All channels'} says={says} aside={<Aside says="predicted" stage="voice" />} hint="What the microphone will hear against the target. Good: within the band; narrow dips are left alone." />}>
      {(height, second) => (
        <>
          <Plot name="Level against the target" unit="dB SPL" grid={project.grid} lines={main} range={shown} height={height}>
            {(geometry) => targetLine(geometry)}
          </Plot>
          <Under project={project} height={second}>
          <Plot name="Correction" unit="correction, dB" grid={project.grid} lines={lower} range={[-13, 7]} step={3} height={second} readings={false}>
            {(geometry) => (
              <>
                <rect x={toX(20, geometry.width)} width={toX(20000, geometry.width) - toX(20, geometry.width)} y={geometry.top} height={Math.max(0, geometry.y(limit) - geometry.top)} fill={own.clay} opacity={0.1} style={{ pointerEvents: 'none' }} />
                <text x={geometry.width - 20} y={geometry.top + 15} textAnchor="end" fill={own.clayText}>{`above the ${plain(limit, 0)} dB boost limit`}</text>
                {bands.map((one, n) => (
                  <Handle key={n} one={one} n={n} chosen={band === n} colour={driver ? own.ways[driver.kind] : own.sum} geometry={geometry} choose={() => set({ band: n })}
                    change={(next, done) => (done ? void commit([putBand(selection, n, next)]) : draft([putBand(selection, n, next)]))}
                    remove={() => void commit([putBand(selection, n, null)])} />
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

function Handle({ one, n, chosen, colour, geometry, choose, change, remove }: {
  one: Band; n: number; chosen: boolean; colour: string; geometry: Geometry; choose: () => void; change: (band: Band, done: boolean) => void; remove: () => void;
}) {
  const { own } = useTheme();
  const { width, y, top, bottom } = geometry;
  const gain = one.kind === 'all_pass' ? 0 : one.gain_db;
  const px = toX(one.frequency_hz, width);
  const py = Math.min(bottom - 8, Math.max(top + 8, y(gain)));
  const at = (x: number, h: number): Band => {
    const level = 7 - ((h - top) / (bottom - top)) * 20;
    return { ...one, frequency_hz: toHertz(x, width), gain_db: one.kind === 'all_pass' ? 0 : Math.max(-18, Math.min(12, Math.round(level * 10) / 10)) };
  };
  const key = (event: React.KeyboardEvent) => {
    const coarse = event.shiftKey;
    const next: Partial<Band> | null =
      event.key === 'ArrowLeft' ? { frequency_hz: one.frequency_hz * 2 ** (coarse ? -1 / 6 : -1 / 48) }
      : event.key === 'ArrowRight' ? { frequency_hz: one.frequency_hz * 2 ** (coarse ? 1 / 6 : 1 / 48) }
      : event.key === 'ArrowUp' ? { gain_db: one.gain_db + (coarse ? 1 : 0.1) }
      : event.key === 'ArrowDown' ? { gain_db: one.gain_db - (coarse ? 1 : 0.1) }
      : event.key === '+' ? { q: one.q * (coarse ? 1.4 : 1.1) }
      : event.key === '-' ? { q: one.q / (coarse ? 1.4 : 1.1) } : null;
    if (event.key === 'Delete') remove();
    if (!next && event.key !== 'Delete') return;
    event.preventDefault();
    event.stopPropagation();
    if (next) change({ ...one, ...next }, true);
  };
  return (
    <g role="slider" tabIndex={0} aria-label={`Band ${n + 1}`} aria-valuenow={one.gain_db} aria-valuetext={`${Math.round(one.frequency_hz)} Hz, ${plain(one.gain_db)} dB, Q ${plain(one.q, 2)}`}
      style={{ cursor: 'move' }} data-testid={`band-${n}`} onFocus={choose} onKeyDown={key}
      data-own-wheel onWheel={(event) => change({ ...one, q: Math.max(0.3, Math.min(20, one.q * (event.deltaY < 0 ? 1.1 : 1 / 1.1))) }, true)}
      onPointerDown={(event) => {
        choose();
        let to: Band | null = null;
        drag(event, (x, h) => { to = at(x, h); change(to, false); }, () => to && change(to, true));
      }}>
      <polygon points={`${px - 7},${py - 6} ${px + 7},${py - 6} ${px + 10},${py + 6} ${px - 10},${py + 6}`} fill={chosen ? own.clay : colour} stroke={own.plot} />
      <text x={px} y={py + 4} textAnchor="middle" fontSize={9} fontWeight={600} fill={own.plot}>{n + 1}</text>
    </g>
  );
}

/** Far side first and in it the mid, which sets the level for the system; then the near side to match. */
function workOrder({ drivers, seat }: Project['layout']): string[] {
  const kinds: Kind[] = ['full', 'mid', 'tweeter', 'midbass', 'sub'];
  const rank = ({ side, kind }: Driver) => (side === 'both' ? 5 : side === seat ? 10 : 0) + kinds.indexOf(kind) / 10;
  return [...drivers].sort((a, b) => rank(a) - rank(b)).map((one) => one.id);
}

export function VoicePanel({ work, selection }: StageProps) {
  const { project, tune, slug, commit, act } = work;
  const { own } = useTheme();
  const { picture, limits, together, before, set } = useDesk();
  const [fitting, setFitting] = useState(false);
  const facts = picture?.facts;
  const driver = project.layout.drivers.find((one) => one.id === selection);
  const bands = bandsOf(work, selection);
  const can = project.link.limits;
  const room = can.bands - (selection ? bands.length + tune.common.length : bands.length + Math.max(...Object.values(tune.channels).map((c) => c.bands.length)));
  const pair = driver && driver.side !== 'both';
  const fit = async () => {
    setFitting(true);
    await fitSelection(work, selection);
    setFitting(false);
  };
  const fitEach = async () => {
    setFitting(true);
    for (const one of order) if (!(await fitSelection(work, one))) break;
    setFitting(false);
  };
  const order = useMemo(() => workOrder(project.layout), [project.layout]);
  const load = (file: File | undefined) => {
    if (!file) return;
    void act(async () => {
      const form = formWith(file);
      const added = await settled<{ key: string }>(client.POST('/api/projects/{slug}/targets', { params: { path: { slug } }, body: form as never, bodySerializer: (body) => body as never }));
      return settled(client.POST('/api/projects/{slug}/edits', { params: { path: { slug } }, body: { edits: [{ do: 'target', curve: added.key }] } }));
    });
  };
  const input = useRef<HTMLInputElement>(null);
  const price = facts?.price;
  const gain = driver ? tune.channels[driver.id].gain_db : 0;
  const name = (id: string) => project.layout.drivers.find((one) => one.id === id)!.name;
  const fresh: Band = { kind: 'peaking', frequency_hz: driver ? Math.round(Math.sqrt((facts?.deviation?.low_hz ?? 200) * (facts?.deviation?.high_hz ?? 5000))) : 1000, gain_db: -3, q: 2 };
  return (
    <>
      <PanelTitle title="Work order" aside="far side first" />
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: '3px' }}>
        {[...order, ''].map((id) => (
          <ButtonBase key={id || 'all'} onClick={() => set({ selection: id, band: null })} aria-pressed={selection === id} data-testid={`voice-${id || 'all'}`}
            sx={{ justifyContent: 'space-between', px: 1, height: 25, borderRadius: 0.75, bgcolor: own.raised, fontSize: 12.5, outline: selection === id ? `1px solid ${own.clay}` : 'none' }}>
            <span>{id ? name(id) : 'All channels'}</span>
            <Box component="span" sx={{ color: 'text.secondary', fontSize: 11 }}>
              {id ? (tune.channels[id].bands.length ? `${plain(tune.channels[id].gain_db)} dB` : '—') : tune.common.length ? `${tune.common.length} bands` : 'last'}
            </Box>
          </ButtonBase>
        ))}
      </Box>
      <Section title="Target" aside={<Button size="small" sx={{ py: 0, fontSize: 11.5 }} onClick={() => input.current?.click()}>Load a text file</Button>}>
        <input ref={input} type="file" hidden accept=".txt,.csv,text/plain" data-testid="load-target" onChange={(event) => { load(event.target.files?.[0]); event.target.value = ''; }} />
        <Row>
          <Box sx={{ flex: 1.5 }}><Choice label="Curve" value={tune.target.curve} options={project.targets.map((one) => ({ value: one.key, text: one.name }))} onChange={(curve) => void commit([{ do: 'target', curve }])} /></Box>
          <NumberField label="Level at 1 kHz" unit="dB" value={tune.target.level_db} step={0.1} coarse={1} min={0} max={140} onCommit={(level_db) => void commit([{ do: 'target', level_db }])} />
        </Row>
        {price && (
          <Typography sx={{ fontSize: 12, mt: 0.5 }} color="text.secondary">
            {`Before correction ${plain(Math.max(0, -price.lowest))} dB short of it at the lowest, ${plain(Math.max(0, price.highest))} dB over it at the highest. ${
              price.highest <= 0.5 ? 'All boost: lower the target to win headroom.' : price.lowest >= -0.5 ? 'All cut: this costs loudness.' : ''}`}
          </Typography>
        )}
      </Section>
      {driver && (
        <Row>
          <NumberField label={`Gain of ${driver.name}`} unit="dB" value={gain} sign step={0.1} coarse={1} min={can.gain_db.least} max={can.gain_db.most} onCommit={(gain_db) => void commit([{ do: 'channel', channel: driver.id, gain_db }])} />
          <NumberField label="Delay" unit="ms" value={tune.channels[driver.id].delay_s * 1e3} digits={3} step={1e3 / can.rate} coarse={1e4 / can.rate} min={0} max={can.delay_s.most * 1e3} onCommit={(ms) => void commit([{ do: 'channel', channel: driver.id, delay_s: ms / 1e3 }])} />
        </Row>
      )}
      <Section title={selection ? 'Bands' : 'Common bands'} aside={`${room} free`}>
        <Box role="list" sx={{ maxHeight: 122, overflowY: 'auto', display: 'flex', flexDirection: 'column', gap: '2px' }} tabIndex={0} aria-label="Bands">
          {bands.map((one, n) => <BandRow key={n} one={one} n={n} work={work} selection={selection} />)}
        </Box>
        <Button size="small" startIcon={<AddIcon />} disabled={room <= 0} onClick={() => void commit([putBand(selection, bands.length, fresh)]).then(() => set({ band: bands.length }))}>Add a band</Button>
      </Section>
      <Section title="Fit" aside={pair && (
        <ToggleButton value="together" size="small" selected={together} onChange={() => set({ together: !together })} sx={{ py: 0, fontSize: 11.5, textTransform: 'none' }}>Left and right together</ToggleButton>
      )}>
        <Row>
          <NumberField label="Bands" value={limits.count} digits={0} step={1} coarse={2} min={0} max={can.bands} onCommit={(count) => set({ limits: { ...limits, count } })} />
          <NumberField label="Boost to" unit="dB" value={limits.boost_db} digits={0} step={1} min={0} max={12} onCommit={(boost_db) => set({ limits: { ...limits, boost_db } })} />
          <NumberField label="Cut to" unit="dB" value={limits.cut_db} digits={0} step={1} min={0} max={18} onCommit={(cut_db) => set({ limits: { ...limits, cut_db } })} />
          <NumberField label="Q to" value={limits.most_q} step={0.5} min={0.5} max={20} onCommit={(most_q) => set({ limits: { ...limits, most_q } })} />
        </Row>
        <Row>
          <NumberField label="From" unit="Hz" value={limits.low_hz} digits={0} factor step={1 / 12} coarse={1 / 3} min={20} max={20000} onCommit={(low_hz) => set({ limits: { ...limits, low_hz } })} />
          <NumberField label="To" unit="Hz" value={limits.high_hz} digits={0} factor step={1 / 12} coarse={1 / 3} min={20} max={20000} onCommit={(high_hz) => set({ limits: { ...limits, high_hz } })} />
        </Row>
      </Section>
      <Row>
        <Button variant="contained" sx={{ flex: 1.3 }} disabled={fitting} onClick={() => void fit()} data-testid="fit">
          {fitting ? 'Fitting …' : `Fit ${!driver ? 'all channels' : together && pair ? `${driver.name.replace(/ [LR]$/, '')} L + R` : driver.name}`}
        </Button>
        {driver && <Button variant="outlined" sx={{ flex: 1 }} disabled={fitting} onClick={() => void fitEach()} data-testid="fit-each">Fit one by one</Button>}
        <ToggleButton value="before" selected={before} size="small" sx={{ py: 0.3, fontSize: 12, textTransform: 'none' }} onChange={() => set({ before: !before })}>Before</ToggleButton>
      </Row>
      {facts?.most_boost_db !== undefined && (
        <Typography sx={{ fontSize: 12, color: facts.most_boost_db > 4 ? own.clayText : 'text.secondary' }}>{`Bands lift ${plain(facts.most_boost_db)} dB at most: so much headroom goes there.`}</Typography>
      )}
      <Live work={work} channels={selection ? [selection] : []} />
      <KeyLine>F fit · B before/after · ↑↓ gain · N next</KeyLine>
    </>
  );
}

function BandRow({ one, n, work, selection }: { one: Band; n: number; work: Work; selection: string }) {
  const { commit, project } = work;
  const { own } = useTheme();
  const band = useDesk((desk) => desk.band);
  const set = useDesk((desk) => desk.set);
  const can = project.link.limits;
  const change = (values: Partial<Band>) => void commit([putBand(selection, n, { ...one, ...values })]);
  const name = `Band ${n + 1}`;
  return (
    <Box role="listitem" onFocus={() => set({ band: n })} sx={{ display: 'flex', gap: '2px', alignItems: 'center', flexShrink: 0, bgcolor: band === n ? own.raised : 'transparent', borderRadius: 0.75,
      '& .MuiInputBase-root': { height: 24, px: 0.5, fontSize: 12 } }}>
      <Box sx={{ width: 88, flexShrink: 0 }}><Choice label={`${name} kind`} hideLabel value={one.kind} options={KINDS} onChange={(kind) => change({ kind })} /></Box>
      <NumberField label={`${name} frequency`} hideLabel unit="Hz" value={one.frequency_hz} digits={0} factor step={1 / 48} coarse={1 / 6} min={can.band_hz.least} max={can.band_hz.most} onCommit={(frequency_hz) => change({ frequency_hz })} />
      <NumberField label={`${name} gain`} hideLabel unit="dB" sign value={one.kind === 'all_pass' ? 0 : one.gain_db} step={0.1} coarse={1} min={can.band_gain_db.least} max={can.band_gain_db.most} onCommit={(gain_db) => change({ gain_db })} />
      <Box sx={{ width: 46, flexShrink: 0 }}><NumberField label={`${name} Q`} hideLabel value={one.q} digits={2} factor step={1 / 12} coarse={1 / 3} min={can.q.least} max={can.q.most} onCommit={(q) => change({ q })} /></Box>
      <IconButton size="small" aria-label={`Remove band ${n + 1}`} sx={{ p: 0.25 }} onClick={() => void commit([putBand(selection, n, null)])}><CloseIcon sx={{ fontSize: 15 }} /></IconButton>
    </Box>
  );
}
