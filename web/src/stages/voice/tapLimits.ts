/** The limits of taps by frequency, as the server takes them: bands over the whole span, the later ones first. */
import type { Bound, Channel, Wish } from '../../api/types';

export type Limit = 'boost_db' | 'cut_db' | 'tolerance_db';
export const MOST: Record<Limit, number> = { boost_db: 18, cut_db: 40, tolerance_db: 12 };

/** A stretch of the span with limits of one origin: `n` is the band's place, -1 where none says otherwise. */
export interface Stretch {
  n: number;
  from: number;
  to: number;
  is: Pick<Bound, Limit>;
}

export function stretches(wish: Wish): Stretch[] {
  const inside = (at: number) => Math.max(wish.low_hz, Math.min(wish.high_hz, at));
  const ends = [wish.low_hz, wish.high_hz, ...wish.bounds.flatMap((one) => [inside(one.low_hz), inside(one.high_hz)])];
  const edges = [...new Set(ends)].sort((a, b) => a - b);
  const made: Stretch[] = [];
  for (let k = 1; k < edges.length; k += 1) {
    const [from, to] = [edges[k - 1], edges[k]];
    const middle = Math.sqrt(from * to);
    const n = wish.bounds.findLastIndex((one) => one.low_hz <= middle && middle <= one.high_hz);
    const last = made[made.length - 1];
    if (last?.n === n) last.to = to;
    else made.push({ n, from, to, is: n < 0 ? wish : wish.bounds[n] });
  }
  return made;
}

/** The wish with a limit changed: of a band, or of all that no band is about. */
export function withLimit(wish: Wish, n: number, limit: Limit, value: number): Wish {
  const at = Math.round(Math.max(0, Math.min(MOST[limit], value)) * 2) / 2;
  if (n < 0) return { ...wish, [limit]: at };
  return { ...wish, bounds: wish.bounds.map((one, k) => (k === n ? { ...one, [limit]: at } : one)) };
}

/** The widest stretch of each band, and of what no band is about: where its handles stand. */
export function widest(all: Stretch[]): Stretch[] {
  const best = new Map<number, Stretch>();
  for (const one of all) {
    const had = best.get(one.n);
    if (!had || one.to / one.from > had.to / had.from) best.set(one.n, one);
  }
  return [...best.values()];
}

/** Where a new band begins and ends: beyond the corner of a channel, where limits are wanted first. */
export function freshBand(channel: Channel | undefined, wish: Wish): [number, number] {
  const low = channel?.low_pass?.corner_hz;
  if (low && low < wish.high_hz) return [low, Math.min(wish.high_hz, 2 * low)];
  const high = channel?.high_pass?.corner_hz;
  if (high && high > wish.low_hz) return [Math.max(wish.low_hz, high / 2), high];
  return [wish.low_hz, Math.min(wish.high_hz, 2 * wish.low_hz)];
}
