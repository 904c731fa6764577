import type { Homography } from './homography';
import { applyHomography } from './homography';
import { solve } from './solve';

export const PLANE_MODELS = ['shift', 'similarity', 'affine', 'perspective'] as const;
export type PlaneModel = (typeof PLANE_MODELS)[number];
export type Pair = readonly [x: number, y: number, u: number, v: number];

export const IDENTITY_H: Homography = [1, 0, 0, 0, 1, 0, 0, 0, 1];

/** First n, then m; scaled so that the last entry is 1. */
export function multiply(m: Homography, n: Homography): Homography {
  const at = (r: number, c: number): number => m[3 * r]! * n[c]! + m[3 * r + 1]! * n[3 + c]! + m[3 * r + 2]! * n[6 + c]!;
  const w = at(2, 2);
  return [at(0, 0) / w, at(0, 1) / w, at(0, 2) / w, at(1, 0) / w, at(1, 1) / w, at(1, 2) / w, at(2, 0) / w, at(2, 1) / w, 1];
}

/** The inverse, scaled so that the last entry is 1; null where the map flattens the plane. */
export function invert(m: Homography): Homography | null {
  const [a, b, c, d, e, f, g, h, i] = m;
  const det = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
  const last = a * e - b * d;
  if (!(Math.abs(det) > 1e-12) || !(Math.abs(last) > 1e-12)) return null;
  return [
    (e * i - f * h) / last,
    (c * h - b * i) / last,
    (b * f - c * e) / last,
    (f * g - d * i) / last,
    (a * i - c * g) / last,
    (c * d - a * f) / last,
    (d * h - e * g) / last,
    (b * g - a * h) / last,
    1,
  ];
}

/** The map at another pixel scale: positions times k on both sides. */
export const atScale = (m: Homography, k: number): Homography =>
  k === 1 ? m : [m[0], m[1], m[2] * k, m[3], m[4], m[5] * k, m[6] / k, m[7] / k, m[8]];

/** How many pairs determine a map. */
export const LEAST: Readonly<Record<PlaneModel, number>> = { shift: 1, similarity: 2, affine: 3, perspective: 4 };

/**
 * The map of a model that takes x, y nearest to u, v by weighted least squares; null where the pairs do not determine it.
 * Perspective: the linear equations with each row divided by the last denominator, three times over, which comes to least
 * squares of positions (Hartley and Zisserman 2004, 4.1 and 4.4), in coordinates around the pairs' middle.
 */
export function fitMap(model: PlaneModel, pairs: readonly Pair[], weights?: ArrayLike<number>): Homography | null {
  if (pairs.length < LEAST[model]) return null;
  const centre = [0, 0, 0, 0];
  let total = 0;
  pairs.forEach((p, i) => {
    const w = weights?.[i] ?? 1;
    total += w;
    for (let k = 0; k < 4; k++) centre[k]! += w * p[k]!;
  });
  if (!(total > 0)) return null;
  const [cx, cy, cu, cv] = centre.map((c) => c / total) as [number, number, number, number];
  if (model === 'shift') return [1, 0, cu - cx, 0, 1, cv - cy, 0, 0, 1];
  let spread = 0;
  pairs.forEach(([x, y], i) => (spread += (weights?.[i] ?? 1) * ((x - cx) ** 2 + (y - cy) ** 2)));
  const size = Math.sqrt(spread / total) || 1;
  const local = pairs.map(([x, y, u, v]): Pair => [(x - cx) / size, (y - cy) / size, (u - cu) / size, (v - cv) / size]);
  let made: Homography | null = null;
  let rows = local.map(() => 1);
  for (let round = 0; round < (model === 'perspective' && pairs.length > 4 ? 3 : 1); round++) {
    made = linearFit(
      model,
      local,
      rows.map((r, i) => r * (weights?.[i] ?? 1)),
    );
    if (!made) return null;
    const m = made;
    rows = local.map(([x, y]) => 1 / Math.max(1e-3, Math.abs(m[6] * x + m[7] * y + 1)) ** 2);
  }
  const before: Homography = [1 / size, 0, -cx / size, 0, 1 / size, -cy / size, 0, 0, 1];
  const after: Homography = [size, 0, cu, 0, size, cv, 0, 0, 1];
  return multiply(after, multiply(made!, before));
}

function linearFit(model: PlaneModel, pairs: readonly Pair[], weights: readonly number[]): Homography | null {
  const n = { similarity: 4, affine: 6, perspective: 8, shift: 0 }[model];
  const a = Array.from({ length: n }, () => new Float64Array(n));
  const b = new Float64Array(n);
  const add = (row: readonly number[], value: number, w: number): void => {
    for (let i = 0; i < n; i++) {
      if (row[i] === 0) continue;
      for (let j = 0; j < n; j++) a[i]![j]! += w * row[i]! * row[j]!;
      b[i]! += w * row[i]! * value;
    }
  };
  pairs.forEach(([x, y, u, v], i) => {
    const w = weights[i]!;
    if (w <= 0) return;
    if (model === 'similarity') {
      add([x, -y, 1, 0], u, w);
      add([y, x, 0, 1], v, w);
    } else {
      add([x, y, 1, 0, 0, 0, -u * x, -u * y].slice(0, n), u, w);
      add([0, 0, 0, x, y, 1, -v * x, -v * y].slice(0, n), v, w);
    }
  });
  for (let i = 0; i < n; i++) a[i]![i]! += 1e-12;
  const s = solve(a, b);
  if (!s.every(Number.isFinite)) return null;
  if (model === 'similarity') return [s[0]!, -s[1]!, s[2]!, s[1]!, s[0]!, s[3]!, 0, 0, 1];
  return [s[0]!, s[1]!, s[2]!, s[3]!, s[4]!, s[5]!, s[6] ?? 0, s[7] ?? 0, 1];
}

export interface RobustFit {
  map: Homography;
  /** Which pairs it explains. */
  inliers: boolean[];
  /** Root mean square of theirs, px. */
  error: number;
}

const TRIES = 300;
const LEAST_TRIES = 30;

/**
 * A map that most pairs agree on: samples scored by truncated squares (MSAC, Torr and Zisserman 2000), then reweighted least
 * squares over what agrees. The same pairs give the same answer.
 */
export function robustFit(model: PlaneModel, pairs: readonly Pair[], tolerance: number): RobustFit | null {
  const least = LEAST[model];
  if (pairs.length < least) return null;
  let state = 12345;
  const pick = (n: number): number => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return Math.floor((state / 4294967296) * n);
  };
  const limit = tolerance * tolerance;
  const off = (m: Homography, [x, y, u, v]: Pair): number => {
    const [a, b, w] = applyHomography(m, x, y);
    return w > 0 ? (a - u) ** 2 + (b - v) ** 2 : Infinity;
  };
  let best: { map: Homography; cost: number } | null = null;
  const all = pairs.length === least ? 1 : TRIES;
  let enough = all;
  for (let k = 0; k < enough; k++) {
    const chosen = new Set<number>();
    while (chosen.size < least) chosen.add(all === 1 ? chosen.size : pick(pairs.length));
    const map = fitMap(
      model,
      [...chosen].map((i) => pairs[i]!),
    );
    if (!map) continue;
    let cost = 0;
    for (const p of pairs) {
      cost += Math.min(limit, off(map, p));
      if (best && cost >= best.cost) break;
    }
    if (best && cost >= best.cost) continue;
    best = { map, cost };
    // Once a sample without a wrong pair has been drawn for sure (to a thousandth), more of them say nothing new.
    const share = pairs.reduce((s, p) => s + +(off(map, p) < limit), 0) / pairs.length;
    const sure = Math.log(1e-3) / Math.log(1 - Math.min(0.999, share ** least));
    enough = Math.min(all, Math.max(LEAST_TRIES, k + 1, Math.ceil(sure)));
  }
  if (!best) return null;
  let { map } = best;
  for (let round = 0; round < 6; round++) {
    const m = map;
    const weights = pairs.map((p) => {
      const t = off(m, p) / limit;
      return t < 1 ? (1 - t) ** 2 : 0;
    });
    const next = fitMap(model, pairs, weights);
    if (!next) break;
    map = next;
  }
  const errors = pairs.map((p) => off(map, p));
  const inliers = errors.map((e) => e < limit);
  const agreed = errors.filter((e) => e < limit);
  if (agreed.length < least) return null;
  return { map, inliers, error: Math.sqrt(agreed.reduce((s, e) => s + e, 0) / agreed.length) };
}
