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
