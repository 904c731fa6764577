import { random } from '../random';
import type { BundleSettings } from './scene';
import { Bundle } from './bundle';
import type { DirectionPair } from './essential';
import { fivePoint, posesOf, sampson } from './essential';
import type { KeyPair } from './keys';
import type { Pose } from './pose';
import { STILL } from './pose';
import { offOf, refinePose, resect } from './resection';
import { Structure } from './structure';
import { rayOf, triangulate } from './triangulate';
import type { TrackTable } from './tracks';
import { median } from './tracks';

/** Focal lengths that are tried where it is not known, in widths of the picture: from a very wide lens to a long one. */
export const FOCAL_TRIES = [0.45, 0.65, 0.9, 1.25, 1.8, 2.8] as const;

const PAIR_TRIES = 120;
/** Tracks that a first structure is built from. */
const MOST_TRACKS = 220;

export interface StartOptions {
  readonly centre: readonly [number, number];
  /** Where it is known, px; it then stays. */
  readonly focal: number;
  readonly lens: BundleSettings['focal'];
  /** Deviation of a position that is found, px. */
  readonly sigma: number;
}

/** A structure over the key frames, and Cauchy's loss over all that they see. */
export interface Started {
  readonly structure: Structure;
  readonly cost: number;
  /** The same by track, with how many positions each has; and how many unknowns there are. */
  readonly byTrack: ReadonlyMap<number, { readonly cost: number; readonly count: number }>;
  readonly unknowns: number;
}

/** Key frames lie farther apart than frames: between them a zoom may change as it likes. */
const KEY_SMOOTH = 30;

const settingsFor = (o: StartOptions, turning: boolean, rounds: number): BundleSettings => ({
  focal: o.lens,
  bend: false,
  turning,
  scale: 3 * o.sigma,
  rounds,
  smooth: KEY_SMOOTH,
});

/** The essential matrix that most pairs agree on; its squares of Sampson's distance in px². */
function essentialFrom(pairs: readonly DirectionPair[], focal: number, sigma: number): { poses: Pose[]; squares: number[] } | null {
  if (pairs.length < 6) return null;
  const next = random(pairs.length);
  const limit = (3 * sigma) ** 2;
  let best: { e: Parameters<typeof sampson>[0]; cost: number } | null = null;
  let enough = PAIR_TRIES;
  for (let k = 0; k < enough; k++) {
    const chosen = new Set<number>();
    while (chosen.size < 5) chosen.add(Math.floor(next() * pairs.length));
    for (const e of fivePoint([...chosen].map((i) => pairs[i]!))) {
      let cost = 0;
      for (const p of pairs) {
        cost += Math.min(limit, sampson(e, p) * focal * focal);
        if (best && cost >= best.cost) break;
      }
      if (best && cost >= best.cost) continue;
      best = { e, cost };
      const share = pairs.reduce((n, p) => n + +(sampson(e, p) * focal * focal < limit), 0) / pairs.length;
      enough = Math.min(PAIR_TRIES, Math.max(20, Math.ceil(Math.log(1e-3) / Math.log(1 - Math.min(0.999, share ** 5)))));
    }
  }
  if (!best) return null;
  const { e } = best;
  return { poses: posesOf(e), squares: pairs.map((p) => sampson(e, p) * focal * focal) };
}

/** Of the poses that an essential matrix allows, that from which most points lie before both cameras. */
function inFront(poses: readonly Pose[], pairs: readonly DirectionPair[]): Pose {
  const count = (pose: Pose): number =>
    pairs.reduce(
      (n, [x, y, u, v]) =>
        n +
        +(
          triangulate([
            { pose: STILL, x, y },
            { pose, x: u, y: v },
          ]) !== null
        ),
      0,
    );
  return poses.map((pose) => ({ pose, n: count(pose) })).reduce((a, b) => (b.n > a.n ? b : a)).pose;
}

/** Up to so many tracks, those that are seen on most key frames first. */
function telling(table: TrackTable, keys: readonly number[]): Set<number> {
  const seen = new Set(keys);
  const list = table.tracks.map((_, k) => ({ k, n: table.framesOf(k).filter((t) => seen.has(t)).length })).filter((t) => t.n >= 2);
  return new Set(
    list
      .sort((a, b) => b.n - a.n || a.k - b.k)
      .slice(0, MOST_TRACKS)
      .map((t) => t.k),
  );
}

/** Cauchy's loss over everything that the key frames see of some tracks; what has no point or no pose counts as far off. */
function lossOf(
  s: Structure,
  keys: readonly number[],
  tracks: ReadonlySet<number>,
  scale: number,
): Pick<Started, 'cost' | 'byTrack' | 'unknowns'> {
  const byTrack = new Map([...tracks].map((k) => [k, { cost: 0, count: 0 }]));
  const lost = Math.log1p(400);
  for (const t of keys) {
    for (const { track } of s.table.seen[t]!) {
      const own = byTrack.get(track);
      if (!own) continue;
      own.count++;
      const [pose, at] = [s.poses[t], s.points[track]];
      if (!pose || !at) {
        own.cost += lost;
        continue;
      }
      const [x, y] = s.direction(t, s.table.at(track, t)!);
      const off = offOf(pose, { at, x, y }) * s.focals[t]! ** 2;
      own.cost += Math.min(lost, Math.log1p(off / (scale * scale)));
    }
  }
  const lenses = new Set(keys.map((t) => s.focals[t])).size;
  const unknowns = (s.turning ? 3 * keys.length + 2 * tracks.size : 6 * keys.length + 3 * tracks.size) + lenses;
  return { cost: [...byTrack.values()].reduce((sum, t) => sum + t.cost, 0), byTrack, unknowns };
}

/** Loss a position of the track in the middle: half of them fit better. */
export const typicalLoss = ({ byTrack }: Started): number => median([...byTrack.values()].map((t) => t.cost / Math.max(1, t.count)));

/** Loss a position under which a track fits, and the share of tracks that stand for the scene. */
const FITS = 1;
const MOSTLY = 0.7;

/**
 * Whether a simpler structure explains what is seen as well, given how many unknowns the other one has more (Schwarz 1978). Of tracks that the fuller
 * one does not explain either, things that move, nothing is to be learnt.
 */
export function asGood(simple: Started, full: Started): boolean {
  const fits = (of: Started, k: number): boolean => {
    const t = of.byTrack.get(k);
    return t !== undefined && t.count > 0 && t.cost < FITS * t.count;
  };
  const explained = [...full.byTrack].filter(([k]) => fits(full, k));
  if (explained.length < 6) return simple.cost <= full.cost;
  // With more unknowns some of what moves is explained as well, wrongly.
  const both = explained.filter(([k]) => fits(simple, k));
  const fitting = both.length > MOSTLY * explained.length ? both : explained;
  let [own, other, count] = [0, 0, 0];
  for (const [k, t] of fitting) {
    own += t.cost;
    count += t.count;
    other += simple.byTrack.get(k)?.cost ?? t.cost;
  }
  const noise = own / Math.max(1, 2 * count - full.unknowns);
  return (other - own) / Math.max(1e-12, noise) < (full.unknowns - simple.unknowns) * Math.log(2 * count);
}

function adjust(s: Structure, o: StartOptions, turning: boolean, rounds: number, tracks: ReadonlySet<number>): void {
  const given = s.scene((k) => tracks.has(k));
  if (given.frames.length < 2 || given.tracks.length < 4) return;
  new Bundle(given.scene, given.seen, settingsFor(o, turning, rounds)).run();
  s.take(given);
  // Frames that are still to come are looked at by the lens of the nearest one.
  s.focals.forEach((_, t) => {
    const near = given.frames.reduce((a, b) => (Math.abs(b - t) < Math.abs(a - t) ? b : a));
    s.focals[t] = given.scene.focals[given.frames.indexOf(near)]!;
  });
}

/** A first structure by two views and then one key frame after the other; null where two views do not say enough. */
export function startMoving(table: TrackTable, keys: readonly number[], pair: KeyPair, o: StartOptions): Started | null {
  const s = new Structure(table, o.centre, o.focal);
  const pairs = pair.tracks.map((k): DirectionPair => [
    ...s.direction(pair.a, table.at(k, pair.a)!),
    ...s.direction(pair.b, table.at(k, pair.b)!),
  ]);
  const found = essentialFrom(pairs, o.focal, o.sigma);
  if (!found) return null;
  const agreed = pairs.filter((_, i) => found.squares[i]! < (3 * o.sigma) ** 2);
  s.poses[pair.a] = STILL;
  s.poses[pair.b] = inFront(found.poses, agreed);
  const tracks = telling(table, keys);
  s.place(pair.tracks.filter((_, i) => found.squares[i]! < (3 * o.sigma) ** 2));
  const missing = (): number[] => keys.filter((t) => !s.poses[t]);
  const shared = (t: number): number => table.seen[t]!.filter(({ track }) => s.points[track]).length;
  const refused = new Set<number>();
  for (let added = 0; ; added++) {
    const next = missing()
      .filter((t) => !refused.has(t))
      .reduce<{ t: number; n: number } | null>((best, t) => (shared(t) > (best?.n ?? 4) ? { t, n: shared(t) } : best), null);
    if (!next) break;
    const sights = s.sights(next.t);
    const made = resect(sights, ((o.lens === 'each' ? 30 : 6) * o.sigma) / s.focals[next.t]!, next.t + 1);
    if (!made || made.inliers.filter(Boolean).length < Math.max(5, 0.3 * sights.length)) {
      refused.add(next.t);
      continue;
    }
    refused.clear();
    s.poses[next.t] = made.pose;
    s.place(tracks);
    if (added % 3 === 2 || added === 0 || o.lens === 'each') {
      adjust(s, o, false, 6, tracks);
      s.place(tracks, true);
    }
  }
  adjust(s, o, false, 25, tracks);
  s.place(tracks, true);
  adjust(s, o, false, 10, tracks);
  return { structure: s, ...lossOf(s, keys, tracks, 3 * o.sigma) };
}

/** A first structure of a camera that only turns: points are directions. */
export function startTurning(table: TrackTable, keys: readonly number[], o: StartOptions): Started {
  const s = new Structure(table, o.centre, o.focal, true);
  const tracks = telling(table, keys);
  let pose: Pose = STILL;
  for (const t of keys) {
    const sights = s.sights(t).filter((p) => tracks.has(p.track));
    if (sights.length >= 2) for (const scale of [20, 6, 2]) pose = refinePose(pose, sights, (scale * o.sigma) / o.focal, true);
    s.poses[t] = pose;
    for (const { track } of table.seen[t]!) {
      if (s.points[track]) continue;
      const [x, y] = s.direction(t, table.at(track, t)!);
      s.points[track] = rayOf({ pose, x, y });
    }
  }
  adjust(s, o, true, 30, tracks);
  return { structure: s, ...lossOf(s, keys, tracks, 3 * o.sigma) };
}
