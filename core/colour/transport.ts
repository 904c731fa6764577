/** A symmetric 3×3 matrix or any other, row by row. */
export type Matrix3 = readonly number[];

/** Mean of three channels, and their covariance. */
export interface ColourStatistics {
  readonly mean: readonly [number, number, number];
  readonly covariance: Matrix3;
  readonly pixels: number;
}

const times = (a: Matrix3, b: Matrix3): number[] =>
  Array.from({ length: 9 }, (_, i) => [0, 1, 2].reduce((s, k) => s + a[3 * Math.floor(i / 3) + k]! * b[3 * k + (i % 3)]!, 0));

/** Eigenvalues of a symmetric matrix and the rotation whose columns are its vectors, by Jacobi's rotations. */
export function eigen3(m: Matrix3): { values: number[]; vectors: number[] } {
  const a = [...m];
  let v = [1, 0, 0, 0, 1, 0, 0, 0, 1];
  for (let sweep = 0; sweep < 24; sweep++) {
    const off = a[1]! ** 2 + a[2]! ** 2 + a[5]! ** 2;
    if (off <= 1e-28 * (a[0]! ** 2 + a[4]! ** 2 + a[8]! ** 2)) break;
    for (const [p, q] of [
      [0, 1],
      [0, 2],
      [1, 2],
    ] as const) {
      const apq = a[3 * p + q]!;
      if (apq === 0) continue;
      const theta = (a[4 * q]! - a[4 * p]!) / (2 * apq);
      const t = (theta >= 0 ? 1 : -1) / (Math.abs(theta) + Math.sqrt(theta * theta + 1));
      const c = 1 / Math.sqrt(t * t + 1);
      const r = [1, 0, 0, 0, 1, 0, 0, 0, 1];
      r[4 * p] = r[4 * q] = c;
      r[3 * p + q] = t * c;
      r[3 * q + p] = -t * c;
      const turned = times(transposed(r), times(a, r));
      a.splice(0, 9, ...turned);
      v = times(v, r);
    }
  }
  return { values: [a[0]!, a[4]!, a[8]!], vectors: v };
}

const transposed = (m: Matrix3): number[] => [m[0]!, m[3]!, m[6]!, m[1]!, m[4]!, m[7]!, m[2]!, m[5]!, m[8]!];

/** A function of a symmetric matrix, by its eigenvalues. */
function of(m: Matrix3, f: (v: number) => number): number[] {
  const { values, vectors } = eigen3(m);
  const d = [f(values[0]!), 0, 0, 0, f(values[1]!), 0, 0, 0, f(values[2]!)];
  return times(vectors, times(d, transposed(vectors)));
}

/** Variance that even a flat colour has, so that a flat place is not stretched without end. */
const LEAST = 1e-6;

/**
 * The linear map that takes colours of one mean and covariance to another with the least change: T = A^−½ (A^½ B A^½)^½ A^−½, the optimal transport
 * between normal distributions (Pitié and Kokaram 2007). Rows of T.
 */
export function transportOf(from: Matrix3, to: Matrix3): number[] {
  const [a, b] = [from, to].map((m) => m.map((v, i) => (i % 4 === 0 ? v + LEAST : v))) as [number[], number[]];
  const root = of(a, (v) => Math.sqrt(Math.max(LEAST, v)));
  const back = of(a, (v) => 1 / Math.sqrt(Math.max(LEAST, v)));
  const middle = of(times(root, times(b, root)), (v) => Math.sqrt(Math.max(0, v)));
  return times(back, times(middle, back));
}

/** Mean and covariance of three planes where `weight` is at least a half. */
export function statisticsOfColour(planes: readonly Float32Array[], weight: Float32Array): ColourStatistics {
  const sum = [0, 0, 0];
  const product = new Float64Array(9);
  let pixels = 0;
  for (let i = 0; i < weight.length; i++) {
    if (!(weight[i]! >= 0.5)) continue;
    const v = [planes[0]![i]!, planes[1]![i]!, planes[2]![i]!];
    if (!v.every(Number.isFinite)) continue;
    pixels++;
    for (let a = 0; a < 3; a++) {
      sum[a]! += v[a]!;
      for (let b = 0; b < 3; b++) product[3 * a + b]! += v[a]! * v[b]!;
    }
  }
  const n = Math.max(1, pixels);
  const mean = sum.map((s) => s / n) as [number, number, number];
  return { mean, covariance: Array.from(product, (p, i) => p / n - mean[Math.floor(i / 3)]! * mean[i % 3]!), pixels };
}
