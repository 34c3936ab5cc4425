/** Files from this machine to the server: what is too large is refused here, before it travels. */
import { Refusal } from './client';

const MOST_BYTES = 64_000_000;

const DESCRIPTION = /\.(json|zip)$/i;

/** Of several files chosen together the one that is meant, and the description of a sweep where it is among them. */
export function withSweep(chosen: File[]): { main: File; sweep?: File } {
  const main = chosen.find((one) => !DESCRIPTION.test(one.name)) ?? chosen[0];
  return { main, sweep: chosen.find((one) => one !== main && DESCRIPTION.test(one.name)) };
}

/** A form with the file and the fields beside it, further files among them. Throws a Refusal for a file of more bytes
 * than are taken. */
export function formWith(file: File, fields: Record<string, string | File> = {}, most = MOST_BYTES): FormData {
  if (file.size > most) {
    throw new Refusal(`${file.name} has ${Math.round(file.size / 1e6)} MB; at most ${most / 1e6} MB are taken.`);
  }
  const form = new FormData();
  form.append('file', file);
  for (const [name, value] of Object.entries(fields)) form.append(name, value);
  return form;
}
