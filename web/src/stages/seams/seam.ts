/** The seam that is looked at. */
import type { Crossover, Seam, Tune } from '../../api/types';
import type { Work } from '../../state/project';
import { useWindow } from '../../state/window';

export type End = 'high_pass' | 'low_pass';

export function useSeam(work: Work): { seam: Seam; title: string; name: (id: string) => string } {
  const id = useWindow((state) => state.seam);
  const { project } = work;
  const seam = project.seams.find((one) => one.id === id) ?? project.seams[0];
  const name = (driver: string) => project.layout.drivers.find((one) => one.id === driver)?.name ?? driver;
  const group = (ids: string[]) => (ids.length === 1 ? name(ids[0]) : `${name(ids[0]).replace(/ [LR]$/, '')} L + R`);
  const title = seam.ways ? `${group(seam.lowers)} ↔ ${group(seam.uppers)}` : 'Left ↔ Right';
  return { seam, title, name };
}

export const ends = (tune: Tune, seam: Seam): [string, End, Crossover | null][] => [
  [seam.uppers[0], 'high_pass', tune.channels[seam.uppers[0]].high_pass],
  [seam.lowers[0], 'low_pass', tune.channels[seam.lowers[0]].low_pass],
];

export const short = (name: string) => name.replace(/ [LR]$/, '');

/** The ends of a seam's two ways that no other seam stands at: a sub's high-pass, a tweeter's low-pass. */
export const outerEnds = (seams: Seam[], { lowers, uppers, ways }: Seam): [string, End][] => {
  if (!ways) return [];
  const found: [string, End][] = [];
  if (!seams.some((one) => one.ways && one.uppers.includes(lowers[0]))) found.push([lowers[0], 'high_pass']);
  if (!seams.some((one) => one.ways && one.lowers.includes(uppers[0]))) found.push([uppers[0], 'low_pass']);
  return found;
};
