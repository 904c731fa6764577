import { robustFit } from '../geometry/fit';
import type { Pair } from '../geometry/fit';
import { applyHomography } from '../geometry/homography';
import type { TrackTable } from './tracks';
import { LEAST_TRACKS, median } from './tracks';

/** Share of the picture's width that tracks move from one key frame to the next. */
const APART = 0.035;
/** Share of a key frame's tracks that the next one still has. */
const KEPT = 0.55;
const MOST_KEYS = 24;
const LEAST_KEYS = 5;

/** Frames from which the camera is found first: apart enough to tell depth, near enough to share tracks. */
export function keyFrames(table: TrackTable, width: number): number[] {
  const usable = table.seen.flatMap((s, t) => (s.length >= LEAST_TRACKS ? [t] : []));
  if (usable.length <= LEAST_KEYS) return usable;
  const keys = [usable[0]!];
  for (const t of usable.slice(1)) {
    const last = keys[keys.length - 1]!;
    const shared = table.common(last, t).length;
    const full = shared < KEPT * table.seen[last]!.length || shared < 2 * LEAST_TRACKS;
    if (full || table.moved(last, t) > APART * width) {
      // The frame before still shares enough.
      const before = usable[usable.indexOf(t) - 1]!;
      keys.push(full && before !== last ? before : t);
    }
  }
  const end = usable[usable.length - 1]!;
  if (keys[keys.length - 1] !== end) keys.push(end);
  const wanted = Math.max(LEAST_KEYS, Math.min(MOST_KEYS, keys.length));
  if (keys.length === wanted) return keys;
  const from = keys.length < wanted ? usable : keys;
  return [...new Set(Array.from({ length: wanted }, (_, i) => from[Math.round((i * (from.length - 1)) / (wanted - 1))]!))];
}

/** Two key frames, what they share, and how far that is from lying on one plane (or at one eye), px. */
export interface KeyPair {
  readonly a: number;
  readonly b: number;
  readonly tracks: readonly number[];
  readonly pairs: readonly Pair[];
  /** Squares of the distance from what the best homography says, px², of each. */
  readonly offPlane: readonly number[];
  /** Median of that distance, px. */
  readonly parallax: number;
}

/** Tracks of a pair that are looked at. */
const LOOKED = 150;

/** Pairs of key frames, the most telling first: those that no homography explains, and that share much. */
export function keyPairs(table: TrackTable, keys: readonly number[], tolerance: number): KeyPair[] {
  const list: KeyPair[] = [];
  for (let j = 1; j < keys.length; j++) {
    for (let i = 0; i < j; i++) {
      const all = table.common(keys[i]!, keys[j]!);
      if (all.length < LEAST_TRACKS) continue;
      const step = Math.max(1, Math.floor(all.length / LOOKED));
      const tracks = all.filter((_, n) => n % step === 0);
      const pairs = tracks.map((k): Pair => [...table.at(k, keys[i]!)!, ...table.at(k, keys[j]!)!] as unknown as Pair);
      const fit = robustFit('perspective', pairs, 3 * tolerance);
      if (!fit) continue;
      const offPlane = pairs.map(([x, y, u, v]) => {
        const [p, q, w] = applyHomography(fit.map, x, y);
        return w > 0 ? (p - u) ** 2 + (q - v) ** 2 : Infinity;
      });
      list.push({ a: keys[i]!, b: keys[j]!, tracks, pairs, offPlane, parallax: median(offPlane.map(Math.sqrt)) });
    }
  }
  const worth = (p: KeyPair): number => Math.min(p.parallax, 20 * tolerance) * Math.min(1, p.tracks.length / 40);
  return list.sort((p, q) => worth(q) - worth(p));
}

/** Of a model with so many parameters, on pairs whose residuals have these squares (Torr 1998): the lower the better. */
export function gric(squares: readonly number[], sigma: number, dimension: 2 | 3, parameters: number): number {
  const n = squares.length;
  const [l1, l2, l3] = [Math.log(4), Math.log(4 * n), 2];
  const sum = squares.reduce((s, e) => s + Math.min(e / (sigma * sigma), l3 * (4 - dimension)), 0);
  return sum + l1 * dimension * n + l2 * parameters;
}
