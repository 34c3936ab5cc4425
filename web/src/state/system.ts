/** What a system's parts are to each other, for places that show them. */
import type { Driver, Group, Project, Seam, Side, Tune } from '../api/types';

export const GROUPS: Record<Group, string> = { front: 'Front', centre: 'Centre', rear: 'Rear', sub: 'Subs' };

/** A driver's equals: those of its way and group, itself among them. */
export const alike = (project: Project, driver: Driver | undefined): Driver[] =>
  project.layout.drivers.filter((one) => one.kind === driver?.kind && one.group === driver.group);

/** The group that the subs are shown and voiced with: the front, or what there is in its stead. */
export const mainOf = (project: Project): Group =>
  (['front', 'centre', 'rear'] as const).find((group) => project.layout.drivers.some((one) => one.group === group)) ??
  'sub';

/** Whether there is a left and a right side for a sound to stand between: then the two have a seam. */
export const hasSides = (project: Project): boolean =>
  project.seams.some((seam) => !seam.ways && seam.group !== 'sub' && seam.group === mainOf(project));

/** The group that a driver is shown with. */
export const shownWith = (project: Project, driver: Driver): Group =>
  driver.group === 'sub' ? mainOf(project) : driver.group;

/** The groups of a system as they are shown, the main one first. */
export const groupsOf = (project: Project): Group[] => [
  ...new Set([mainOf(project), ...project.layout.drivers.map((one) => shownWith(project, one))]),
];

/** The group that a seam is shown with. */
export const groupOfSeam = (project: Project, seam: Seam): Group =>
  shownWith(
    project,
    project.layout.drivers.find((one) => one.id === seam.uppers[0])!,
  );

/** The row that a driver stands on: its side's; several subs share the rows, one above the other. */
export function rowOf(project: Project, driver: Driver): Side {
  if (driver.group !== 'sub' || driver.side !== 'both') return driver.side;
  const subs = project.layout.drivers.filter((one) => one.group === 'sub');
  return subs.length < 2 ? 'both' : subs.indexOf(driver) % 2 ? 'right' : 'left';
}

/** A driver's name where its group is said already. */
export function nameInGroup(driver: Driver): string {
  const [first, ...rest] = driver.name.split(' ');
  if (driver.group === 'front' || rest.length < 2 || first !== GROUPS[driver.group]) return driver.name;
  const name = rest.join(' ');
  return name.charAt(0).toUpperCase() + name.slice(1);
}

/** Name without its side. */
export const short = (name: string) => name.replace(/ [LR]$/, '');

/** What stands against what at a seam, the lower or left one first. */
export function partsOf(project: Project, seam: Seam): [string, string] {
  const name = (id: string) => project.layout.drivers.find((one) => one.id === id)?.name ?? id;
  if (!seam.ways && seam.lowers.length + seam.uppers.length > 2) {
    const where = seam.group === 'front' ? '' : `${GROUPS[seam.group]} `;
    return [`${where}left`, `${where}right`];
  }
  const group = (ids: string[]) => {
    if (ids.length === 1) return name(ids[0]);
    const subs = project.layout.drivers.find((one) => one.id === ids[0])?.group === 'sub';
    return subs ? 'Subs' : `${short(name(ids[0]))} L + R`;
  };
  return [group(seam.lowers), group(seam.uppers)];
}

/** The places of the microphone at which every one of some drivers was recorded. */
export function placesOf(project: Project, drivers: string[]): string[] {
  const [first = [], ...others] = drivers.map((id) => project.drivers[id]?.places ?? []);
  return first.filter((spot) => others.every((one) => one.includes(spot)));
}

/** What of a channel is set as on the other side: its corners at all seams that it has, its level, its bands. */
export function tiesOf(tune: Tune, driver: Driver, project: Project): ('corners' | 'level' | 'bands')[] {
  if (alike(project, driver).length < 2) return [];
  const mine = project.seams.filter((one) => one.name && [...one.lowers, ...one.uppers].includes(driver.id));
  const found: ('corners' | 'level' | 'bands')[] = [];
  if (mine.length > 0 && mine.every((one) => tune.tied_sides.includes(one.name!))) found.push('corners');
  if (tune.tied_levels.includes(driver.id)) found.push('level');
  if (tune.tied_bands.includes(driver.id)) found.push('bands');
  return found;
}
