/** Listening: music through two tunes, as loud as each other, blind if wanted. */
import { useQuery } from '@tanstack/react-query';
import { client, settled } from '../../api/client';
import { formWith } from '../../api/files';
import type { Audition, Song } from '../../api/types';
import type { Work } from '../../state/project';
import { useWindow } from '../../state/window';

export type Which = 'a' | 'b' | 'x';

export const listenKey = (work: Work) => ['audition', work.slug, work.project.version];

export function useAudition(work: Work): Audition | undefined {
  const { data } = useQuery({
    queryKey: listenKey(work),
    placeholderData: (before: Audition | undefined) => before,
    queryFn: () =>
      settled<Audition>(client.GET('/api/projects/{slug}/audition', { params: { path: { slug: work.slug } } })),
  });
  return data;
}

/** Whether music plays, and what it comes through. */
export function soundsNow(): Which | null {
  const { progress } = useWindow.getState();
  const plays = progress?.kind === 'music' && ['playing', 'waiting', 'countdown'].includes(progress.stage);
  return plays ? (progress.result?.sounds ?? 'a') : null;
}

export function playMusic(work: Work, start: Which = 'a', song?: number) {
  const { listenSong, listenLevel, listenOn, set } = useWindow.getState();
  const then = listenOn ? ('next' as const) : ('same' as const);
  const body = { song: song ?? listenSong, start, level_db: listenLevel, then };
  set({ listenSong: body.song, listenTold: null });
  void work.begin(() =>
    settled(client.POST('/api/projects/{slug}/audition/play', { params: { path: { slug: work.slug } }, body })),
  );
}

/** The piece that plays, else the one that is chosen: where one follows another, it is not the one that was pressed. */
export function useSong(): number {
  return useWindow(({ progress, listenSong }) => {
    const plays = progress?.kind === 'music' && progress.stage === 'playing';
    return plays && progress.purpose ? Number(progress.purpose) : listenSong;
  });
}

/** Let the music come through A, B or X; it begins where none plays. */
export function hear(work: Work, to: Which) {
  if (!soundsNow()) return playMusic(work, to);
  void work.begin(() =>
    settled(
      client.POST('/api/projects/{slug}/audition/switch', { params: { path: { slug: work.slug } }, body: { to } }),
    ),
  );
}

export function compare(
  work: Work,
  audition: Audition,
  change: Partial<Pick<Audition, 'a' | 'b' | 'blind' | 'unlocked'>>,
) {
  const { a, b, blind, unlocked } = { ...audition, ...change };
  useWindow.getState().set({ listenTold: null });
  void work.begin(() =>
    settled(
      client.PUT('/api/projects/{slug}/audition', {
        params: { path: { slug: work.slug } },
        body: { a, b, blind, unlocked },
      }),
    ),
  );
}

/** Say what X is; it is told, and X plays on as another one. */
export function sayX(work: Work, said: 'a' | 'b') {
  void work.begin(async () => {
    const path = { params: { path: { slug: work.slug } } };
    const told = await settled<{ was: 'a' | 'b' }>(
      client.POST('/api/projects/{slug}/audition/answer', { ...path, body: { said } }),
    );
    useWindow.getState().set({ listenTold: { was: told.was, said } });
  });
}

export const forgetTrials = (work: Work) => {
  useWindow.getState().set({ listenTold: null });
  void work.begin(() =>
    settled(client.DELETE('/api/projects/{slug}/audition/trials', { params: { path: { slug: work.slug } } })),
  );
};

export function bringSong(work: Work, file: File) {
  void work.begin(async () => {
    const made = await settled<Song>(client.POST('/api/songs', { body: formWith(file) as never }));
    useWindow.getState().set({ listenSong: made.id });
  });
}

export function dropSong(work: Work, id: number) {
  useWindow.getState().set({ listenSong: -2 });
  void work.begin(() => settled(client.DELETE('/api/songs/{song_id}', { params: { path: { song_id: id } } })));
}

export const makeNote = (work: Work, text: string, heard: string) =>
  work.begin(() =>
    settled(
      client.POST('/api/projects/{slug}/notes', { params: { path: { slug: work.slug } }, body: { text, heard } }),
    ),
  );

export const dropNote = (work: Work, id: number) =>
  void work.begin(() =>
    settled(
      client.DELETE('/api/projects/{slug}/notes/{note_id}', { params: { path: { slug: work.slug, note_id: id } } }),
    ),
  );
