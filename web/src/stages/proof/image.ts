/** The image as a person hears it: which band plays, where it stands, and what is done with the answer. */
import { useQuery } from '@tanstack/react-query';
import { client, settled } from '../../api/client';
import type { Begun, Image, ImageBand, Progress } from '../../api/types';
import type { Work } from '../../state/project';
import { useWindow } from '../../state/window';

const STEP = 0.1;
const FINE = 0.02;

export const imageKey = (work: Work) => ['image', work.slug, work.project.version];

export function useImage(work: Work): Image | undefined {
  const { data } = useQuery({
    queryKey: imageKey(work),
    placeholderData: (before: Image | undefined) => before,
    queryFn: () => settled<Image>(client.GET('/api/projects/{slug}/image', { params: { path: { slug: work.slug } } })),
  });
  return data;
}

export const same = (one: { hz: number; octaves: number }, other: { hz: number; octaves: number }) =>
  one.hz === other.hz && one.octaves === other.octaves;

/** All bands so wide as the one that is asked for. */
export const bandsLike = (image: Image, octaves: number): { hz: number; octaves: number }[] =>
  octaves === 1 ? image.bands.filter((one) => one.octaves === 1) : image.thirds_hz.map((hz) => ({ hz, octaves }));

/** The band to be heard next: the first after this one that has no answer, else the next one. */
export function nextBand(image: Image, now: { hz: number; octaves: number }): { hz: number; octaves: number } {
  const all = bandsLike(image, now.octaves);
  const at = all.findIndex((one) => same(one, now));
  const after = [...all.slice(at + 1), ...all.slice(0, at + 1)];
  const heard = (one: { hz: number; octaves: number }) =>
    image.bands.some((each: ImageBand) => same(each, one) && each.state === 'heard');
  return after.find((one) => !heard(one)) ?? after[0];
}

/** Let nothing play any more. */
export function stopBand(work: Work) {
  useWindow.getState().set({ imageOn: false });
  if (work.recording) work.stop();
}

/** Play the band that is asked for; what the processor lacks is sent first. Blind, the server draws one. */
export function playBand(work: Work, side?: 'both' | 'left' | 'right') {
  const { imageBand, imageSide, imageBlind, imageLevel, imageSound, set } = useWindow.getState();
  const path = { params: { path: { slug: work.slug } } };
  const from = side ?? imageSide;
  set({ imageSide: from, imageOn: true, imageJob: 0 });
  const began = work.act(async () => {
    let state: unknown;
    if (work.project.link.unsent.length)
      state = await settled(client.POST('/api/projects/{slug}/processor/send', path));
    const body = { octaves: imageBand.octaves, sound: imageSound, side: from, level_db: imageLevel, seconds: 900 };
    const hz = imageBlind ? null : imageBand.hz;
    const { job } = await settled<Begun>(
      client.POST('/api/projects/{slug}/image/play', { ...path, body: { ...body, hz } }),
    );
    set({ imageJob: job });
    return state;
  });
  void began.then((plays) => plays || set({ imageOn: false }));
}

/** Do something; what plays goes on with what is asked for then. */
export function playOn(work: Work, change: () => void) {
  change();
  if (useWindow.getState().imageOn) playBand(work);
}

/** Keep where the band stands, and go on to the next one; it plays on where something played. */
export function keepAnswer(work: Work) {
  const { imageBand, imageMarks, imageFar, imageHigh, imageBlind, set } = useWindow.getState();
  const places = [...imageMarks].sort((a, b) => a - b) as [number, number];
  const path = { params: { path: { slug: work.slug } } };
  void work
    .begin(async () => {
      const body = { places, far: imageFar, high: imageHigh, octaves: imageBand.octaves };
      const hz = imageBlind ? null : imageBand.hz;
      const image = await settled<Image>(
        client.POST('/api/projects/{slug}/image/answers', { ...path, body: { ...body, hz } }),
      );
      const next = nextBand(image, imageBand);
      set({ imageMarks: [0, 0], imageFar: false, imageHigh: false, imageBand: next, imageJob: 0 });
    })
    .then((kept) => kept && useWindow.getState().imageOn && playBand(work));
}

/** Where the stand-in's listener hears the band that is asked for: what was heard of the one before is no answer. */
export const heardBy = ({ progress, imageJob }: { progress: Progress | null; imageJob: number }) =>
  progress?.kind === 'image' && progress.job === imageJob ? progress.result?.places : undefined;

/** Put the mark where the stand-in's listener hears the band. */
export function asListener() {
  const state = useWindow.getState();
  const places = heardBy(state);
  if (places) state.set({ imageMarks: [places[0], places[1]] });
}

/** Move the mark, or the second one of two. */
export function moveMark(by: -1 | 1, fine: boolean) {
  const { imageMarks, set } = useWindow.getState();
  const one = Math.round((imageMarks[1] + by * (fine ? FINE : STEP)) * 100) / 100;
  const to = Math.min(1, Math.max(-1, one));
  set({ imageMarks: split(imageMarks) ? [imageMarks[0], to] : [to, to] });
}

/** Whether there are two marks; how far apart they have to be to mean something, the server knows. */
export const split = (marks: [number, number]) => marks[0] !== marks[1];

/** Let the sound fall in two, or bring it together. */
export function splitMark() {
  const { imageMarks, set } = useWindow.getState();
  const middle = (imageMarks[0] + imageMarks[1]) / 2;
  set({ imageMarks: split(imageMarks) ? [middle, middle] : [-1, 1] });
}

/** Ask for another band. */
export function stepBand(image: Image | undefined, by: -1 | 1) {
  const { imageBand, set } = useWindow.getState();
  if (!image) return;
  const all = bandsLike(image, imageBand.octaves);
  const at = all.findIndex((one) => same(one, imageBand));
  set({ imageBand: all[(at + by + all.length) % all.length], imageMarks: [0, 0] });
}
