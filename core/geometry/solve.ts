/**
 * The x of A·x = b by Gauss's elimination with partial pivots, for a handful of unknowns; changes both. Where A is singular x is
 * not finite.
 */
export function solve(a: Float64Array[], b: Float64Array): Float64Array {
  const n = b.length;
  for (let k = 0; k < n; k++) {
    let pivot = k;
    for (let i = k + 1; i < n; i++) if (Math.abs(a[i]![k]!) > Math.abs(a[pivot]![k]!)) pivot = i;
    [a[k], a[pivot]] = [a[pivot]!, a[k]!];
    [b[k], b[pivot]] = [b[pivot]!, b[k]!];
    const p = a[k]![k]!;
    for (let i = k + 1; i < n; i++) {
      const f = a[i]![k]! / p;
      if (f === 0) continue;
      for (let j = k; j < n; j++) a[i]![j]! -= f * a[k]![j]!;
      b[i]! -= f * b[k]!;
    }
  }
  const x = new Float64Array(n);
  for (let i = n - 1; i >= 0; i--) {
    let sum = b[i]!;
    for (let j = i + 1; j < n; j++) sum -= a[i]![j]! * x[j]!;
    x[i] = sum / a[i]![i]!;
  }
  return x;
}

/** The inverse of an n by n matrix, row by row, by Gauss and Jordan; null where it is singular. */
export function inverseOf(matrix: Float64Array, n: number): Float64Array | null {
  const a = Float64Array.from(matrix);
  const b = new Float64Array(n * n);
  for (let i = 0; i < n; i++) b[i * n + i] = 1;
  for (let k = 0; k < n; k++) {
    let pivot = k;
    for (let i = k + 1; i < n; i++) if (Math.abs(a[i * n + k]!) > Math.abs(a[pivot * n + k]!)) pivot = i;
    const p = a[pivot * n + k]!;
    if (!(Math.abs(p) > 1e-12)) return null;
    for (let j = 0; j < n; j++) {
      [a[k * n + j], a[pivot * n + j]] = [a[pivot * n + j]!, a[k * n + j]!];
      [b[k * n + j], b[pivot * n + j]] = [b[pivot * n + j]!, b[k * n + j]!];
      a[k * n + j]! /= p;
      b[k * n + j]! /= p;
    }
    for (let i = 0; i < n; i++) {
      const f = a[i * n + k]!;
      if (i === k || f === 0) continue;
      for (let j = 0; j < n; j++) {
        a[i * n + j]! -= f * a[k * n + j]!;
        b[i * n + j]! -= f * b[k * n + j]!;
      }
    }
  }
  return b;
}
