import type { Rect } from './rect';
import { isEmpty, rect } from './rect';

/** x' = a·x + b·y + c, y' = d·x + e·y + f, as [a, b, c, d, e, f]. */
export type Affine = readonly [number, number, number, number, number, number];

export const IDENTITY: Affine = [1, 0, 0, 0, 1, 0];

/** First n, then m. */
export function compose(m: Affine, n: Affine): Affine {
  return [
    m[0] * n[0] + m[1] * n[3],
    m[0] * n[1] + m[1] * n[4],
    m[0] * n[2] + m[1] * n[5] + m[2],
    m[3] * n[0] + m[4] * n[3],
    m[3] * n[1] + m[4] * n[4],
    m[3] * n[2] + m[4] * n[5] + m[5],
  ];
}

export const translation = (x: number, y: number): Affine => [1, 0, x, 0, 1, y];

export const applyAffine = (m: Affine, x: number, y: number): [number, number] => [m[0] * x + m[1] * y + m[2], m[3] * x + m[4] * y + m[5]];

/** The inverse, or null where the map flattens the plane. */
export function invertAffine(m: Affine): Affine | null {
  const det = m[0] * m[4] - m[1] * m[3];
  if (!(Math.abs(det) > 1e-12)) return null;
  const [a, b, d, e] = [m[4] / det, -m[1] / det, -m[3] / det, m[0] / det];
  return [a, b, -(a * m[2] + b * m[5]), d, e, -(d * m[2] + e * m[5])];
}

/** The whole pixels that the image of r touches. */
export function boundsOfImage(m: Affine, r: Rect): Rect {
  if (isEmpty(r)) return r;
  const xs: number[] = [];
  const ys: number[] = [];
  for (const [x, y] of [
    [r.x0, r.y0],
    [r.x1, r.y0],
    [r.x0, r.y1],
    [r.x1, r.y1],
  ] as const) {
    const [u, v] = applyAffine(m, x, y);
    xs.push(u);
    ys.push(v);
  }
  const e = 1e-7; // so that rounding errors do not add a row
  return rect(
    Math.floor(Math.min(...xs) + e),
    Math.floor(Math.min(...ys) + e),
    Math.ceil(Math.max(...xs) - e),
    Math.ceil(Math.max(...ys) - e),
  );
}
