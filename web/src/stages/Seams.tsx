/** Seams: corners, slopes, delay and polarity where two ways overlap. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { client, Refusal, settled } from '../api/client';
import type { Crossover, Edit, Offer, Seam, Shape, Tune } from '../api/types';
import { Choice, NumberField } from '../frame/Field';
import { KeyLine, PanelTitle, Row, Section } from '../frame/Panel';
import type { Work } from '../frame/useProject';
import { clock, hertz, plain, signed } from '../format';
import { drag } from '../plot/drag';
import { Plot, type Geometry } from '../plot/Plot';
import { levelRange, toHertz, toX } from '../plot/scale';
import { useDesk } from '../store';
import { recordForStage } from './doing';
import { useLines } from './lines';
import { Aside } from './BelowChoice';
import { Live } from './Live';
import { Under } from './Under';
import { PlotHead } from './PlotHead';
import { Scan } from './Scan';
import { Stack } from './Stack';
import type { StageProps } from './props';

const SHAPES: { value: Shape; text: string }[] = [
  { value: 'linkwitz-riley', text: 'Linkwitz–Riley' }, { value: 'butterworth', text: 'Butterworth' }, { value: 'bessel', text: 'Bessel' },
];
type End = 'high_pass' | 'low_pass';

function useSeam(work: Work): { seam: Seam; title: string; name: (id: string) => string } {
  const id = useDesk((desk) => desk.seam);
  const { project } = work;
  const seam = project.seams.find((one) => one.id === id) ?? project.seams[0];
  const name = (driver: string) => project.layout.drivers.find((one) => one.id === driver)?.name ?? driver;
  const group = (ids: string[]) => (ids.length === 1 ? name(ids[0]) : `${name(ids[0]).replace(/ [LR]$/, '')} L + R`);
  const title = seam.ways ? `${group(seam.lowers)} ↔ ${group(seam.uppers)}` : 'Left ↔ Right';
  return { seam, title, name };
}

export function SeamsPlots({ work }: StageProps) {
  const { project, tune, draft, commit } = work;
  const { own } = useTheme();
  const { seam, title } = useSeam(work);
  const facts = useDesk((desk) => desk.picture?.facts);
  const main = useLines(project, 'main');
  const lower = useLines(project, 'lower');
  const range = useMemo(() => levelRange(main, 45), [main]);
  const loss = facts?.seam === seam.id ? facts.loss : null;
  const shades = useMemo(
    () => (loss ? [{ between: ['ideal', 'sum'] as [string, string], fill: `${own.clay}99`, from: loss.low_hz, to: loss.high_hz }] : []),
    [loss, own],
  );
  const says = loss ? `both within 10 dB from ${hertz(loss.low_hz)} to ${hertz(loss.high_hz)}` : 'no overlap to be seen yet';
  const stretch = ({ width, top, bottom }: Geometry) => loss && (
    <rect x={toX(loss.low_hz, width)} width={toX(loss.high_hz, width) - toX(loss.low_hz, width)} y={top} height={bottom - top}
      fill={own.clay} opacity={0.09} style={{ pointerEvents: 'none' }} />
  );
  const corner = (end: Crossover, driver: string, which: End, { width, top, bottom }: Geometry) => {
    const x = toX(end.corner_hz, width);
    const edit = (corner_hz: number): Edit[] => [{ do: 'crossover', channel: driver, end: which, corner_hz, off: false }];
    return (
      <g key={driver + which} style={{ cursor: 'ew-resize' }} data-testid={`corner-${driver}-${which}`}
        onPointerDown={(event) => {
          let at: number | null = null;
          drag(event, (px) => { at = toHertz(px, width); draft(edit(at)); }, () => at !== null && void commit(edit(at)));
        }}>
        <rect x={x - 7} y={top} width={14} height={bottom - top} fill="transparent" />
        <line x1={x} x2={x} y1={top} y2={bottom} stroke={own.text} strokeDasharray="1 4" />
        <polygon points={`${x - 7},${top} ${x + 7},${top} ${x + 4},${top + 11} ${x - 4},${top + 11}`} fill={own.clay} />
      </g>
    );
  };
  return (
    <Stack lower={0.32} head={<PlotHead title={title} says={says} aside={<Aside says={facts?.measured_at ? `measured ${clock(facts.measured_at)}` : 'predicted'} stage="seams" />} hint="Both ways and their sum. Good: the sum follows the dotted ideal where both play; what is shaded is lost to timing." />}>
      {(height, second) => (
        <>
          <Plot name={`Level at the seam ${title}`} unit="dB SPL" grid={project.grid} lines={main} range={range} height={height} shades={shades}>
            {(geometry) => (
              <>
                {stretch(geometry)}
                {loss && <text x={Math.min(toX(loss.high_hz, geometry.width) + 8, geometry.width - 150)} y={geometry.top + 18} fill={own.clayText}>shaded: lost to timing</text>}
                {seam.ways && ends(tune, seam).map(([driver, which, end]) => end && corner(end, driver, which, geometry))}
              </>
            )}
          </Plot>
          <Under project={project} height={second}>
          <Plot spans={false} name="Phase between the two" unit="phase between the two, degrees" grid={project.grid} lines={lower} range={[-180, 180]} step={90} height={second} readings={false}>
            {(geometry) => (
              <>
                <rect x={toX(20, geometry.width)} width={toX(20000, geometry.width) - toX(20, geometry.width)} y={geometry.y(60)} height={geometry.y(-60) - geometry.y(60)} fill={own.good} opacity={0.1} />
                <text x={geometry.width - 50} y={geometry.y(60) + 14} fill={own.good}>adds</text>
                {stretch(geometry)}
              </>
            )}
          </Plot>
          </Under>
        </>
      )}
    </Stack>
  );
}

const ends = (tune: Tune, seam: Seam): [string, End, Crossover | null][] => [
  [seam.uppers[0], 'high_pass', tune.channels[seam.uppers[0]].high_pass],
  [seam.lowers[0], 'low_pass', tune.channels[seam.lowers[0]].low_pass],
];

export function SeamsPanel({ work, selection }: StageProps) {
  const { project, tune, slug, commit, draft, act, recording } = work;
  const { own } = useTheme();
  const { seam, name } = useSeam(work);
  const { picture, progress, set } = useDesk();
  const facts = picture?.facts.seam === seam.id ? picture.facts : undefined;
  const loss = facts?.loss;
  const siblings = project.seams.filter((one) => one.name === seam.name);
  const limits = project.link.limits;
  const relative = facts?.delay_ms ?? 0;
  const setSeam = (values: { delay_s?: number; path_m?: number; invert?: boolean }, done = true) => {
    const edits: Edit[] = [{ do: 'seam', seam: seam.id, ...values }];
    if (done) void commit(edits); else draft(edits);
  };
  const align = () => void act(() => settled(client.POST('/api/projects/{slug}/align', { params: { path: { slug } } })));
  const upper = seam.ways ? short(name(seam.uppers[0])) : 'Right';
  const lower = seam.ways ? short(name(seam.lowers[0])) : 'left';
  return (
    <>
      <PanelTitle title="Seam" aside={siblings.length > 1 && (
        <ToggleButtonGroup exclusive size="small" value={seam.id} aria-label="Side of the seam" onChange={(_e, id) => id && set({ seam: id })}>
          {siblings.map((one) => <ToggleButton key={one.id} value={one.id} sx={{ py: 0, px: 1, fontSize: 12 }}>{one.side === 'both' ? 'Both' : one.side === 'left' ? 'Left' : 'Right'}</ToggleButton>)}
        </ToggleButtonGroup>
      )} />
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 2 }} aria-live="polite" data-testid="loss">
        <Typography sx={{ fontSize: 30, fontWeight: 600, lineHeight: 1, whiteSpace: 'nowrap', color: loss && loss.mean < 0.5 ? own.good : own.clayText }}>{loss ? `${plain(loss.mean)} dB` : '—'}</Typography>
        <Box sx={{ fontSize: 12 }}>
          <div>{loss ? `lost, worst ${plain(loss.worst)} dB at ${hertz(loss.worst_hz)}` : 'nothing to judge: the two do not overlap'}</div>
          {loss && <Box color="text.secondary">{`inverted it would null to ${plain(loss.null_db, 0)} dB at ${hertz(loss.null_hz)}`}</Box>}
        </Box>
      </Box>
      {seam.ways && (
        <>
          <CrossoverFields work={work} driver={seam.uppers[0]} end="high_pass" title={`${name(seam.uppers[0])} high-pass`} note={tune.tied_sides.includes(seam.name!) ? 'left and right alike' : ''} />
          <CrossoverFields work={work} driver={seam.lowers[0]} end="low_pass" title={`${name(seam.lowers[0])} low-pass`} note={tune.tied_ways.includes(seam.name!) ? 'follows' : ''} />
          <Row>
            {(['ways', 'sides'] as const).map((what) => {
              const tied = (what === 'ways' ? tune.tied_ways : tune.tied_sides).includes(seam.name!);
              return (
                <ToggleButton key={what} value={what} selected={tied} size="small" sx={{ flex: 1, py: 0.25, fontSize: 12, textTransform: 'none' }}
                  onChange={() => void commit([{ do: 'tie', ways: seam.name!, what, tied: !tied }])}>
                  {what === 'ways' ? 'Both ends tied' : 'Left and right tied'}
                </ToggleButton>
              );
            })}
          </Row>
        </>
      )}
      <Section title={`${upper} against ${lower}`} aside="what lies above moves along">
        <Row>
          <NumberField label="Delay" unit="ms" value={relative} digits={3} sign step={1e3 / limits.rate} coarse={1e4 / limits.rate} min={-20} max={20} onCommit={(ms) => setSeam({ delay_s: ms / 1e3 })} />
          <NumberField label="as path" unit="mm" value={facts?.path_mm ?? 0} digits={0} sign step={7.2} coarse={72} min={-6800} max={6800} onCommit={(mm) => setSeam({ path_m: mm / 1e3 })} />
          <ToggleButtonGroup exclusive size="small" value={facts?.inverted ? 'minus' : 'plus'} aria-label="Polarity" sx={{ height: 30 }} onChange={(_e, to) => to && setSeam({ invert: to === 'minus' })}>
            <ToggleButton value="plus" aria-label="Same polarity">+</ToggleButton>
            <ToggleButton value="minus" aria-label="Opposite polarity">−</ToggleButton>
          </ToggleButtonGroup>
        </Row>
      </Section>
      <Section title="Loss against delay" aside={`dashed: polarity ${facts?.inverted ? '+' : '−'}`}>
        <Scan picture={picture} now={relative} onDrag={(ms, done) => setSeam({ delay_s: ms / 1e3 }, done)} />
      </Section>
      <Offers work={work} seam={seam} />
      <Row>
        <Button variant="contained" sx={{ flex: 1 }} disabled={recording} onClick={() => recordForStage(work, selection)}>
          {project.link.unsent.length ? 'Send and record' : 'Record'} {seam.ways && seam.uppers.length === 1 ? 'both' : 'all'}
        </Button>
        <Button variant="outlined" onClick={align}>Set delays by arrival</Button>
      </Row>
      {progress?.message && <Typography sx={{ fontSize: 12.5, color: own.clayText }}>{progress.message}</Typography>}
      <Live work={work} channels={[...seam.lowers, ...seam.uppers]} />
      <KeyLine>P polarity · , . delay · [ ] corner · N next seam · Space record</KeyLine>
    </>
  );
}

const short = (name: string) => name.replace(/ [LR]$/, '');

function CrossoverFields({ work, driver, end, title, note }: { work: Work; driver: string; end: End; title: string; note: string }) {
  const { project, tune, commit } = work;
  const { own } = useTheme();
  const kind = project.layout.drivers.find((one) => one.id === driver)!.kind;
  const now = tune.channels[driver][end];
  const change = (values: Partial<Crossover>) => void commit([{ do: 'crossover', channel: driver, end, off: false, ...values }]);
  const off = () => void commit([{ do: 'crossover', channel: driver, end, off: true }]);
  const read = project.drivers[driver];
  const start = () => change({ corner_hz: Math.round(end === 'high_pass' ? Math.max(read?.low_hz ?? 100, 20) * 1.3 : (read?.high_hz ?? 10000) / 1.3) });
  return (
    <Box sx={{ borderLeft: `4px solid ${own.ways[kind]}`, pl: 1 }}>
      <Section title={title} aside={now ? (
        <><span>{note}</span> <Button size="small" sx={{ py: 0, minWidth: 0, fontSize: 11.5 }} aria-label={`off: take the ${title} away`} onClick={off}>off</Button></>
      ) : note}>
        {now ? (
          <Row>
            <Box sx={{ flex: 1.6, minWidth: 0 }}><Choice label="Shape" hideLabel value={now.shape} options={SHAPES} onChange={(shape) => change({ shape })} /></Box>
            <Box sx={{ flex: 1, minWidth: 0 }}><Choice label="Slope" hideLabel value={now.slope_db} options={project.link.slopes[now.shape].map((value) => ({ value, text: `${value} dB` }))} onChange={(slope_db) => change({ slope_db })} /></Box>
            <Box sx={{ flex: 1.15, minWidth: 0 }}><NumberField label={`${title} corner`} hideLabel unit="Hz" value={now.corner_hz} digits={now.corner_hz < 200 ? 1 : 0} factor step={1 / 48} coarse={1 / 6} min={20} max={20000} onCommit={(corner_hz) => change({ corner_hz })} /></Box>
          </Row>
        ) : <Button variant="outlined" fullWidth sx={{ py: 0.25 }} onClick={start}>{`Set a ${end === 'high_pass' ? 'high-pass' : 'low-pass'}`}</Button>}
      </Section>
    </Box>
  );
}

function Offers({ work, seam }: { work: Work; seam: Seam }) {
  const { project, slug, commit } = work;
  const { own } = useTheme();
  const query = useQuery({
    queryKey: ['offers', slug, seam.id, project.revision.id, project.takes[0]?.id], retry: false,
    queryFn: () => settled<Offer[]>(client.GET('/api/projects/{slug}/seams/{seam_id}/offers', { params: { path: { slug, seam_id: seam.id } } })),
  });
  const words = (one: Offer) => `${one.change ? `${one.change}, ` : ''}${signed(one.delay_ms, 3)} ms ${one.inverted ? '−' : '+'}`;
  return (
    <Section title="Best settings found" aside={query.isFetching ? 'searching …' : 'mean loss'}>
      {query.error instanceof Refusal && <Typography sx={{ fontSize: 12.5 }} color="text.secondary">{query.error.message}</Typography>}
      {query.data?.map((one, n) => (
        <Box key={n} data-testid="offer" sx={{ display: 'flex', alignItems: 'center', bgcolor: own.raised, borderRadius: 0.75, px: 1, mb: '3px', fontSize: 12.5, height: 26 }}>
          <Box sx={{ flex: 1 }}>{words(one)}</Box>
          <Box sx={{ color: own.good, width: 60 }}>{`${plain(one.mean_db, 2)} dB`}</Box>
          <Button size="small" sx={{ py: 0, minWidth: 0 }} aria-label={`Use ${words(one)}`} onClick={() => void commit(one.edits, `Seam ${seam.id}: ${words(one)}`)}>use</Button>
        </Box>
      ))}
    </Section>
  );
}
