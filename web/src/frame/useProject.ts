/** The project: read, changed, drafted, recorded. Everything that talks to the server for a stage. */
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useRef } from 'react';
import { useParams } from 'react-router';
import { client, Refusal, settled } from '../api/client';
import { Live } from '../api/live';
import type { Edit, Progress, Project, Stage, Tune, View } from '../api/types';
import { belowOf, offered } from '../stages/below';
import { useDesk } from '../store';

export const running = (progress: Progress | null): boolean =>
  progress !== null && ['countdown', 'waiting', 'playing', 'computing'].includes(progress.stage);

export interface Work {
  project: Project; tune: Tune; stage: Stage; slug: string;
  /** Show edits without keeping them. */
  draft: (edits: Edit[]) => void;
  /** Keep edits as a revision. */
  commit: (edits: Edit[], summary?: string) => Promise<void>;
  /** Any call that answers with the project's state. */
  act: (call: () => Promise<unknown>) => Promise<boolean>;
  record: (channels: string[], purpose: 'driver' | 'proof', sendFirst?: boolean, method?: 'sweep' | 'moving') => void;
  /** Stop whatever sounds or records. */
  stop: () => void;
  /** Any call that answers with the rig. */
  onRig: (call: () => Promise<unknown>) => Promise<boolean>;
  /** Any call that begins a recording. */
  begin: (call: () => Promise<unknown>) => Promise<boolean>;
  recording: boolean;
}

export function useProject(): Work | null {
  const { slug = 'wren', stage = 'drivers' } = useParams() as { slug: string; stage: Stage };
  const queries = useQueryClient();
  const desk = useDesk();
  const { set } = desk;
  const live = useRef<Live | null>(null);
  const path = useMemo(() => ({ params: { path: { slug } } }), [slug]);
  const query = useQuery({
    queryKey: ['project', slug],
    queryFn: () => settled<Project>(client.GET('/api/projects/{slug}', path)),
  });
  const project = query.data;
  const refresh = useCallback(() => queries.invalidateQueries({ queryKey: ['project', slug] }), [queries, slug]);

  useEffect(() => {
    let lost = false;
    const socket = new Live(slug, {
      picture: (picture) => set({ picture }),
      growing: (growing) => set({ growing }),
      progress: (progress) => {
        const before = useDesk.getState().progress;
        set({ progress });
        if (before?.version === progress.version) return;
        if (progress.stage === 'kept') set(progress.kind === 'listen' ? { rawTake: progress.take_id, rawShown: [0, 0], rawMarked: [0, 0] } : { proofTake: null, olderTake: null, note: '' });
        if (!running(progress)) {
          set({ growing: null });
          if (progress.stage !== 'idle' && before && running(before)) void refresh();
        }
      },
      error: (error) => set({ error }),
      linked: (linked) => {
        set({ linked });
        if (linked && lost) void refresh();
        lost = !linked;
      },
    });
    live.current = socket;
    return () => socket.close();
  }, [slug, set, refresh]);

  const selection = desk.selection || (stage === 'drivers' ? (project?.round.turns[0].channel ?? '') : '');
  const view: View = useMemo(() => ({
    stage, smoothing: desk.smoothing, selection, seam: desk.seam,
    take: stage === 'proof' ? desk.proofTake : stage === 'drivers' ? desk.olderTake : stage === 'rig' && desk.part === 'input' ? desk.rawTake : null,
    compare: desk.compare, before: desk.before, part: stage === 'rig' ? desk.part : stage === 'drivers' && desk.tab === 'impedance' ? 'impedance' : '',
    below: belowOf(stage, desk.below), gate_ms: offered(stage).length ? desk.gate : 0, lens: desk.lens,
    span_low_hz: desk.span?.[0] ?? null, span_high_hz: desk.span?.[1] ?? null,
    raw_from: desk.rawShown[0], raw_to: desk.rawShown[1], mark_from: desk.rawMarked[0], mark_to: desk.rawMarked[1], low_hz: desk.low, high_hz: desk.high,
  }), [stage, desk.smoothing, selection, desk.seam, desk.proofTake, desk.olderTake, desk.compare, desk.before, desk.part, desk.tab, desk.below, desk.gate, desk.lens, desk.span, desk.rawTake, desk.rawShown, desk.rawMarked, desk.low, desk.high]);

  useEffect(() => {
    if (project) live.current?.want({ view, edits: desk.draft });
  }, [project, view, desk.draft]);

  const act = useCallback(async (call: () => Promise<unknown>) => {
    try {
      const answer = await call();
      const state = (answer as { state?: Project })?.state ?? (answer as Project);
      if (state?.tune) queries.setQueryData(['project', slug], state);
      set({ draft: [], error: null });
      return true;
    } catch (error) {
      set({ draft: [], error: error instanceof Refusal ? error.message : String(error) });
      return false;
    }
  }, [queries, slug, set]);

  const commit = useCallback(async (edits: Edit[], summary?: string) => {
    await act(() => settled(client.POST('/api/projects/{slug}/edits', { ...path, body: { edits, summary } })));
  }, [act, path]);

  const draft = useCallback((edits: Edit[]) => set({ draft: edits }), [set]);

  const record = useCallback((channels: string[], purpose: 'driver' | 'proof', sendFirst = false, method: 'sweep' | 'moving' = 'sweep') => {
    void act(async () => {
      let state: unknown;
      if (sendFirst) state = await settled(client.POST('/api/projects/{slug}/processor/send', path));
      const { note, angle } = useDesk.getState();
      const single = purpose === 'driver';
      const body = { channels, purpose, method, note: single ? note : '', angle: single && method === 'sweep' && angle ? angle : null };
      await settled(client.POST('/api/projects/{slug}/takes', { ...path, body }));
      return state;
    });
  }, [act, path]);

  const stop = useCallback(() => {
    void act(() => settled(client.POST('/api/projects/{slug}/takes/abort', path)));
  }, [act, path]);

  const begin = useCallback(async (call: () => Promise<unknown>) => act(async () => {
    await call();
  }), [act]);

  const onRig = useCallback(async (call: () => Promise<unknown>) => act(async () => {
    await call();
    return settled(client.GET('/api/projects/{slug}', path));
  }), [act, path]);

  // Marks for those who drive the page from outside: what is drawn, and how much there is.
  useEffect(() => {
    const drawn = desk.picture;
    const same = project && drawn && !desk.draft.length && !drawn.draft && drawn.revision === project.revision.id
      && JSON.stringify(drawn.view) === JSON.stringify(view);
    const mark = requestAnimationFrame(() => {
      document.documentElement.dataset.settled = same ? 'yes' : 'no';
      document.documentElement.dataset.takes = String(project?.takes[0]?.id ?? 0);
    });
    return () => cancelAnimationFrame(mark);
  });

  if (!project) return null;
  const drawn = desk.picture;
  const tune = desk.draft.length && drawn?.draft ? drawn.tune : project.tune;
  const recording = running(desk.progress);
  return { project, tune, stage, slug, draft, commit, act, record, stop, begin, onRig, recording };
}
