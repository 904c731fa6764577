import type { Vec3 } from '../geometry/vec3';
import { along3, cross3, dot3, scale3, unit3 } from '../geometry/vec3';
import type { Mat3 } from '../geometry/rotation';
import { apply3, multiply3, transpose3, turnOf } from '../geometry/rotation';
import { solve } from '../geometry/solve';
import { random } from '../random';
import { EVD, Matrix } from 'ml-matrix';
import type { Pose } from './pose';
import { seenFrom } from './pose';

/** A known point, and the direction x/z, y/z in which it is seen. */
export interface PointSight {
  readonly at: Vec3;
  readonly x: number;
  readonly y: number;
  readonly weight?: number;
}

/** Real roots of a polynomial, highest power first, by its companion matrix. */
function rootsOf(c: readonly number[]): number[] {
  const most = Math.max(...c.map(Math.abs));
  let from = 0;
  while (from < c.length - 1 && Math.abs(c[from]!) < 1e-12 * most) from++;
  const n = c.length - 1 - from;
  if (n < 1) return [];
  const m = Matrix.zeros(n, n);
  for (let i = 0; i < n; i++) {
    m.set(0, i, -c[from + i + 1]! / c[from]!);
    if (i > 0) m.set(i, i - 1, 1);
  }
  const { realEigenvalues, imaginaryEigenvalues } = new EVD(m);
  return realEigenvalues.filter((r, i) => Math.abs(imaginaryEigenvalues[i]!) < 1e-6 * Math.max(1, Math.abs(r)));
}

/** A frame of three axes, as columns, from three places. */
function axesOf(a: Vec3, b: Vec3, c: Vec3): Mat3 {
  const x = unit3(along3(b, a, -1));
  const z = unit3(cross3(x, along3(c, a, -1)));
  const y = cross3(z, x);
  return [x[0], y[0], z[0], x[1], y[1], z[1], x[2], y[2], z[2]];
}

/** Poses from which three known points are seen in three directions: four at most (Grunert 1841, as in Haralick et al. 1994). */
export function threePoint(sights: readonly [PointSight, PointSight, PointSight]): Pose[] {
  const [p1, p2, p3] = sights.map((s) => s.at) as [Vec3, Vec3, Vec3];
  const [j1, j2, j3] = sights.map((s) => unit3([s.x, s.y, 1])) as [Vec3, Vec3, Vec3];
  const square = (u: Vec3, v: Vec3): number => dot3(along3(u, v, -1), along3(u, v, -1));
  const [a2, b2, c2] = [square(p2, p3), square(p1, p3), square(p1, p2)];
  if (!(Math.min(a2, b2, c2) > 1e-18)) return [];
  const [ca, cb, cg] = [dot3(j2, j3), dot3(j1, j3), dot3(j1, j2)];
  const [q, r, s] = [(a2 - c2) / b2, (a2 + c2) / b2, c2 / b2];
  const a = a2 / b2;
  const A4 = (q - 1) ** 2 - 4 * s * ca * ca;
  const A3 = 4 * (q * (1 - q) * cb - (1 - r) * ca * cg + 2 * s * ca * ca * cb);
  const A2 = 2 * (q * q - 1 + 2 * q * q * cb * cb + 2 * ((b2 - c2) / b2) * ca * ca - 4 * r * ca * cb * cg + 2 * ((b2 - a2) / b2) * cg * cg);
  const A1 = 4 * (-q * (1 + q) * cb + 2 * a * cg * cg * cb - (1 - r) * ca * cg);
  const A0 = (1 + q) ** 2 - 4 * a * cg * cg;
  const made: Pose[] = [];
  for (const v of rootsOf([A4, A3, A2, A1, A0])) {
    const below = 2 * (cg - v * ca);
    if (!(v > 0) || Math.abs(below) < 1e-12) continue;
    const u = ((-1 + q) * v * v - 2 * q * cb * v + 1 + q) / below;
    const s1 = Math.sqrt(c2 / (1 + u * u - 2 * u * cg));
    if (!(u > 0) || !Number.isFinite(s1)) continue;
    const [c1, d2, d3] = [scale3(j1, s1), scale3(j2, u * s1), scale3(j3, v * s1)];
    const turn = multiply3(axesOf(c1, d2, d3), transpose3(axesOf(p1, p2, p3)));
    made.push({ turn, shift: along3(c1, apply3(turn, p1), -1) });
  }
  return made;
}

/** Distance on the picture at focal length 1, squared; infinite behind the camera. */
export function offOf(pose: Pose, { at, x, y }: PointSight): number {
  const p = seenFrom(pose, at);
  return p[2] > 0 ? (p[0] / p[2] - x) ** 2 + (p[1] / p[2] - y) ** 2 : Infinity;
}

/** Improves a pose by Gauss and Newton with Cauchy's loss, `scale` at focal length 1; only its turn where the camera only turns. */
export function refinePose(start: Pose, sights: readonly PointSight[], scale: number, turning = false, rounds = 12): Pose {
  const free = turning ? 3 : 6;
  const costOf = (pose: Pose): number =>
    sights.reduce((sum, s) => sum + (s.weight ?? 1) * Math.log1p(Math.min(1e12, offOf(pose, s)) / (scale * scale)), 0);
  let pose = start;
  let cost = costOf(pose);
  let damping = 1e-6;
  for (let round = 0; round < rounds; round++) {
    const a = Array.from({ length: free }, () => new Float64Array(free));
    const b = new Float64Array(free);
    for (const s of sights) {
      const p = apply3(pose.turn, s.at);
      const [X, Y, c] = along3(p, pose.shift);
      if (!(c > 1e-9)) continue;
      const [x, y] = [X / c, Y / c];
      const r = [x - s.x, y - s.y];
      const w = (s.weight ?? 1) / (1 + (r[0]! ** 2 + r[1]! ** 2) / (scale * scale));
      const rows = [
        [1 / c, 0, -x / c],
        [0, 1 / c, -y / c],
      ].map(([da, db, dz]) => [dz! * p[1] - db! * p[2], da! * p[2] - dz! * p[0], db! * p[0] - da! * p[1], da!, db!, dz!]);
      rows.forEach((j, k) => {
        for (let i = 0; i < free; i++) {
          b[i]! -= w * j[i]! * r[k]!;
          for (let l = 0; l < free; l++) a[i]![l]! += w * j[i]! * j[l]!;
        }
      });
    }
    for (let i = 0; i < free; i++) a[i]![i]! *= 1 + damping;
    const step = solve(a, b);
    if (!step.every(Number.isFinite)) break;
    const next: Pose = {
      turn: multiply3(turnOf([step[0]!, step[1]!, step[2]!]), pose.turn),
      shift: turning ? pose.shift : along3(pose.shift, [step[3]!, step[4]!, step[5]!]),
    };
    const reached = costOf(next);
    if (reached < cost) {
      const gain = cost - reached;
      pose = next;
      damping = Math.max(1e-9, damping * 0.2);
      if (gain < 1e-9 * cost) break;
      cost = reached;
    } else {
      damping = Math.max(1e-4, damping * 10);
      if (damping > 1e6) break;
    }
  }
  return pose;
}

const TRIES = 200;

/** The pose that most sights agree on: three at a time, scored by truncated squares (MSAC), then refined. `tolerance` at focal length 1. */
export function resect(sights: readonly PointSight[], tolerance: number, seed = 7): { pose: Pose; inliers: boolean[] } | null {
  if (sights.length < 4) return null;
  const next = random(seed);
  const limit = tolerance * tolerance;
  let best: { pose: Pose; cost: number } | null = null;
  let enough = TRIES;
  for (let k = 0; k < enough; k++) {
    const chosen = new Set<number>();
    while (chosen.size < 3) chosen.add(Math.floor(next() * sights.length));
    for (const pose of threePoint([...chosen].map((i) => sights[i]!) as [PointSight, PointSight, PointSight])) {
      let cost = 0;
      for (const s of sights) {
        cost += Math.min(limit, offOf(pose, s));
        if (best && cost >= best.cost) break;
      }
      if (best && cost >= best.cost) continue;
      best = { pose, cost };
      const share = sights.reduce((n, s) => n + +(offOf(pose, s) < limit), 0) / sights.length;
      enough = Math.min(TRIES, Math.max(12, Math.ceil(Math.log(1e-3) / Math.log(1 - Math.min(0.9999, share ** 3)))));
    }
  }
  if (!best) return null;
  const near = sights.filter((s) => offOf(best.pose, s) < limit);
  const pose = near.length >= 4 ? refinePose(best.pose, near, tolerance / 3) : best.pose;
  return { pose, inliers: sights.map((s) => offOf(pose, s) < limit) };
}
