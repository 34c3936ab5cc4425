/** The picture that was kept from the last time: it stands while the program behind the page is still being loaded. */
import { useEffect } from 'react';
import { client } from '../api/client';
import { decode } from '../api/live';
import type { Picture, Project, Stage } from '../api/types';
import { viewOf } from './view';
import { useWindow } from './window';

/** What is kept has no number; the socket counts its pictures from one. */
const KEPT = 0;

/** Take a kept picture, where nothing has come yet and it is of what this window looks at. */
export function begin(kept: Picture, project: Project, stage: Stage) {
  const now = useWindow.getState();
  const same = JSON.stringify(kept.view) === JSON.stringify(viewOf(stage, now, project));
  if (same && !now.picture && !now.draft.length && kept.revision === project.revision.id) {
    now.set({ picture: { ...kept, seq: KEPT } });
  }
}

/**
 * Show the kept picture where the project's state was kept as well. Whether that state is to be asked for anew: not
 * before the socket has said something, whose curves would wait for it.
 */
export function useBegins(project: Project | undefined, stage: Stage): boolean {
  const old = project && project.version < 0 ? project : undefined;
  useEffect(() => {
    if (!old) return;
    const asked = { params: { path: { slug: old.slug } }, parseAs: 'arrayBuffer' as const };
    void client.GET('/api/projects/{slug}/begins', asked).then(
      ({ data }) => data && begin(decode(data as unknown as ArrayBuffer), old, stage),
      () => undefined, // the socket's picture comes anyway, or says what is wrong
    );
  }, [old, stage]);
  const looked = useWindow((now) => now.error !== null || (now.picture?.seq ?? KEPT) > KEPT);
  return old !== undefined && looked;
}
