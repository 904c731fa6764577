import { LRUCache } from 'lru-cache';
import { IDENTITY_H, invert, multiply } from '../geometry/fit';
import type { Homography } from '../geometry/homography';
import { applyHomography } from '../geometry/homography';
import type { Motion, Parts, ReadingData } from './track-data';
import { followMap, motionAt, motionMap } from './track-data';

export interface SteadySettings {
  mode: 'lock' | 'smooth';
  /** Frames over which a motion is smoothed: the deviation of Gauss's curve is a third of it. */
  window: number;
  parts: Parts;
  fill: 'none' | 'constant' | 'varying';
}

export interface Size {
  width: number;
  height: number;
}

/** From the frame as it was to the steadied one, at a time. Filling not included. */
export function steadyMap(first: ReadingData, second: ReadingData | null, time: number, s: SteadySettings): Homography {
  const moved =
    s.mode === 'lock' ? followMap(first, second, time, s.parts) : motionMap(motionAt(first, second, time, s.parts), first.middle);
  const back = invert(moved) ?? IDENTITY_H;
  return s.mode === 'lock' ? back : multiply(motionMap(smoothMotion(first, second, time, s), first.middle), back);
}

/** The motion that is left: the mean over the window, by Gauss's weights, of the frames that there are. */
function smoothMotion(first: ReadingData, second: ReadingData | null, time: number, s: SteadySettings): Motion {
  const deviation = Math.max(0.3, s.window / 3);
  const reach = Math.ceil(3 * deviation);
  const sum: Motion = { dx: 0, dy: 0, turn: 0, size: 0 };
  let total = 0;
  for (let d = -reach; d <= reach; d++) {
    const f = time + d;
    if (f < first.range.first - 1e-9 || f > first.range.last + 1e-9) continue;
    const w = Math.exp(-0.5 * (d / deviation) ** 2);
    const m = motionAt(first, second, f, s.parts);
    total += w;
    for (const k of ['dx', 'dy', 'turn', 'size'] as const) sum[k] += w * m[k];
  }
  if (total === 0) return motionAt(first, second, time, s.parts);
  return { dx: sum.dx / total, dy: sum.dy / total, turn: sum.turn / total, size: sum.size / total };
}

/**
 * The least scale around the frame's middle at which a moved frame covers the whole frame, so that no edge shows. A corner of
 * the frame is looked for on its way to the middle until it lies on the picture; the picture is convex, so that is exact.
 */
export function leastScale(map: Homography, { width, height }: Size): number {
  const back = invert(map);
  if (!back) return Infinity;
  const [cx, cy] = [width / 2, height / 2];
  const inside = (x: number, y: number): boolean => {
    const [u, v, w] = applyHomography(back, x, y);
    return w > 0 && u >= -1e-9 && v >= -1e-9 && u <= width + 1e-9 && v <= height + 1e-9;
  };
  if (!inside(cx, cy)) return Infinity;
  let most = 0;
  for (const [x, y] of [
    [0, 0],
    [width, 0],
    [width, height],
    [0, height],
  ] as const) {
    // The share of the way from the middle that is still on the picture; beyond 1 the picture is larger than the frame.
    let [low, high] = [0, 4];
    for (let k = 0; k < 60; k++) {
      const t = (low + high) / 2;
      if (inside(cx + t * (x - cx), cy + t * (y - cy))) low = t;
      else high = t;
    }
    most = Math.max(most, 1 / low);
  }
  return most;
}

/** A scale around the frame's middle. */
export const scaledAround = (s: number, { width, height }: Size): Homography => [
  s,
  0,
  (width / 2) * (1 - s),
  0,
  s,
  (height / 2) * (1 - s),
  0,
  0,
  1,
];

/** Of a reading by what else it comes from: the least scale of each of its frames, worked out once. */
const known = new WeakMap<ReadingData, LRUCache<string, number[]>>();

function leastScales(first: ReadingData, second: ReadingData | null, s: SteadySettings, size: Size): number[] {
  const key = JSON.stringify([second, s.mode, s.window, s.parts, size.width, size.height]);
  let lists = known.get(first);
  // A slider makes many settings; only the last few are asked for again.
  if (!lists) known.set(first, (lists = new LRUCache({ max: 4 })));
  let list = lists.get(key);
  if (!list) {
    const { first: a, last: b } = first.range;
    list = Array.from({ length: b - a + 1 }, (_, i) => leastScale(steadyMap(first, second, a + i, s), size));
    lists.set(key, list);
  }
  return list;
}

/** The scale that fills the frame at a time: the least that does for all frames, or one that changes slowly and does for each. */
export function fillScale(first: ReadingData, second: ReadingData | null, time: number, s: SteadySettings, size: Size): number {
  if (s.fill === 'none') return 1;
  const leasts = leastScales(first, second, s, size);
  if (s.fill === 'constant') return Math.max(...leasts);
  // The greatest within reach, then a mean over less than that reach: nowhere under what is needed.
  const reach = Math.max(2, Math.round(s.window));
  const at = (i: number): number => leasts[Math.min(leasts.length - 1, Math.max(0, i))]!;
  const around = (i: number): number => Math.max(...Array.from({ length: 2 * reach + 1 }, (_, k) => at(i - reach + k)));
  let [sum, total] = [0, 0];
  for (let d = -reach; d <= reach; d++) {
    const w = 1 + Math.cos((Math.PI * d) / (reach + 1));
    sum += w * around(Math.round(time - first.range.first) + d);
    total += w;
  }
  return sum / total;
}

/** The whole of it: steadied, and scaled so that the frame is filled. */
export const steadied = (first: ReadingData, second: ReadingData | null, time: number, s: SteadySettings, size: Size): Homography =>
  multiply(scaledAround(fillScale(first, second, time, s, size), size), steadyMap(first, second, time, s));
