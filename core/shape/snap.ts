import type { Shot } from '../document/types';
import { Cancelled } from '../errors';
import { solve } from '../geometry/solve';
import type { Gray } from '../readings/gray';
import { sampleAt } from '../readings/gray';
import { withPointsAt } from './edit';
import { cubicAt, cubicsOf } from './outline';
import { pointsAt } from './pose';
import type { Shape, ShapeKey } from './shapes';
import { POINT_SIZE } from './shapes';

/** Channels of a frame that outlines are looked for in. */
export type Look = readonly Gray[];

/** Distance of samples along an outline, px, and how far on both sides of it the picture is compared. */
const SPACING = 4;
const REACH = 7;
/** How far an outline may be drawn, and by which steps it is tried, px. */
const RANGE = 6;
const STEP = 0.5;
const TRIES = (2 * RANGE) / STEP + 1;
/** What lies outside of the outline is another place on other frames: it counts less. */
const OUTSIDE = 0.35;
/** Prices of neighbours that go different ways, and of going away from where the outline is expected, a square px. */
const STIFF = 0.06;
const NEAR = 0.003;

interface Sample {
  side: number;
  t: number;
  x: number;
  y: number;
  /** Outward. */
  nx: number;
  ny: number;
}

type Places = readonly { readonly side: number; readonly t: number }[];

const curves = (shape: Shape, points: readonly number[]) => cubicsOf({ points, closed: shape.closed, spline: shape.spline });

/** Places along a shape's sides, about evenly. */
function placesOn(shape: Shape, points: readonly number[]): Places {
  return curves(shape, points).flatMap(({ curve: c }, side) => {
    const length = Math.hypot(c[6] - c[0], c[7] - c[1]);
    const n = Math.min(16, Math.max(2, Math.round(length / SPACING)));
    return Array.from({ length: n }, (_, k) => ({ side, t: (k + 0.5) / n }));
  });
}

function samplesAt(shape: Shape, points: readonly number[], places: Places): Sample[] {
  const list = curves(shape, points);
  const corners = list.map(({ curve }) => [curve[0], curve[1]] as const);
  const area = corners.reduce(
    (s, p, i) => s + p[0] * corners[(i + 1) % corners.length]![1] - corners[(i + 1) % corners.length]![0] * p[1],
    0,
  );
  const turn = area < 0 ? -1 : 1;
  return places.map(({ side, t }) => {
    const c = list[side]!.curve;
    const [x, y] = cubicAt(c, t);
    const [p, q] = [cubicAt(c, Math.max(0, t - 0.05)), cubicAt(c, Math.min(1, t + 0.05))];
    const [dx, dy] = [q[0] - p[0], q[1] - p[1]];
    const d = Math.hypot(dx, dy) || 1;
    return { side, t, x, y, nx: (turn * dy) / d, ny: (-turn * dx) / d };
  });
}

/** Values of all channels along the normal of a sample, from −far to far by half pixels. */
function profile(look: Look, s: Sample, far: number): Float64Array {
  const n = Math.round((2 * far) / STEP) + 1;
  const out = new Float64Array(look.length * n);
  look.forEach((gray, c) => {
    for (let i = 0; i < n; i++) out[c * n + i] = sampleAt(gray, s.x + s.nx * (i * STEP - far), s.y + s.ny * (i * STEP - far));
  });
  return out;
}

const WIDTH = Math.round((2 * REACH) / STEP) + 1;
const WEIGHTS = Float64Array.from(
  { length: WIDTH },
  (_, i) => (i * STEP - REACH > 1.5 ? OUTSIDE : 1) * Math.exp(-(((i * STEP - REACH) / REACH) ** 2)),
);
const SUM = WEIGHTS.reduce((a, b) => a + b, 0);

/** How alike two profiles are, −1..1: weighted correlation over all channels, each without its mean. */
function likeness(key: Float64Array, wide: Float64Array, shift: number, channels: number): number {
  const stride = wide.length / channels;
  let [kk, ff, kf] = [1e-6, 1e-6, 0];
  for (let c = 0; c < channels; c++) {
    let [mk, mf] = [0, 0];
    for (let i = 0; i < WIDTH; i++) {
      mk += WEIGHTS[i]! * key[c * WIDTH + i]!;
      mf += WEIGHTS[i]! * wide[c * stride + i + shift]!;
    }
    mk /= SUM;
    mf /= SUM;
    for (let i = 0; i < WIDTH; i++) {
      const [a, b] = [key[c * WIDTH + i]! - mk, wide[c * stride + i + shift]! - mf];
      kk += WEIGHTS[i]! * a * a;
      ff += WEIGHTS[i]! * b * b;
      kf += WEIGHTS[i]! * a * b;
    }
  }
  return kf / Math.sqrt(kk * ff);
}

/** The cheapest way round through the tries of all samples (Viterbi 1967), gone round twice so that both ends meet. */
function cheapest(costs: readonly Float64Array[], closed: boolean): number[] {
  const n = costs.length;
  const rounds = closed ? 2 * n : n;
  const back: Uint8Array[] = [];
  let sums = Float64Array.from(costs[0]!);
  for (let k = 1; k < rounds; k++) {
    const next = new Float64Array(TRIES);
    const from = new Uint8Array(TRIES);
    for (let d = 0; d < TRIES; d++) {
      let best = Infinity;
      for (let e = Math.max(0, d - 6); e <= Math.min(TRIES - 1, d + 6); e++) {
        const v = sums[e]! + STIFF * ((d - e) * STEP) ** 2;
        if (v < best) [best, from[d]] = [v, e];
      }
      next[d] = best + costs[k % n]![d]!;
    }
    back.push(from);
    sums = next;
  }
  let at = sums.indexOf(Math.min(...sums));
  const path = new Array<number>(n).fill(0);
  for (let k = rounds - 1; k >= 0; k--) {
    // Of two rounds the middle is right whatever happens at both ends.
    if (!closed || (k >= n / 2 && k < n / 2 + n)) path[k % n] = at;
    if (k > 0) at = back[k - 1]![at]!;
  }
  return path;
}

/** How points go so that samples of their outline go as far as asked along their normals: least squares, neighbours held together. */
function spread(samples: readonly Sample[], way: readonly number[], sure: readonly number[], n: number, closed: boolean): number[] {
  const size = 2 * n;
  const a = Array.from({ length: size }, () => new Float64Array(size));
  const b = new Float64Array(size);
  samples.forEach((s, i) => {
    // A point takes its tangents along: a side's place goes with both of its ends by these shares.
    const [p, q] = [s.side, (s.side + 1) % n];
    const w1 = s.t * s.t * (3 - 2 * s.t);
    const row: [number, number][] = [
      [2 * p, (1 - w1) * s.nx],
      [2 * p + 1, (1 - w1) * s.ny],
      [2 * q, w1 * s.nx],
      [2 * q + 1, w1 * s.ny],
    ];
    for (const [u, v] of row) {
      b[u]! += sure[i]! * v * way[i]!;
      for (const [o, w] of row) a[u]![o]! += sure[i]! * v * w;
    }
  });
  const tie = 0.25;
  for (let i = 0; i < n; i++) {
    const j = (i + 1) % n;
    for (const k of [0, 1]) {
      a[2 * i + k]![2 * i + k]! += 1e-3;
      if (!closed && j === 0) continue;
      a[2 * i + k]![2 * i + k]! += tie;
      a[2 * j + k]![2 * j + k]! += tie;
      a[2 * i + k]![2 * j + k]! -= tie;
      a[2 * j + k]![2 * i + k]! -= tie;
    }
  }
  return [...solve(a, b)];
}

interface Found {
  frame: number;
  points: readonly number[];
  /** Of each point, x and y. */
  moves: number[];
  confidence: number;
}

/** Looks for a shape's outline on a frame between two keyed ones. */
function findOn(shape: Shape, points: readonly number[], places: Places, key: readonly Float64Array[], look: Look, frame: number): Found {
  const samples = samplesAt(shape, points, places);
  const n = points.length / POINT_SIZE;
  const costs: Float64Array[] = [];
  const likes: Float64Array[] = [];
  samples.forEach((s, i) => {
    const wide = profile(look, s, REACH + RANGE);
    const like = Float64Array.from({ length: TRIES }, (_, d) => likeness(key[i]!, wide, d, look.length));
    likes.push(like);
    costs.push(like.map((l, d) => 1 - l + NEAR * (d * STEP - RANGE) ** 2));
  });
  const path = cheapest(costs, shape.closed);
  const sure = path.map((d, i) => Math.max(0, likes[i]![d]!) ** 2);
  const way = path.map((d, i) => {
    const c = costs[i]!;
    const [l, m, r] = [c[d - 1], c[d]!, c[d + 1]];
    const bend = l !== undefined && r !== undefined ? l - 2 * m + r : 0;
    const part = bend > 1e-6 ? Math.min(0.5, Math.max(-0.5, (0.5 * (l! - r!)) / bend)) : 0;
    return (d + part) * STEP - RANGE;
  });
  // The quarter that fits worst says how sure it is.
  const sorted = path.map((d, i) => likes[i]![d]!).sort((x, y) => x - y);
  const confidence = Math.max(0, sorted[sorted.length >> 2] ?? 0);
  return { frame, points, moves: spread(samples, way, sure, n, shape.closed), confidence };
}

/**
 * The shape with keys on the frames between its own, each drawn to where the picture beside the outline is as it is at the keys around it: an
 * active contour (Kass, Witkin & Terzopoulos 1988) whose energy is the likeness of the profiles along its normals, stiffness along it and in time,
 * and nearness to the interpolated shape; the best one is found by dynamic programming. Keys that an earlier run made are made again. `look` gives a frame's channels;
 * `told` is told each frame that is done. Throws Cancelled where it says false, and what `look` throws.
 */
export async function snapBetween(
  shot: Pick<Shot, 'readings'>,
  given: Shape,
  look: (frame: number) => Promise<Look>,
  told?: (frame: number) => Promise<boolean>,
): Promise<Shape> {
  const own = given.keys.filter((k) => k.sure === undefined);
  const shape: Shape = { ...given, keys: own };
  let out = shape;
  for (let i = 1; i < own.length; i++) {
    const [a, b] = [own[i - 1]!.frame, own[i]!.frame];
    if (b - a < 2) continue;
    const places = placesOn(shape, pointsAt(shot, shape, a));
    const [lookA, lookB] = [await look(a), await look(b)];
    const profiles = (
      [
        [a, lookA],
        [b, lookB],
      ] as const
    ).map(([f, l]) => samplesAt(shape, pointsAt(shot, shape, f), places).map((s) => profile(l, s, REACH)));
    const found: Found[] = [];
    // From both keys towards the middle: where nothing carries the shape, each frame is looked for where the one before it went.
    const alone = shape.follows.length === 0;
    const between = Array.from({ length: b - a - 1 }, (_, k) => a + 1 + k);
    const half = Math.ceil(between.length / 2);
    for (const side of [between.slice(0, half), between.slice(half).reverse()]) {
      let moves = new Array<number>((2 * shape.keys[0]!.value.length) / POINT_SIZE).fill(0);
      for (const f of side) {
        const t = (f - a) / (b - a);
        const key = profiles[0]!.map((p, k) => p.map((v, j) => v + t * (profiles[1]![k]![j]! - v)));
        const points = pointsAt(shot, shape, f);
        const one = findOn(shape, moved(points, moves), places, key, await look(f), f);
        const gone = one.moves.map((v, k) => v + moves[k]!);
        found.push({ ...one, points, moves: gone });
        if (alone) moves = gone;
        if (told && !(await told(f))) throw new Cancelled();
      }
    }
    found.sort((x, y) => x.frame - y.frame);
    calm(found).forEach((moves, k) => {
      const { frame, points, confidence } = found[k]!;
      const keyed = withPointsAt(shot, out, frame, moved(points, moves), 'here');
      const sure = Math.round(confidence * 1000) / 1000;
      out = { ...keyed, keys: keyed.keys.map((x): ShapeKey => (x.frame === frame ? { ...x, ease: 'linear', sure } : x)) };
    });
  }
  return out;
}

/** Points gone by x and y each. */
const moved = (points: readonly number[], moves: readonly number[]): number[] =>
  points.map((v, j) => (j % POINT_SIZE < 2 ? v + moves[2 * Math.floor(j / POINT_SIZE) + (j % POINT_SIZE)]! : v));

/** Moves with those of the frames before and after, by how sure each is; at the keys around nothing moves. */
function calm(found: readonly Found[]): number[][] {
  return found.map(({ moves }, i) => {
    const around = [found[i - 1], found[i], found[i + 1]];
    const weights = around.map((f, k) => (k === 1 ? 2 : 1) * (f ? 0.05 + f.confidence ** 2 : 0.5));
    const sum = weights.reduce((a, b) => a + b, 0);
    return moves.map((_, j) => around.reduce((s, f, k) => s + weights[k]! * (f?.moves[j] ?? 0), 0) / sum);
  });
}
