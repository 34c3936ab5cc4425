/** The bands of an input of the processor, which straighten what comes there. */
import type { Band, Edit } from '../../api/types';
import type { Work } from '../../state/project';

export const bandsAt = (work: Work, number: number): Band[] => work.tune.inputs[number - 1]?.bands ?? [];

/** Another band in the place of one, or none; after the last one more. */
export function putBandAt(work: Work, number: number, n: number, band: Band | null): Edit {
  const bands = [...bandsAt(work, number)];
  bands.splice(n, 1, ...(band ? [band] : []));
  return { do: 'input', input: number, straightens: true, bands };
}
