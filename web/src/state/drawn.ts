/** What this window asks the server to draw, and the marks that say whether it is drawn. */
import { useEffect, type RefObject } from 'react';
import type { Live } from '../api/live';
import type { Edit, Project, Stage, View } from '../api/types';
import { viewOf } from './view';
import { useWindow } from './window';

interface Follows {
  /** Ask for a view with edits that are not kept. */
  ask: (view: View, edits: Edit[]) => void;
  /** Something may be drawn now that was not, or the other way round. */
  changed: () => void;
}

/** Follows what a window looks at, from now until `leave` is called. */
export function follow(project: Project, stage: Stage, { ask, changed }: Follows) {
  let asked: { text: string; edits: Edit[] } | null = null;
  const look = () => {
    const now = useWindow.getState();
    const view = viewOf(stage, now, project);
    const text = JSON.stringify(view);
    if (asked?.text !== text || asked.edits !== now.draft) {
      asked = { text, edits: now.draft };
      ask(view, now.draft);
    }
    changed();
  };
  /** Whether the picture that is there is that of this view and of what is kept. */
  const drawn = () => {
    const { picture, draft } = useWindow.getState();
    const kept = picture !== null && !picture.draft && picture.revision === project.revision.id;
    return !draft.length && kept && JSON.stringify(picture.view) === asked?.text;
  };
  look();
  return { drawn, leave: useWindow.subscribe(look) };
}

/**
 * Ask for what this window looks at, with every change of it and of the project. It listens to the window's state by
 * itself: the page is not rendered anew where it is only looked at otherwise, or where a picture comes.
 */
export function useDrawn(project: Project | undefined, stage: Stage, live: RefObject<Live | null>) {
  useEffect(() => {
    if (!project) return;
    let frame = 0;
    // For those who drive the page from outside: what is drawn, and how much there is.
    const mark = () => {
      frame = 0;
      Object.assign(document.documentElement.dataset, {
        stage,
        settled: followed.drawn() ? 'yes' : 'no',
        takes: String(project.takes[0]?.id ?? 0),
      });
    };
    const followed = follow(project, stage, {
      ask: (view, edits) => live.current?.want({ view, edits }),
      changed: () => {
        frame ||= requestAnimationFrame(mark);
      },
    });
    return () => {
      followed.leave();
      cancelAnimationFrame(frame);
    };
  }, [live, project, stage]);
}
