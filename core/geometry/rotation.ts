import type { Vec3 } from './vec3';

/** A 3 × 3 matrix, row by row. */
export type Mat3 = readonly [number, number, number, number, number, number, number, number, number];

export const IDENTITY3: Mat3 = [1, 0, 0, 0, 1, 0, 0, 0, 1];

/** The turn by an axis times an angle in radians (Rodrigues). */
export function turnOf([x, y, z]: Vec3): Mat3 {
  const angle = Math.hypot(x, y, z);
  const s = angle < 1e-9 ? 1 : Math.sin(angle) / angle;
  const c = angle < 1e-6 ? 0.5 : (1 - Math.cos(angle)) / (angle * angle);
  return [
    1 - c * (y * y + z * z),
    c * x * y - s * z,
    c * x * z + s * y,
    c * x * y + s * z,
    1 - c * (x * x + z * z),
    c * y * z - s * x,
    c * x * z - s * y,
    c * y * z + s * x,
    1 - c * (x * x + y * y),
  ];
}

/** The axis times the angle of a turn, in radians up to π. */
export function axisOf(m: Mat3): Vec3 {
  const [w, x, y, z] = quaternionOf(m);
  const s = Math.hypot(x, y, z);
  if (s < 1e-12) return [2 * x, 2 * y, 2 * z];
  const angle = 2 * Math.atan2(s, w);
  return [(x / s) * angle, (y / s) * angle, (z / s) * angle];
}

/** Unit quaternion w, x, y, z of a turn, w ≥ 0 (Shepperd 1978). */
export function quaternionOf(m: Mat3): [number, number, number, number] {
  const [a, b, c, d, e, f, g, h, i] = m;
  const trace = a + e + i;
  let q: [number, number, number, number];
  if (trace >= Math.max(a, e, i)) q = [1 + trace, h - f, c - g, d - b];
  else if (a >= e && a >= i) q = [h - f, 1 + a - e - i, b + d, c + g];
  else if (e >= i) q = [c - g, b + d, 1 - a + e - i, f + h];
  else q = [d - b, c + g, f + h, 1 - a - e + i];
  const n = Math.hypot(...q) * (q[0] < 0 ? -1 : 1);
  return [q[0] / n, q[1] / n, q[2] / n, q[3] / n];
}

/** The turn of a quaternion w, x, y, z, of any length. */
export function turnOfQuaternion(q: readonly [number, number, number, number]): Mat3 {
  const n = Math.hypot(...q) || 1;
  const [w, x, y, z] = q.map((v) => v / n) as [number, number, number, number];
  return [
    1 - 2 * (y * y + z * z),
    2 * (x * y - w * z),
    2 * (x * z + w * y),
    2 * (x * y + w * z),
    1 - 2 * (x * x + z * z),
    2 * (y * z - w * x),
    2 * (x * z - w * y),
    2 * (y * z + w * x),
    1 - 2 * (x * x + y * y),
  ];
}

export const apply3 = (m: Mat3, [x, y, z]: Vec3): Vec3 => [
  m[0] * x + m[1] * y + m[2] * z,
  m[3] * x + m[4] * y + m[5] * z,
  m[6] * x + m[7] * y + m[8] * z,
];

/** First n, then m. */
export const multiply3 = (m: Mat3, n: Mat3): Mat3 =>
  [0, 1, 2].flatMap((r) =>
    [0, 1, 2].map((c) => m[3 * r]! * n[c]! + m[3 * r + 1]! * n[3 + c]! + m[3 * r + 2]! * n[6 + c]!),
  ) as unknown as Mat3;

export const transpose3 = ([a, b, c, d, e, f, g, h, i]: Mat3): Mat3 => [a, d, g, b, e, h, c, f, i];

/** The angle between two turns, radians. */
export const angleBetween = (a: Mat3, b: Mat3): number => Math.hypot(...axisOf(multiply3(a, transpose3(b))));
