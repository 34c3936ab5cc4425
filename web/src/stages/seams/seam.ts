/** The seam that is looked at. */
import type { Crossover, Project, Seam, Tune } from '../../api/types';
import { partsOf } from '../../state/system';
import type { Work } from '../../state/project';
import { WHOLE } from '../common/doing';
import { useWindow } from '../../state/window';

/** Which part of Seams is looked at: all of it, or one seam. */
export const useWhole = () => useWindow((state) => state.seam === WHOLE);

export type End = 'high_pass' | 'low_pass';

export function useSeam(work: Work): { seam: Seam; title: string; name: (id: string) => string } {
  const id = useWindow((state) => state.seam);
  const { project } = work;
  const seam = project.seams.find((one) => one.id === id) ?? project.seams[0];
  const name = (driver: string) => project.layout.drivers.find((one) => one.id === driver)?.name ?? driver;
  return { seam, title: titleOf(project, seam), name };
}

export const ends = (tune: Tune, seam: Seam): [string, End, Crossover | null][] => [
  [seam.uppers[0], 'high_pass', tune.channels[seam.uppers[0]].high_pass],
  [seam.lowers[0], 'low_pass', tune.channels[seam.lowers[0]].low_pass],
];

export const titleOf = (project: Project, seam: Seam): string => {
  const [lower, upper] = partsOf(project, seam);
  return `${capital(lower)} ↔ ${capital(upper)}`;
};

export const capital = (words: string) => words.charAt(0).toUpperCase() + words.slice(1);

/** The ends of a seam's two ways that no other seam stands at: a sub's high-pass, a tweeter's low-pass. */
export const outerEnds = (seams: Seam[], { lowers, uppers, ways }: Seam): [string, End][] => {
  if (!ways) return [];
  const found: [string, End][] = [];
  if (!seams.some((one) => one.ways && one.uppers.includes(lowers[0]))) found.push([lowers[0], 'high_pass']);
  if (!seams.some((one) => one.ways && one.lowers.includes(uppers[0]))) found.push([uppers[0], 'low_pass']);
  return found;
};
