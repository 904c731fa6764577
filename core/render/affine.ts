import type { Vec3 } from '../geometry/vec3';

/** A 3 × 4 matrix, row by row: turn, stretch and shift of space. */
export type Affine3 = readonly number[];

export const IDENTITY_A3: Affine3 = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0];

/** `b` first, then `a`. */
export function multiplyA3(a: Affine3, b: Affine3): Affine3 {
  const out = new Array<number>(12);
  for (let r = 0; r < 3; r++)
    for (let c = 0; c < 4; c++)
      out[4 * r + c] = a[4 * r]! * b[c]! + a[4 * r + 1]! * b[4 + c]! + a[4 * r + 2]! * b[8 + c]! + (c === 3 ? a[4 * r + 3]! : 0);
  return out;
}

export const pointA3 = (m: Affine3, [x, y, z]: Vec3): Vec3 => [
  m[0]! * x + m[1]! * y + m[2]! * z + m[3]!,
  m[4]! * x + m[5]! * y + m[6]! * z + m[7]!,
  m[8]! * x + m[9]! * y + m[10]! * z + m[11]!,
];

/** Of a direction: without the shift. */
export const vectorA3 = (m: Affine3, [x, y, z]: Vec3): Vec3 => [
  m[0]! * x + m[1]! * y + m[2]! * z,
  m[4]! * x + m[5]! * y + m[6]! * z,
  m[8]! * x + m[9]! * y + m[10]! * z,
];

export const determinantA3 = (m: Affine3): number =>
  m[0]! * (m[5]! * m[10]! - m[6]! * m[9]!) - m[1]! * (m[4]! * m[10]! - m[6]! * m[8]!) + m[2]! * (m[4]! * m[9]! - m[5]! * m[8]!);

/** The turn part of the inverse, transposed: what normals are multiplied with, up to their length. */
export function normalsA3(m: Affine3): number[] {
  return [
    m[5]! * m[10]! - m[6]! * m[9]!,
    m[6]! * m[8]! - m[4]! * m[10]!,
    m[4]! * m[9]! - m[5]! * m[8]!,
    m[2]! * m[9]! - m[1]! * m[10]!,
    m[0]! * m[10]! - m[2]! * m[8]!,
    m[1]! * m[8]! - m[0]! * m[9]!,
    m[1]! * m[6]! - m[2]! * m[5]!,
    m[2]! * m[4]! - m[0]! * m[6]!,
    m[0]! * m[5]! - m[1]! * m[4]!,
  ];
}

/** Null where the matrix flattens space. */
export function inverseA3(m: Affine3): Affine3 | null {
  const det = determinantA3(m);
  if (!(Math.abs(det) > 1e-300)) return null;
  const n = normalsA3(m).map((v) => v / det);
  const rows = [n[0]!, n[3]!, n[6]!, n[1]!, n[4]!, n[7]!, n[2]!, n[5]!, n[8]!];
  const shift = [0, 1, 2].map((r) => -(rows[3 * r]! * m[3]! + rows[3 * r + 1]! * m[7]! + rows[3 * r + 2]! * m[11]!));
  return [rows[0]!, rows[1]!, rows[2]!, shift[0]!, rows[3]!, rows[4]!, rows[5]!, shift[1]!, rows[6]!, rows[7]!, rows[8]!, shift[2]!];
}

/** Shift, a unit quaternion x, y, z, w, and stretch along the axes, as glTF orders them. */
export function placedA3(shift: Vec3, [x, y, z, w]: readonly [number, number, number, number], stretch: Vec3): Affine3 {
  const [a, b, c] = stretch;
  return [
    (1 - 2 * (y * y + z * z)) * a,
    2 * (x * y - z * w) * b,
    2 * (x * z + y * w) * c,
    shift[0],
    2 * (x * y + z * w) * a,
    (1 - 2 * (x * x + z * z)) * b,
    2 * (y * z - x * w) * c,
    shift[1],
    2 * (x * z - y * w) * a,
    2 * (y * z + x * w) * b,
    (1 - 2 * (x * x + y * y)) * c,
    shift[2],
  ];
}

/** The unit quaternion x, y, z, w of turns in degrees about x, then y, then z. */
export function quaternionOfDegrees([x, y, z]: Vec3): readonly [number, number, number, number] {
  const [a, b, c] = [x, y, z].map((d) => (d * Math.PI) / 360) as [number, number, number];
  const [sx, cx, sy, cy, sz, cz] = [Math.sin(a), Math.cos(a), Math.sin(b), Math.cos(b), Math.sin(c), Math.cos(c)];
  return [sx * cy * cz - cx * sy * sz, cx * sy * cz + sx * cy * sz, cx * cy * sz - sx * sy * cz, cx * cy * cz + sx * sy * sz];
}
