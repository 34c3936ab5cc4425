/** The strip's own measures, and what each of its parts is given. */
import type { Crossover, Driver, Project, Tune } from '../../api/types';
import { groupsOf } from '../../state/system';

export interface StripProps {
  project: Project;
  tune: Tune;
  selection: string;
  seam: string;
  seamsOpen: boolean;
  onSelect: (driver: string) => void;
  onSeam: (seam: string) => void;
  onCorner: (driver: string, end: 'high_pass' | 'low_pass', hertz: number, done: boolean) => void;
  onMute: (driver: string) => void;
  onSolo: (driver: string) => void;
}

export const ROW = 36;
export const TOP = 8;
/** The height of a group that is folded. */
export const FOLD = 20;
/** Where the folded groups begin. */
export const FOLDS = TOP + ROW * 2 + 6;

export const stripHeight = (project: Project) => TOP * 2 + ROW * 2 + 24 + FOLD * (groupsOf(project).length - 1);

/** From corner to corner, or the usable band where no corner is set. */
export function span(project: Project, tune: Tune, driver: Driver): [number, number, boolean] {
  const channel = tune.channels[driver.id];
  const read = project.drivers[driver.id];
  // A draft may set the corner that only the guard stands in for as yet.
  const set = channel.high_pass?.corner_hz !== project.tune.channels[driver.id].high_pass?.corner_hz;
  const guarded = project.guarded.includes(driver.id) && !set;
  const low = (!guarded && channel.high_pass?.corner_hz) || read?.low_hz || channel.high_pass?.corner_hz || 20;
  const high = channel.low_pass?.corner_hz ?? read?.high_hz ?? 20000;
  return [low, Math.max(high, low * 1.05), Boolean(read || channel.high_pass || channel.low_pass)];
}

export const slant = (end: Crossover | null) => (end ? Math.min(26, 340 / end.slope_db) : 4);
