/** The project: read, changed, drafted, recorded. Everything that talks to the server for a stage. */
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo } from 'react';
import { useParams } from 'react-router';
import { client, Refusal, settled } from '../api/client';
import type { Edit, Project, Stage, Tune } from '../api/types';
import { inTurn } from './queue';
import { running, useSocket } from './socket';
import { useBegins } from './begins';
import { useDrawn } from './drawn';
import { NO_DRAFT, useWindow } from './window';

export { running } from './socket';

/** Edits, or what makes them of the project as it is when their turn comes. */
export type Edits = Edit[] | ((now: Project) => Edit[]);

export interface Work {
  project: Project;
  tune: Tune;
  stage: Stage;
  slug: string;
  /** Show edits without keeping them. */
  draft: (edits: Edit[]) => void;
  /** Keep edits as a revision. */
  commit: (edits: Edits, summary?: string) => Promise<void>;
  undo: () => void;
  redo: () => void;
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

type State = Omit<Project, 'grid'>;

/** The project of the address; `missing` says that there is none, `refused` why it cannot be opened. */
export function useProject(): { work: Work | null; missing: boolean; refused: string } {
  const { slug = '', stage = 'drivers' } = useParams() as { slug: string; stage: Stage };
  const queries = useQueryClient();
  const { set } = useWindow.getState();
  const drafted = useWindow((now) => (now.draft.length && now.picture?.draft ? now.picture.tune : null));
  const recording = useWindow((now) => running(now.progress));
  const path = useMemo(() => ({ params: { path: { slug } } }), [slug]);
  const key = useMemo(() => ['project', slug], [slug]);
  const grid = useQuery({ queryKey: ['grid'], queryFn: () => settled<number[]>(client.GET('/api/grid')) });
  const query = useQuery({ queryKey: key, queryFn: () => settled<State>(client.GET('/api/projects/{slug}', path)) });
  const project = useMemo(
    () => (query.data && grid.data ? { ...query.data, grid: grid.data } : undefined),
    [query.data, grid.data],
  );

  const present = useCallback(() => queries.getQueryData<State>(key), [queries, key]);
  const refresh = useCallback(
    (version: number) =>
      void inTurn(async () => {
        // What this window did itself is known from the answer to it.
        if ((present()?.version ?? -1) < version) await queries.invalidateQueries({ queryKey: key });
      }),
    [queries, key, present],
  );
  const live = useSocket(slug, refresh);
  useDrawn(project, stage, live);
  const anew = useBegins(project, stage);
  useEffect(() => {
    if (anew) refresh(0);
  }, [anew, refresh]);

  const act = useCallback(
    async (call: () => Promise<unknown>) => {
      try {
        await inTurn(async () => {
          const answer = await call();
          const state = (answer as { state?: State })?.state ?? (answer as State);
          if (state?.tune) queries.setQueryData(key, state);
          const read = (answer as { understood?: string } | null)?.understood;
          if (read) set({ understood: `Read ${read}.` });
        });
        set({ draft: NO_DRAFT, error: null });
        return true;
      } catch (error) {
        set({ draft: NO_DRAFT, error: error instanceof Refusal ? error.message : String(error) });
        refresh(Infinity); // what was refused may have been meant for something that is no longer so
        return false;
      }
    },
    [queries, key, set, refresh],
  );

  const commit = useCallback(
    async (edits: Edits, summary?: string) => {
      await act(() => {
        const now = present();
        const body = {
          edits: typeof edits === 'function' ? edits(now as Project) : edits,
          summary,
          on: now?.revision.id,
        };
        return settled(client.POST('/api/projects/{slug}/edits', { ...path, body }));
      });
    },
    [act, path, present],
  );
  const undo = useCallback(() => {
    void act(() =>
      settled(client.POST('/api/projects/{slug}/undo', { ...path, body: { on: present()?.revision.id } })),
    );
  }, [act, path, present]);
  const redo = useCallback(() => {
    void act(() =>
      settled(client.POST('/api/projects/{slug}/redo', { ...path, body: { on: present()?.revision.id } })),
    );
  }, [act, path, present]);

  const draft = useCallback((edits: Edit[]) => set({ draft: edits.length ? edits : NO_DRAFT }), [set]);

  const record = useCallback<Work['record']>(
    (channels, purpose, sendFirst = false, method = 'sweep') => {
      void act(async () => {
        let state: unknown;
        if (sendFirst) state = await settled(client.POST('/api/projects/{slug}/processor/send', path));
        const { note, angle } = useWindow.getState();
        const single = purpose === 'driver';
        const body = {
          channels,
          purpose,
          method,
          note: single ? note : '',
          angle: single && method === 'sweep' && angle ? angle : null,
        };
        await settled(client.POST('/api/projects/{slug}/takes', { ...path, body }));
        return state;
      });
    },
    [act, path],
  );

  const stop = useCallback(() => {
    void act(() => settled(client.POST('/api/projects/{slug}/takes/abort', path)));
  }, [act, path]);

  const begin = useCallback<Work['begin']>(
    async (call) =>
      act(async () => {
        await call();
      }),
    [act],
  );

  const onRig = useCallback<Work['onRig']>(
    async (call) =>
      act(async () => {
        const { understood } = ((await call()) ?? {}) as { understood?: string };
        const state = await settled<State>(client.GET('/api/projects/{slug}', path));
        return { state, understood };
      }),
    [act, path],
  );

  const tune = drafted ?? project?.tune;
  // The same as long as nothing of it changes: parts of the page that are given it alone are not rendered anew.
  const work = useMemo(
    () =>
      project && tune
        ? { project, tune, stage, slug, draft, commit, undo, redo, act, record, stop, begin, onRig, recording }
        : null,
    [project, tune, stage, slug, draft, commit, undo, redo, act, record, stop, begin, onRig, recording],
  );
  const missing = !project && query.error instanceof Refusal && query.error.status === 404;
  const refused = !project && !missing && query.error instanceof Refusal ? query.error.message : '';
  return { work, missing, refused };
}
