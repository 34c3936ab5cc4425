/** The socket of a project: its pictures and progress go to the window's state, word of changes to whoever asks. */
import { useEffect, useRef, type RefObject } from 'react';
import { sentence } from '../api/client';
import { Live } from '../api/live';
import type { Progress } from '../api/types';
import { useWindow, WINDOW } from './window';

/** What this page began with, where it was built and served. */
const ENTRY = /\/assets\/(index-[^/]+\.js)$/;
const entry = () => ENTRY.exec(document.querySelector<HTMLScriptElement>('script[src]')?.src ?? '')?.[1];

export const running = (progress: Progress | null): boolean =>
  progress !== null && ['countdown', 'waiting', 'playing', 'computing'].includes(progress.stage);

/** What changes many times a second while a job goes on as it did. */
const FIGURES: (keyof Progress)[] = ['done', 'seconds_left', 'peak_dbfs', 'meters', 'averages', 'change_db', 'version'];
/** What the analyser finds is new with every frame. */
const FRAMES: (keyof Progress)[] = [...FIGURES, 'result'];

/** Whether a job does what it did a moment ago, its figures aside. */
export function goesOn(before: Progress | null, now: Progress): boolean {
  if (before === null) return false;
  const moving = now.kind === 'live' && running(now) ? FRAMES : FIGURES;
  const steady = (Object.keys(now) as (keyof Progress)[]).filter((key) => !moving.includes(key));
  return steady.every((key) => before[key] === now[key] || JSON.stringify(before[key]) === JSON.stringify(now[key]));
}

/** Take news of a job in: what it kept is what is looked at from now on, where it was kept for this project. */
function hear(now: Progress, slug: string) {
  const { progress: before, moment, set } = useWindow.getState();
  const progress = before && goesOn(before, now) ? before : now;
  set({ moment: now, progress });
  if (moment?.version === now.version) return;
  if (progress.stage === 'kept' && progress.project === slug) {
    set(
      progress.kind === 'listen'
        ? { rawTake: progress.take_id, rawShown: [0, 0], rawMarked: [0, 0] }
        : { proofTake: null, olderTake: null, note: '' },
    );
  }
  if (!running(progress)) set({ growing: null });
}

/** The open socket; `changed` is told of every change with the version that it made. */
export function useSocket(slug: string, changed: (version: number) => void): RefObject<Live | null> {
  const live = useRef<Live | null>(null);
  const told = useRef(changed);
  useEffect(() => {
    told.current = changed;
  });
  useEffect(() => {
    const { set } = useWindow.getState();
    let lost = false;
    const socket = new Live(slug, WINDOW, {
      picture: (picture) => set({ picture }),
      // A frame that was under way when the job ended comes late: nothing grows any more.
      growing: (growing) => running(useWindow.getState().progress) && set({ growing }),
      progress: (progress) => hear(progress, slug),
      changed: (version) => told.current(version),
      error: (error) => set({ error: sentence(error) }),
      page: (served) => set({ outdated: entry() !== undefined && entry() !== served }),
      linked: (linked) => {
        set({ linked });
        if (linked && lost) told.current(Infinity);
        lost = !linked;
      },
    });
    live.current = socket;
    return () => socket.close();
  }, [slug]);
  return live;
}
