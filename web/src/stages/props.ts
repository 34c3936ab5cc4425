/** What every stage is given. */
import type { Work } from '../state/project';

export interface StageProps {
  work: Work;
  selection: string;
}
