/** Takes a row of Y·Wᵀ off a row of the matrix, `n` entries of it. */
export function takeRow(s: Float64Array, at: number, n: number, y: Float64Array, o: number, w: Float64Array, from: number): void {
  const [y0, y1, y2] = [y[o]!, y[o + 1]!, y[o + 2]!];
  for (let b = 0; b < n; b++) {
    const k = from + 3 * b;
    s[at + b]! -= y0 * w[k]! + y1 * w[k + 1]! + y2 * w[k + 2]!;
  }
}

/** The same for a whole 6 × 6 block, where nearly all of the time goes: what is read once stays at hand. */
export function takeSix(
  s: Float64Array,
  base: Int32Array,
  row: number,
  column: number,
  y: Float64Array,
  o: number,
  w: Float64Array,
  k: number,
): void {
  const a0 = w[k]!;
  const a1 = w[k + 1]!;
  const a2 = w[k + 2]!;
  const b0 = w[k + 3]!;
  const b1 = w[k + 4]!;
  const b2 = w[k + 5]!;
  const c0 = w[k + 6]!;
  const c1 = w[k + 7]!;
  const c2 = w[k + 8]!;
  const d0 = w[k + 9]!;
  const d1 = w[k + 10]!;
  const d2 = w[k + 11]!;
  const e0 = w[k + 12]!;
  const e1 = w[k + 13]!;
  const e2 = w[k + 14]!;
  const f0 = w[k + 15]!;
  const f1 = w[k + 16]!;
  const f2 = w[k + 17]!;
  for (let a = 0; a < 6; a++, o += 3) {
    const y0 = y[o]!;
    const y1 = y[o + 1]!;
    const y2 = y[o + 2]!;
    const at = base[row + a]! + column;
    s[at]! -= y0 * a0 + y1 * a1 + y2 * a2;
    s[at + 1]! -= y0 * b0 + y1 * b1 + y2 * b2;
    s[at + 2]! -= y0 * c0 + y1 * c1 + y2 * c2;
    s[at + 3]! -= y0 * d0 + y1 * d1 + y2 * d2;
    s[at + 4]! -= y0 * e0 + y1 * e1 + y2 * e2;
    s[at + 5]! -= y0 * f0 + y1 * f1 + y2 * f2;
  }
}

/** The inverse of a symmetric 3 × 3 matrix by cofactors; false where it is singular. */
export function invertSymmetric(v: Float64Array, to: Float64Array): boolean {
  const [a, b, c, d, e, f] = [v[0]!, v[1]!, v[2]!, v[4]!, v[5]!, v[8]!];
  const [A, B, C] = [d * f - e * e, c * e - b * f, b * e - c * d];
  const det = a * A + b * B + c * C;
  if (!(Math.abs(det) > 1e-30 * (a + d + f) ** 3)) return false;
  const k = 1 / det;
  to[0] = A * k;
  to[1] = to[3] = B * k;
  to[2] = to[6] = C * k;
  to[4] = (a * f - c * c) * k;
  to[5] = to[7] = (b * c - a * e) * k;
  to[8] = (a * d - b * b) * k;
  return true;
}
