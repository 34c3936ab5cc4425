/** The frame: header, plot, band strip, side panel, keys. */
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { lazy, memo, Suspense, useCallback, useEffect, useState, type ReactNode } from 'react';
import { useNavigate, useParams } from 'react-router';
import type { Edit, Finding, Stage } from '../api/types';
import { BandStrip } from '../plot/strip/BandStrip';
import { stripHeight } from '../plot/strip/span';
import type { StageProps } from '../stages/props';
import { STAGES } from '../stages/stages';
import { usePick, useWindow } from '../state/window';
import { WHOLE } from '../stages/common/doing';
import { Broken } from './Broken';
import { Header } from './Header';
import { NextStep } from './NextStep';
import { ServerNotice } from './ServerNotice';
import { usePlanned } from './steps';
import { Findings, Notice, Trouble } from '../ui/Panel';
import { useMicrophone } from '../state/microphone';
import { useActions, type Sheet } from './actions';
import { useProject, type Work } from '../state/project';
import { alike } from '../state/system';
import { selectionOf } from '../state/view';

/** In which stages a kind of finding is told; others belong to Voice. */
const WHERE: Record<string, Stage[]> = {
  rig: ['rig', 'drivers'],
  reversed: ['drivers', 'seams'],
  impedance: ['drivers'],
  sick: ['drivers'],
};

const fetchSheets = () => import('./Sheets');
const Sheets = lazy(fetchSheets);
const Missing = lazy(() => import('./Missing'));
const Unread = lazy(() => import('./Unread'));

export function Frame() {
  const { work, missing, refused } = useProject();
  const { slug = '' } = useParams();
  const linked = useWindow((state) => state.linked);
  if (missing)
    return (
      <Suspense fallback={null}>
        <Missing slug={slug} />
      </Suspense>
    );
  if (refused && linked) {
    return (
      <Suspense fallback={null}>
        <Unread says={refused} />
      </Suspense>
    );
  }
  if (!work) {
    return (
      <Box sx={{ p: 4 }}>
        <Typography>
          {linked ? 'Opening the project …' : 'The server does not answer. Start it with make demo.'}
        </Typography>
      </Box>
    );
  }
  return <Opened work={work} />;
}

function Opened({ work }: { work: Work }) {
  const { project, stage, commit } = work;
  const { set, selection, seam, error, understood, tab, noticed } = usePick(
    'set',
    'selection',
    'seam',
    'error',
    'understood',
    'tab',
    'noticed',
  );
  const navigate = useNavigate();
  const [sheet, setSheet] = useState<Sheet>(null);
  const go = useCallback((to: Stage) => void navigate(`/${project.slug}/${to}`), [navigate, project.slug]);
  const { Plots, Panel } = STAGES[stage] ?? STAGES.drivers;
  const shows = `${project.slug} ${stage}`;

  useEffect(() => {
    void fetchSheets().catch(() => undefined); // a sheet opens at once, the server gone or not
  }, []);
  useEffect(() => {
    const there = seam === WHOLE ? project.seams.length > 0 : project.seams.some((one) => one.id === seam);
    if (!there) set({ seam: project.seams[0]?.id ?? '' });
  }, [seam, project, set]);
  useEffect(() => {
    set({ error: null, understood: null, band: null });
  }, [stage, set]);

  useMicrophone(project.rig);

  const chosen = selectionOf(selection, stage, project);
  const apply = (finding: Finding) => void commit(finding.remedy, finding.action ?? undefined);
  const planned = usePlanned(work, go);
  const actions = useActions(work, chosen, go, setSheet, planned.press);
  // What was found in impedances is told where they are looked at, of the pair that is selected; the rest elsewhere.
  const pair = alike(
    project,
    project.layout.drivers.find((one) => one.id === chosen),
  ).map((one) => one.id);
  const ohms = stage === 'drivers' && tab === 'impedance';
  const findings = project.findings.filter(
    (one) =>
      (WHERE[one.kind] ?? ['voice']).includes(stage) &&
      (stage !== 'drivers' || (one.kind === 'impedance' ? ohms && pair.includes(one.about) : !ohms)),
  );
  const showFindings =
    stage === 'rig' ||
    stage === 'drivers' ||
    stage === 'seams' ||
    (stage === 'voice' && findings.some((f) => f.about === chosen));

  return (
    <Box
      sx={{
        height: '100vh',
        display: 'grid',
        gridTemplateRows: '48px minmax(0, 1fr)',
        gridTemplateColumns: 'minmax(0, 1fr) 332px',
      }}>
      <Header work={work} go={go} open={setSheet} actions={actions} />
      <Box
        component="main"
        sx={{
          display: 'grid',
          gridTemplateColumns: 'minmax(0, 1fr)',
          gridTemplateRows: `42px minmax(0, 1fr) ${stripHeight(project)}px`,
          minWidth: 0,
        }}>
        <NextStep planned={planned} open={() => setSheet('plan')} />
        <Drawn of={shows}>
          <Plots work={work} selection={chosen} />
        </Drawn>
        <Strip work={work} selection={chosen} go={go} />
      </Box>
      <Box
        component="aside"
        aria-label="Settings"
        sx={{
          bgcolor: 'background.paper',
          p: 1.75,
          overflowY: 'auto',
          display: 'flex',
          flexDirection: 'column',
          gap: 1.25,
        }}>
        <ServerNotice />
        {project.notice && !noticed && <Notice says={project.notice} onClose={() => set({ noticed: true })} />}
        <Trouble says={error} onClose={() => set({ error: null })} />
        {understood && <Notice says={understood} onClose={() => set({ understood: null })} />}
        <Drawn of={shows}>
          <Panel work={work} selection={chosen} />
        </Drawn>
        {showFindings && (
          <Findings
            findings={stage === 'voice' ? findings.filter((f) => f.about === chosen) : findings}
            onApply={apply}
          />
        )}
      </Box>
      {sheet && (
        <Drawn of={`${shows} ${sheet}`}>
          <Suspense fallback={null}>
            <Sheets sheet={sheet} work={work} actions={actions} planned={planned} open={setSheet} />
          </Suspense>
        </Drawn>
      )}
    </Box>
  );
}

/** The strip, with what is done by pressing and dragging in it. */
const Strip = memo(function Strip({ work, selection, go }: StageProps & { go: (stage: Stage) => void }) {
  const { project, tune, stage, commit, draft } = work;
  const { seam, set } = usePick('seam', 'set');
  const corner = (id: string, end: 'high_pass' | 'low_pass', hertz: number, done: boolean) => {
    const edits: Edit[] = [{ do: 'crossover', channel: id, end, corner_hz: hertz, off: false }];
    if (done) void commit(edits);
    else draft(edits);
  };
  const openSeam = (id: string) => {
    set({ seam: id });
    go('seams');
  };
  return (
    <BandStrip
      project={project}
      tune={tune}
      selection={selection}
      seam={seam}
      seamsOpen={stage === 'seams'}
      onSelect={(id) => set({ selection: id, band: null })}
      onSeam={openSeam}
      onCorner={corner}
      onMute={(id) => void commit([{ do: 'channel', channel: id, muted: !tune.channels[id].muted }])}
      onSolo={(id) => void commit([{ do: 'solo', channel: tune.solo === id ? null : id }])}
    />
  );
});

/** A part of the page: what failed in it is tried anew with another stage, and with the next picture. */
function Drawn({ of, children }: { of: string; children: ReactNode }) {
  const seq = useWindow((now) => now.picture?.seq);
  return <Broken shows={`${of} ${seq}`}>{children}</Broken>;
}
