import { solve } from './solve';

/** x' = (a·x + b·y + c)/(g·x + h·y + i) and so on, row by row; the last entry is 1. */
export type Homography = readonly [number, number, number, number, number, number, number, number, number];
export type Corner = readonly [number, number];
export type Quad = readonly [Corner, Corner, Corner, Corner];

/** Position and the denominator, which is positive in front of the plane's horizon. */
export function applyHomography(m: Homography, x: number, y: number): [number, number, number] {
  const w = m[6] * x + m[7] * y + m[8];
  return [(m[0] * x + m[1] * y + m[2]) / w, (m[3] * x + m[4] * y + m[5]) / w, w];
}

/** The position alone. */
export function mapPoint(m: Homography, x: number, y: number): [number, number] {
  const [u, v] = applyHomography(m, x, y);
  return [u, v];
}

/** Twice the area of each corner's triangle, with the sign of its turn. */
const turns = (q: Quad): number[] =>
  q.map(([x, y], i) => {
    const [a, b] = [q[(i + 1) % 4]!, q[(i + 3) % 4]!];
    return (a[0] - x) * (b[1] - y) - (a[1] - y) * (b[0] - x);
  });

/** True where four corners in order are those of a plane seen in perspective: convex, and no three on a line. */
export function isConvex(q: Quad): boolean {
  const all = turns(q);
  return all.every((t) => t > 1e-6) || all.every((t) => t < -1e-6);
}

/** The map that takes four points to four others; null where either four are no convex quadrilateral. */
export function homographyBetween(from: Quad, to: Quad): Homography | null {
  if (!isConvex(from) || !isConvex(to)) return null;
  const rows: Float64Array[] = [];
  const b = new Float64Array(8);
  from.forEach(([x, y], i) => {
    const [u, v] = to[i]!;
    rows.push(Float64Array.from([x, y, 1, 0, 0, 0, -u * x, -u * y]), Float64Array.from([0, 0, 0, x, y, 1, -v * x, -v * y]));
    b[2 * i] = u;
    b[2 * i + 1] = v;
  });
  const m = solve(rows, b);
  return m.every(Number.isFinite) ? ([...m, 1] as unknown as Homography) : null;
}
