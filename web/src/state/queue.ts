/** Commands of this window, one after the other: the answer that comes last is that of the command given last. */

let tail: Promise<unknown> = Promise.resolve();

/** Do a thing when everything that was begun before has ended, well or not. */
export function inTurn<T>(job: () => Promise<T>): Promise<T> {
  const next = tail.then(job, job);
  tail = next.catch(() => undefined);
  return next;
}
