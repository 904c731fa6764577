/**
 * A symmetric positive matrix of which each row of the lower half is kept from its first entry on (George and Liu 1981): what lies before
 * it stays empty when it is factorised. Rows that are bound to near ones only cost little.
 */
export class Envelope {
  readonly values: Float64Array;
  /** Where a row's entry of column 0 would lie: entry (r, c) is at base[r] + c, for first[r] ≤ c ≤ r. */
  readonly base: Int32Array;

  constructor(readonly first: Int32Array) {
    const n = first.length;
    this.base = new Int32Array(n);
    let at = 0;
    for (let r = 0; r < n; r++) {
      this.base[r] = at - first[r]!;
      at += r - first[r]! + 1;
    }
    this.values = new Float64Array(at);
  }

  get size(): number {
    return this.first.length;
  }

  /** Factorises in place, L·Lᵀ; false where the matrix is not positive. */
  factorise(): boolean {
    const { values: v, base, first, size } = this;
    for (let i = 0; i < size; i++) {
      const [bi, fi] = [base[i]!, first[i]!];
      for (let j = fi; j < i; j++) {
        const bj = base[j]!;
        let sum = v[bi + j]!;
        for (let k = Math.max(fi, first[j]!); k < j; k++) sum -= v[bi + k]! * v[bj + k]!;
        v[bi + j] = sum / v[bj + j]!;
      }
      let own = v[bi + i]!;
      for (let k = fi; k < i; k++) own -= v[bi + k]! ** 2;
      if (!(own > 0)) return false;
      v[bi + i] = Math.sqrt(own);
    }
    return true;
  }

  /** The x of A·x = b once it is factorised; changes b into x. */
  solve(b: Float64Array): Float64Array {
    const { values: v, base, first, size } = this;
    for (let i = 0; i < size; i++) {
      const bi = base[i]!;
      let sum = b[i]!;
      for (let k = first[i]!; k < i; k++) sum -= v[bi + k]! * b[k]!;
      b[i] = sum / v[bi + i]!;
    }
    for (let i = size - 1; i >= 0; i--) {
      const bi = base[i]!;
      const x = (b[i]! /= v[bi + i]!);
      for (let k = first[i]!; k < i; k++) b[k]! -= v[bi + k]! * x;
    }
    return b;
  }
}
