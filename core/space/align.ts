import { Matrix, SVD } from 'ml-matrix';
import type { Mat3 } from '../geometry/rotation';
import { IDENTITY3, apply3, multiply3, transpose3 } from '../geometry/rotation';
import type { Vec3 } from '../geometry/vec3';
import { along3, dot3, scale3 } from '../geometry/vec3';
import type { Pose } from './pose';
import { eyeOf } from './pose';

/** A place in another frame of reference: turned, grown, then moved. */
export interface Placing {
  readonly turn: Mat3;
  readonly scale: number;
  readonly shift: Vec3;
}

export const UNPLACED: Placing = { turn: IDENTITY3, scale: 1, shift: [0, 0, 0] };

export const placed = ({ turn, scale, shift }: Placing, p: Vec3): Vec3 => along3(scale3(apply3(turn, p), scale), shift);

/** A camera's pose for points that were placed. */
export function placedPose({ turn, scale, shift }: Placing, pose: Pose): Pose {
  const own = multiply3(pose.turn, transpose3(turn));
  return { turn: own, shift: along3(scale3(pose.shift, scale), apply3(own, shift), -1) };
}

/** First `before`, then `then`. */
export const afterPlacing = (then: Placing, before: Placing): Placing => ({
  turn: multiply3(then.turn, before.turn),
  scale: then.scale * before.scale,
  shift: placed(then, before.shift),
});

/** What takes places nearest to others, by least squares (Umeyama 1991); null where there are fewer than three or they lie on a line. */
export function similarityBetween(from: readonly Vec3[], to: readonly Vec3[], scaled = true): Placing | null {
  const n = from.length;
  if (n < 3) return null;
  const mean = (list: readonly Vec3[]): Vec3 =>
    scale3(
      list.reduce((a, b) => along3(a, b), [0, 0, 0] as Vec3),
      1 / n,
    );
  const [a, b] = [mean(from), mean(to)];
  const m = Matrix.zeros(3, 3);
  let spread = 0;
  from.forEach((p, i) => {
    const [u, v] = [along3(p, a, -1), along3(to[i]!, b, -1)];
    spread += dot3(u, u);
    for (let r = 0; r < 3; r++) for (let c = 0; c < 3; c++) m.set(r, c, m.get(r, c) + v[r]! * u[c]!);
  });
  const { leftSingularVectors: U, rightSingularVectors: V, diagonal: s } = new SVD(m);
  if (!(s[1]! > 1e-12 * s[0]!)) return null;
  const det = (x: Matrix): number => {
    const [p, q, r, t, u, v, w, y, z] = x.to1DArray() as unknown as Mat3;
    return p * (u * z - v * y) - q * (t * z - v * w) + r * (t * y - u * w);
  };
  const sign = det(U) * det(V) < 0 ? -1 : 1;
  const turn = U.mmul(Matrix.diag([1, 1, sign]))
    .mmul(V.transpose())
    .to1DArray() as unknown as Mat3;
  const scale = scaled && spread > 0 ? (s[0]! + s[1]! + sign * s[2]!) / spread : 1;
  return { turn, scale, shift: along3(b, scale3(apply3(turn, a), scale), -1) };
}

/** What takes one set of cameras to another as nearly as it goes: by their eyes, and where those stand on a line by how they look too. */
export function alignCameras(from: readonly Pose[], to: readonly Pose[]): Placing | null {
  const spots = (list: readonly Pose[], reach: number): Vec3[] =>
    list.flatMap((p) => {
      const eye = eyeOf(p);
      const t = p.turn;
      return [eye, along3(eye, [t[6], t[7], t[8]], reach), along3(eye, [t[3], t[4], t[5]], reach)];
    });
  const sizeOf = (list: readonly Pose[]): number => Math.max(...list.map((p) => Math.hypot(...along3(eyeOf(p), eyeOf(list[0]!), -1))));
  const [own, size] = [sizeOf(from), sizeOf(to)];
  // A camera that only turns has no path to be laid on another.
  if (!(own > 1e-9 && size > 1e-9)) return similarityBetween(spots(from, 1), spots(to, 1), false);
  const rough = similarityBetween(from.map(eyeOf), to.map(eyeOf));
  return similarityBetween(spots(from, (0.2 * size) / (rough?.scale ?? size / own)), spots(to, 0.2 * size));
}
