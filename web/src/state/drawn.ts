/** What this window asks the server to draw, and the marks that say whether it is drawn. */
import { useEffect, type RefObject } from 'react';
import type { Live } from '../api/live';
import type { Edit, Project, Stage } from '../api/types';
import { viewOf } from './view';
import { useWindow } from './window';

/**
 * Ask for what this window looks at, with every change of it and of the project. It listens to the window's state by
 * itself: the page is not rendered anew where it is only looked at otherwise, or where a picture comes.
 */
export function useDrawn(project: Project | undefined, stage: Stage, live: RefObject<Live | null>) {
  useEffect(() => {
    if (!project) return;
    let asked: { view: string; edits: Edit[] } | null = null;
    let frame = 0;
    const mark = () => {
      const { picture, draft } = useWindow.getState();
      const same =
        !draft.length &&
        picture !== null &&
        !picture.draft &&
        picture.revision === project.revision.id &&
        JSON.stringify(picture.view) === asked?.view;
      frame = 0;
      // For those who drive the page from outside: what is drawn, and how much there is.
      Object.assign(document.documentElement.dataset, {
        stage,
        settled: same ? 'yes' : 'no',
        takes: String(project.takes[0]?.id ?? 0),
      });
    };
    const look = () => {
      const now = useWindow.getState();
      const view = viewOf(stage, now, project);
      const text = JSON.stringify(view);
      if (asked?.view !== text || asked.edits !== now.draft) {
        asked = { view: text, edits: now.draft };
        live.current?.want({ view, edits: now.draft });
      }
      frame ||= requestAnimationFrame(mark);
    };
    look();
    const leave = useWindow.subscribe(look);
    return () => {
      leave();
      cancelAnimationFrame(frame);
    };
  }, [live, project, stage]);
}
