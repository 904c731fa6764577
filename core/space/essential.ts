import { EVD, Matrix, SVD } from 'ml-matrix';
import type { Mat3 } from '../geometry/rotation';
import { transpose3 } from '../geometry/rotation';
import type { Vec3 } from '../geometry/vec3';
import type { Pose } from './pose';

/** Directions x/z, y/z of a point in two cameras. */
export type DirectionPair = readonly [x: number, y: number, u: number, v: number];

/** Exponents of x, y, z of all terms up to the third degree, highest first (graded, then by the alphabet): 10 cubic ones and the 10 others. */
const TERMS: readonly (readonly [number, number, number])[] = [3, 2, 1, 0].flatMap((degree) => {
  const list: [number, number, number][] = [];
  for (let x = degree; x >= 0; x--) for (let y = degree - x; y >= 0; y--) list.push([x, y, degree - x - y]);
  return list;
});
const INDEX = new Map(TERMS.map((t, i) => [t.join(), i]));
/** Index of the product of two terms; −1 beyond the third degree. */
const PRODUCT = TERMS.map((a) => TERMS.map((b) => INDEX.get([a[0] + b[0], a[1] + b[1], a[2] + b[2]].join()) ?? -1));

type Polynomial = Float64Array;
const product = (a: Polynomial, b: Polynomial): Polynomial => {
  const to = new Float64Array(20);
  for (let i = 0; i < 20; i++) {
    if (a[i] === 0) continue;
    for (let j = 0; j < 20; j++) {
      if (b[j] === 0) continue;
      to[PRODUCT[i]![j]!]! += a[i]! * b[j]!;
    }
  }
  return to;
};
const sum = (list: readonly (readonly [Polynomial, number])[]): Polynomial => {
  const to = new Float64Array(20);
  for (const [p, k] of list) for (let i = 0; i < 20; i++) to[i]! += k * p[i]!;
  return to;
};

/**
 * Essential matrices that five pairs allow (Nistér 2004), by the eigenvectors of an action matrix (Stewénius, Engels and Nistér 2006): ten at most, row
 * by row, such that (u, v, 1)·E·(x, y, 1)ᵀ = 0.
 */
export function fivePoint(pairs: readonly DirectionPair[]): Mat3[] {
  const rows = pairs.map(([x, y, u, v]) => [u * x, u * y, u, v * x, v * y, v, x, y, 1]);
  // The null space of five rows: the last four right singular vectors.
  while (rows.length < 9) rows.push(new Array<number>(9).fill(0));
  const { rightSingularVectors: right } = new SVD(new Matrix(rows));
  const basis = [5, 6, 7, 8].map((c) => right.getColumn(c));
  const [X, Y, Z, ONE] = [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
    [0, 0, 0],
  ].map((t) => INDEX.get(t.join())!) as [number, number, number, number];
  const e = Array.from({ length: 9 }, (_, i) => {
    const p = new Float64Array(20);
    [X, Y, Z, ONE].forEach((at, k) => (p[at] = basis[k]![i]!));
    return p;
  });
  const at = (r: number, c: number): Polynomial => e[3 * r + c]!;
  // E·Eᵀ·E − ½·trace(E·Eᵀ)·E = 0, and det E = 0.
  const square = [0, 1, 2].map((r) => [0, 1, 2].map((c) => sum([0, 1, 2].map((k) => [product(at(r, k), at(c, k)), 1] as const))));
  const half = sum([0, 1, 2].map((k) => [square[k]![k]!, 0.5] as const));
  const equations: Polynomial[] = [];
  for (let r = 0; r < 3; r++) {
    for (let c = 0; c < 3; c++) {
      equations.push(sum([...[0, 1, 2].map((k) => [product(square[r]![k]!, at(k, c)), 1] as const), [product(half, at(r, c)), -1]]));
    }
  }
  const minor = (a: number, b: number): Polynomial =>
    sum([
      [product(at(1, a), at(2, b)), 1],
      [product(at(1, b), at(2, a)), -1],
    ]);
  equations.push(
    sum([
      [product(at(0, 0), minor(1, 2)), 1],
      [product(at(0, 1), minor(0, 2)), -1],
      [product(at(0, 2), minor(0, 1)), 1],
    ]),
  );
  const reduced = eliminated(equations);
  if (!reduced) return [];
  // Multiplication by x of the ten lower terms, in which cubic ones are replaced by what the equations say.
  const action = Matrix.zeros(10, 10);
  for (let i = 0; i < 10; i++) {
    const to = PRODUCT[10 + i]![X]!;
    if (to >= 10) action.set(i, to - 10, 1);
    else for (let j = 0; j < 10; j++) action.set(i, j, -reduced[to]![10 + j]!);
  }
  const { eigenvectorMatrix, imaginaryEigenvalues } = new EVD(action);
  const found: Mat3[] = [];
  for (let k = 0; k < 10; k++) {
    if (Math.abs(imaginaryEigenvalues[k]!) > 1e-10) continue;
    const v = eigenvectorMatrix.getColumn(k);
    const one = v[9]!;
    if (!(Math.abs(one) > 1e-12)) continue;
    const [x, y, z] = [v[6]! / one, v[7]! / one, v[8]! / one];
    const made = Array.from({ length: 9 }, (_, i) => x * basis[0]![i]! + y * basis[1]![i]! + z * basis[2]![i]! + basis[3]![i]!);
    const length = Math.hypot(...made);
    if (Number.isFinite(length) && length > 0) found.push(made.map((w) => w / length) as unknown as Mat3);
  }
  return found;
}

/** Ten equations of twenty terms, solved for the first ten by Gauss and Jordan; null where they do not say. */
function eliminated(rows: Float64Array[]): Float64Array[] | null {
  for (let k = 0; k < 10; k++) {
    let pivot = k;
    for (let i = k + 1; i < 10; i++) if (Math.abs(rows[i]![k]!) > Math.abs(rows[pivot]![k]!)) pivot = i;
    [rows[k], rows[pivot]] = [rows[pivot]!, rows[k]!];
    const p = rows[k]![k]!;
    if (!(Math.abs(p) > 1e-14)) return null;
    for (let j = k; j < 20; j++) rows[k]![j]! /= p;
    for (let i = 0; i < 10; i++) {
      const f = rows[i]![k]!;
      if (i === k || f === 0) continue;
      for (let j = k; j < 20; j++) rows[i]![j]! -= f * rows[k]![j]!;
    }
  }
  return rows;
}

/** Distance of a pair from what an essential matrix allows, squared and to the first order (Sampson 1982), in the units of the pair. */
export function sampson(e: Mat3, [x, y, u, v]: DirectionPair): number {
  const [a, b, c] = [e[0] * x + e[1] * y + e[2], e[3] * x + e[4] * y + e[5], e[6] * x + e[7] * y + e[8]];
  const [p, q] = [e[0] * u + e[3] * v + e[6], e[1] * u + e[4] * v + e[7]];
  const off = u * a + v * b + c;
  return (off * off) / (a * a + b * b + p * p + q * q);
}

/** The four poses of the second camera that an essential matrix allows, the first one at the origin (Hartley and Zisserman 2003, 9.6). */
export function posesOf(e: Mat3): Pose[] {
  const { leftSingularVectors: U, rightSingularVectors: V } = new SVD(
    new Matrix([[...e.slice(0, 3)], [...e.slice(3, 6)], [...e.slice(6, 9)]]),
  );
  const positive = (m: Matrix): Matrix => (det(m) < 0 ? m.mul(-1) : m);
  const [u, v] = [positive(U), positive(V)];
  const w = new Matrix([
    [0, -1, 0],
    [1, 0, 0],
    [0, 0, 1],
  ]);
  const t = u.getColumn(2) as unknown as Vec3;
  return [w, w.transpose()].flatMap((m) => {
    const turn = u.mmul(m).mmul(v.transpose()).to1DArray() as unknown as Mat3;
    return [1, -1].map((s): Pose => ({ turn, shift: [s * t[0], s * t[1], s * t[2]] }));
  });
}

const det = (m: Matrix): number => {
  const [a, b, c, d, e, f, g, h, i] = m.to1DArray() as unknown as Mat3;
  return a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
};

/** The essential matrix of a pose whose camera was at the origin before. */
export function essentialOf({ turn, shift: [x, y, z] }: Pose): Mat3 {
  const [a, b, c] = [0, 1, 2].map((k) => [turn[k]!, turn[3 + k]!, turn[6 + k]!]) as [number[], number[], number[]];
  const crossed = [a, b, c].map((v) => [y * v[2]! - z * v[1]!, z * v[0]! - x * v[2]!, x * v[1]! - y * v[0]!]);
  return transpose3(crossed.flat() as unknown as Mat3);
}
