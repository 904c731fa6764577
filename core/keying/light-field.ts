import { solve } from '../geometry/solve';

const DEGREE = 4;
/** Added to the diagonal: where samples leave a shape open the fit stays level there. */
const RIDGE = 1e-6;

/** Products of powers of x and y up to the degree, x the slower. */
function terms(x: number, y: number, out: Float64Array): void {
  let k = 0;
  for (let i = 0, px = 1; i <= DEGREE; i++, px *= x) for (let j = 0, p = px; i + j <= DEGREE; j++, p *= y) out[k++] = p;
}
const TERMS = ((DEGREE + 1) * (DEGREE + 2)) / 2;

/** A smooth surface over the picture, with x and y from −1 to 1. */
export class LightField {
  private readonly scratch = new Float64Array(TERMS);

  constructor(private readonly coefficients: Float64Array) {}

  at(x: number, y: number): number {
    terms(x, y, this.scratch);
    let sum = 0;
    for (let k = 0; k < TERMS; k++) sum += this.coefficients[k]! * this.scratch[k]!;
    return sum;
  }

  /** Fills a plane of w × h pixels, row by row a polynomial of x. */
  fill(to: Float32Array, w: number, h: number): void {
    const row = new Float64Array(DEGREE + 1);
    for (let y = 0; y < h; y++) {
      const v = (2 * y + 1) / h - 1;
      for (let i = 0, k = 0; i <= DEGREE; i++) {
        let sum = 0;
        for (let j = 0, p = 1; i + j <= DEGREE; j++, p *= v) sum += this.coefficients[k++]! * p;
        row[i] = sum;
      }
      const [a, b, c, d, e] = row as unknown as [number, number, number, number, number];
      for (let x = 0, i = y * w; x < w; x++, i++) {
        const u = (2 * x + 1) / w - 1;
        to[i] = a + u * (b + u * (c + u * (d + u * e)));
      }
    }
  }
}

/** Places at which light is known, with x and y from −1 to 1: surfaces are fitted to values there. */
export class LightSamples {
  private readonly terms: Float64Array;

  constructor(xs: readonly number[], ys: readonly number[]) {
    this.terms = new Float64Array(TERMS * xs.length);
    xs.forEach((x, k) => terms(x, ys[k]!, this.terms.subarray(TERMS * k, TERMS * k + TERMS)));
  }

  /** The quartics that are nearest to some values in the least-squares sense, one for each list; places of weight 0 are left out. */
  fit(lists: readonly ArrayLike<number>[], weights: ArrayLike<number>): LightField[] {
    const a = Array.from({ length: TERMS }, () => new Float64Array(TERMS));
    const right = lists.map(() => new Float64Array(TERMS));
    let total = 0;
    for (let k = 0, at = 0; at < this.terms.length; k++, at += TERMS) {
      const weight = weights[k]!;
      if (weight === 0) continue;
      total += weight;
      for (let i = 0; i < TERMS; i++) {
        const w = weight * this.terms[at + i]!;
        const row = a[i]!;
        for (let j = i; j < TERMS; j++) row[j]! += w * this.terms[at + j]!;
        for (let l = 0; l < lists.length; l++) right[l]![i]! += w * lists[l]![k]!;
      }
    }
    for (let i = 0; i < TERMS; i++) {
      for (let j = 0; j < i; j++) a[i]![j] = a[j]![i]!;
      a[i]![i]! += RIDGE * Math.max(1, total);
    }
    return right.map((b) => {
      const matrix = a.map((row) => row.slice());
      return new LightField(solve(matrix, b));
    });
  }
}
