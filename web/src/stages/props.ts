/** What every stage is given. */
import type { Work } from '../frame/useProject';

export interface StageProps { work: Work; selection: string }
