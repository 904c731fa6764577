import type { Vec3 } from '../geometry/vec3';
import { along3, dot3, unit3 } from '../geometry/vec3';
import type { BundleSettings } from './scene';
import { slideOf, uncertaintyOf } from './uncertainty';
import { Bundle, SMOOTH } from './bundle';
import { eyeOf, matrixOf, seenFrom, shownAt } from './pose';
import type { Structure } from './structure';
import { HELD_BY } from './tracks';
import type { Flag } from '../readings/point';

export type CameraKind = 'moving' | 'turning' | 'planar';

/** A camera on a frame. */
export interface CameraFrame {
  readonly frame: number;
  /** World to camera, 3 × 4, row by row: x right, y down, z forward. */
  readonly matrix: readonly number[];
  readonly focal: number;
  /** Root mean square of the distances between points and tracks, px, and how many there are. */
  readonly error: number;
  readonly count: number;
  /** Pixels by which a card would be expected to slide, near, at middle distance and far. */
  readonly slide?: readonly [number, number, number];
  /** 1 where a card at middle distance stands still, 0.5 where it is expected to slide by a pixel. */
  readonly confidence: number;
  /** Predicted: no points held it, and it was laid between its neighbours. Low: fewer than are enough. */
  readonly flag?: Flag;
  readonly pinned?: boolean;
}

/** Why a track is not used, or should be looked at. */
export const DOUBTS = ['moves', 'short', 'drifts', 'epipole', 'unplaced'] as const;
export type Doubt = (typeof DOUBTS)[number];

/** A track's point. */
export interface CameraPoint {
  readonly track: string;
  readonly at: Vec3;
  /** Root mean square, px, and frames that it is seen on. */
  readonly error: number;
  readonly count: number;
  readonly used: boolean;
  /** Widest angle from which it is seen, degrees. */
  readonly angle: number;
  readonly why?: Doubt;
}

export interface Assessed {
  readonly kind: CameraKind;
  /** The focal length changes. */
  readonly zooms: boolean;
  readonly centre: readonly [number, number];
  readonly bend: readonly [number, number];
  /** Root mean square over all that is used, px. */
  readonly rms: number;
  readonly frames: readonly CameraFrame[];
  readonly points: readonly CameraPoint[];
  /** Distances that `slide` speaks of. */
  readonly depths: readonly [number, number, number];
}

interface About {
  readonly kind: CameraKind;
  readonly zooms: boolean;
  readonly out: ReadonlySet<number>;
  readonly bridged: ReadonlySet<number>;
  readonly first: number;
  readonly format: { readonly width: number; readonly height: number };
  /** How it was solved, where sliding is to be worked out too. */
  readonly settings: BundleSettings | null;
}

/** Frames at most whose uncertainty is worked out; between them it is interpolated. */
const MOST_COVARIANCES = 40;
/** Cards at each distance. */
const CARDS = 5;
/** Degrees from which a point is seen under which it tells little. */
const NARROW = 1.2;
const SHORT = 8;

/** What a structure comes to: errors by frame and by point, doubts, and how far a card would slide. */
export function assess(s: Structure, about: About): Assessed {
  const { table } = s;
  const byFrame = Array.from({ length: table.count }, () => ({ sum: 0, n: 0 }));
  const depths: number[] = [];
  let [total, n] = [0, 0];
  const points: CameraPoint[] = [];
  table.tracks.forEach((track, k) => {
    const at = s.points[k];
    const used = !about.out.has(k);
    const frames = table.framesOf(k).filter((t) => s.poses[t]);
    if (!at) {
      points.push({ track: track.id, at: [0, 0, 0], error: 0, count: frames.length, used: false, angle: 0, why: 'unplaced' });
      return;
    }
    const squares: number[] = [];
    let skipped = 0;
    for (const t of frames) {
      const p = seenFrom(s.poses[t]!, at);
      const [u, v] = table.at(k, t)!;
      if (s.skipped.has(s.key(k, t))) {
        skipped++;
        continue;
      }
      const [x, y] = shownAt(p, s.focals[t]!, s.centre, s.bend);
      const off = p[2] > 0 ? (x - u) ** 2 + (y - v) ** 2 : 1e6;
      squares.push(off);
      if (!used) continue;
      byFrame[t]!.sum += off;
      byFrame[t]!.n++;
      total += off;
      n++;
      if (t % 8 === 0 && p[2] > 0) depths.push(p[2]);
    }
    const error = Math.sqrt(squares.reduce((a, b) => a + b, 0) / Math.max(1, squares.length));
    const angle = s.turning ? 0 : widest(s, k, at);
    const why = doubtOf({ used, squares, skipped, angle, turning: s.turning });
    points.push({ track: track.id, at, error, count: squares.length, used, angle, ...(why && { why }) });
  });
  const sorted = Float64Array.from(depths).sort();
  const quantile = (q: number): number => sorted[Math.min(sorted.length - 1, Math.floor(q * sorted.length))] ?? 1;
  const at: [number, number, number] = s.turning ? [1, 1, 1] : [quantile(0.1), quantile(0.5), quantile(0.9)];
  const slides = about.settings ? slidesOf(s, about, about.settings, at) : null;
  const frames = s.poses.flatMap((pose, t): CameraFrame[] => {
    if (!pose) return [];
    const { sum, n: count } = byFrame[t]!;
    const slide = slides?.[t];
    const few = Math.min(1, count / HELD_BY);
    return [
      {
        frame: t + about.first,
        matrix: matrixOf(pose),
        focal: s.focals[t]!,
        error: Math.sqrt(sum / Math.max(1, count)),
        count,
        confidence: about.bridged.has(t) ? 0 : slide ? few / (1 + slide[1]) : few,
        ...(slide && { slide }),
        ...(about.bridged.has(t) ? { flag: 'predicted' as const } : count < HELD_BY && { flag: 'low' as const }),
      },
    ];
  });
  const { kind, zooms } = about;
  return { kind, zooms, centre: s.centre, bend: s.bend, rms: Math.sqrt(total / Math.max(1, n)), frames, points, depths: at };
}

/** Widest angle between directions from which a point is seen, degrees. */
function widest(s: Structure, k: number, at: Vec3): number {
  const frames = s.table.framesOf(k).filter((t) => s.poses[t]);
  const few = frames.filter((_, i) => i % Math.max(1, Math.floor(frames.length / 8)) === 0 || i === frames.length - 1);
  const rays = few.map((t) => unit3(along3(at, eyeOf(s.poses[t]!), -1)));
  let least = 1;
  for (let i = 1; i < rays.length; i++) for (let j = 0; j < i; j++) least = Math.min(least, dot3(rays[i]!, rays[j]!));
  return (Math.acos(Math.min(1, Math.max(-1, least))) * 180) / Math.PI;
}

/** Why a track should be looked at. */
function doubtOf(p: { used: boolean; squares: readonly number[]; skipped: number; angle: number; turning: boolean }): Doubt | undefined {
  if (!p.used) return 'moves';
  const n = p.squares.length;
  const third = Math.max(1, Math.floor(n / 3));
  const mean = (list: readonly number[]): number => list.reduce((a, b) => a + b, 0) / Math.max(1, list.length);
  const ends = Math.max(mean(p.squares.slice(0, third)), mean(p.squares.slice(n - third)));
  if (p.skipped > 0.15 * n || (n >= 9 && ends > 0.25 && ends > 5 * mean(p.squares.slice(third, n - third)))) return 'drifts';
  if (n < SHORT) return 'short';
  return !p.turning && p.angle < NARROW ? 'epipole' : undefined;
}

/** Of each frame how far a card is expected to slide at three distances, px: the mean over a few points at each. */
function slidesOf(
  s: Structure,
  about: About,
  settings: BundleSettings,
  depths: readonly [number, number, number],
): (readonly [number, number, number])[] | null {
  const posed = s.poses.flatMap((p, t) => (p && !about.bridged.has(t) ? [t] : []));
  const step = Math.max(1, Math.ceil(posed.length / MOST_COVARIANCES));
  const kept = new Set(posed.filter((_, i) => i % step === 0 || i === posed.length - 1));
  const { scene, seen, frames, tracks } = s.scene(
    (k) => !about.out.has(k),
    (t) => kept.has(t),
  );
  // Fewer frames are looked at than there are: between them a focal length may bend as much more.
  const bundle = new Bundle(scene, seen, { ...settings, smooth: SMOOTH / step ** 2 });
  const found = uncertaintyOf(bundle);
  if (!found) return null;
  // All of the frames hold it better than those that are looked at.
  const whole = { ...found, variance: found.variance / step };
  const middle = s.poses[frames[frames.length >> 1]!]!;
  const byDepth = tracks.map((k, i) => ({ i, z: seenFrom(middle, s.points[k]!)[2] })).filter((p) => p.z > 0);
  const bands = depths.map((d) => [...byDepth].sort((a, b) => Math.abs(a.z - d) - Math.abs(b.z - d)).slice(0, CARDS));
  const own = bands.map((band) => {
    const all = band.map(({ i }) => slideOf(bundle, i, whole));
    return frames.map((_, f) => Math.sqrt(all.reduce((sum, one) => sum + one[f]! ** 2, 0) / Math.max(1, all.length)));
  });
  return s.poses.map((_, t) => {
    const after = frames.findIndex((f) => f >= t);
    const b = after < 0 ? frames.length - 1 : after;
    const a = after > 0 && frames[b] !== t ? b - 1 : b;
    const share = a === b ? 0 : (t - frames[a]!) / (frames[b]! - frames[a]!);
    return own.map((list) => list[a]! + share * (list[b]! - list[a]!)) as unknown as readonly [number, number, number];
  });
}
