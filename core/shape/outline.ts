import type { Posed } from './pose';
import { POINT_SIZE } from './shapes';

/** How far a straight piece may lie from the curve it stands for, px. */
const TOLERANCE = 0.02;
const MOST_PIECES = 256;

/** Corners of an outline: x, y and the feather there after each other. */
export type Outline = Float64Array;
export const OUTLINE_SIZE = 3;

/** The control points of a piece of a curve, from one point to the next: x, y of four. */
export type Cubic = readonly [number, number, number, number, number, number, number, number];

/** The cubic pieces of a shape, each with the feather at both ends. */
export function cubicsOf({
  points,
  closed,
  spline,
}: Pick<Posed, 'points' | 'closed' | 'spline'>): { curve: Cubic; feather: [number, number] }[] {
  const n = points.length / POINT_SIZE;
  const at = (i: number, k: number): number => points[(closed ? (i + n) % n : Math.min(n - 1, Math.max(0, i))) * POINT_SIZE + k]!;
  return Array.from({ length: closed ? n : n - 1 }, (_, i) => {
    const feather: [number, number] = [at(i, 6), at(i + 1, 6)];
    if (spline === 'bezier') {
      const [x0, y0, x1, y1] = [at(i, 0), at(i, 1), at(i + 1, 0), at(i + 1, 1)];
      return { curve: [x0, y0, x0 + at(i, 4), y0 + at(i, 5), x1 + at(i + 1, 2), y1 + at(i + 1, 3), x1, y1], feather };
    }
    const along = (k: number): [number, number, number, number] => {
      const [a, b, c, d] = [at(i - 1, k), at(i, k), at(i + 1, k), at(i + 2, k)];
      return [(a + 4 * b + c) / 6, (2 * b + c) / 3, (b + 2 * c) / 3, (b + 4 * c + d) / 6];
    };
    const [x, y] = [along(0), along(1)];
    return { curve: [x[0], y[0], x[1], y[1], x[2], y[2], x[3], y[3]], feather };
  });
}

/** Where a piece is at t in 0..1. */
export function cubicAt(c: Cubic, t: number): [number, number] {
  const s = 1 - t;
  const [a, b, d, e] = [s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t];
  return [a * c[0] + b * c[2] + d * c[4] + e * c[6], a * c[1] + b * c[3] + d * c[5] + e * c[7]];
}

const isStraight = (c: Cubic): boolean => c[0] === c[2] && c[1] === c[3] && c[4] === c[6] && c[5] === c[7];

/** Pieces of a straight side along which the feather changes. */
const FEATHERED = 8;

/** Straight pieces that stay within the tolerance: by the second difference of the control points. */
function piecesFor(c: Cubic, tolerance: number): number {
  const bend = Math.max(
    Math.hypot(c[0] - 2 * c[2] + c[4], c[1] - 2 * c[3] + c[5]),
    Math.hypot(c[2] - 2 * c[4] + c[6], c[3] - 2 * c[5] + c[7]),
  );
  return Math.min(MOST_PIECES, Math.max(1, Math.ceil(Math.sqrt((0.75 * bend) / tolerance)) || 1));
}

/** Farther out than this nothing is drawn; it keeps outlines that ran away from costing anything. */
const FAR = 65536;
const near = (v: number): number => (v > -FAR ? (v < FAR ? v : FAR) : v <= -FAR ? -FAR : 0);

/** A shape as straight pieces that lie within a tolerance of its curves, px. An open one ends with its last point. */
export function flatten(shape: Pick<Posed, 'points' | 'closed' | 'spline'>, tolerance = TOLERANCE): Outline {
  const curves = cubicsOf(shape);
  const counts = curves.map(({ curve, feather }) =>
    isStraight(curve) ? (feather[0] === feather[1] ? 1 : FEATHERED) : piecesFor(curve, tolerance),
  );
  const total = counts.reduce((a, b) => a + b, shape.closed ? 0 : 1);
  const out = new Float64Array(OUTLINE_SIZE * total);
  let o = 0;
  for (let i = 0; i < curves.length; i++) {
    const { curve: c, feather } = curves[i]!;
    const n = counts[i]!;
    for (let k = 0; k < n; k++, o += OUTLINE_SIZE) {
      const t = k / n;
      const s = 1 - t;
      // As cubicAt, without a pair for each of a million places.
      const [p, q, u, v] = [s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t];
      out[o] = near(k === 0 ? c[0] : p * c[0] + q * c[2] + u * c[4] + v * c[6]);
      out[o + 1] = near(k === 0 ? c[1] : p * c[1] + q * c[3] + u * c[5] + v * c[7]);
      // Level at both ends, so that the feather's own outline has no corner where the shape has none.
      out[o + 2] = feather[0] + (feather[1] - feather[0]) * t * t * (3 - 2 * t);
    }
  }
  if (!shape.closed) {
    const last = curves.at(-1);
    out.set(
      last
        ? [near(last.curve[6]), near(last.curve[7]), last.feather[1]]
        : [near(shape.points[0]!), near(shape.points[1]!), shape.points[6]!],
      o,
    );
  }
  return out;
}
