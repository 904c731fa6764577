import type { Kernels, Plane } from '@/kernels';
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

  constructor(readonly coefficients: Float64Array) {}

  at(x: number, y: number): number {
    terms(x, y, this.scratch);
    let sum = 0;
    for (let k = 0; k < TERMS; k++) sum += this.coefficients[k]! * this.scratch[k]!;
    return sum;
  }

  /** Fills a plane of w × h pixels, row by row a polynomial of x. */
  fill({ fn }: Kernels, to: Plane, w: number, h: number): void {
    for (let y = 0; y < h; y++) {
      const v = (2 * y + 1) / h - 1;
      const row: number[] = [];
      for (let i = 0, k = 0; i <= DEGREE; i++) {
        let sum = 0;
        for (let j = 0, p = 1; i + j <= DEGREE; j++, p *= v) sum += this.coefficients[k++]! * p;
        row.push(sum);
      }
      const [a, b, c, d, e] = row as [number, number, number, number, number];
      fn.quarticRow(to.byteOffset + 4 * y * w, w, a, b, c, d, e);
    }
  }
}

/** Places at which light is known, with x and y from −1 to 1: surfaces are fitted to values there. */
export class LightSamples {
  private readonly terms: Float64Array;
  /** Sums of products of terms over the samples of the last fit, and their weights then. */
  private readonly sums = new Float64Array(TERMS * TERMS);
  private readonly weighed: Float64Array;

  constructor(xs: ArrayLike<number>, ys: ArrayLike<number>) {
    this.terms = new Float64Array(TERMS * xs.length);
    this.weighed = new Float64Array(xs.length);
    const one = new Float64Array(TERMS);
    for (let k = 0; k < xs.length; k++) {
      terms(xs[k]!, ys[k]!, one);
      this.terms.set(one, TERMS * k);
    }
  }

  /** A surface at the samples' places. */
  values({ coefficients }: LightField): Float64Array {
    const { terms: t, weighed } = this;
    const values = new Float64Array(weighed.length);
    for (let k = 0, at = 0; k < values.length; k++, at += TERMS) {
      let sum = 0;
      for (let i = 0; i < TERMS; i++) sum += coefficients[i]! * t[at + i]!;
      values[k] = sum;
    }
    return values;
  }

  /** Sums of the terms times what is given and its weight. */
  private rightSide(list: ArrayLike<number>): Float64Array {
    const { terms: t, weighed } = this;
    const right = new Float64Array(TERMS);
    for (let k = 0, at = 0; k < weighed.length; k++, at += TERMS) {
      if (weighed[k] === 0) continue;
      const v = weighed[k]! * list[k]!;
      for (let i = 0; i < TERMS; i++) right[i]! += v * t[at + i]!;
    }
    return right;
  }

  /** Brings the sums to other weights: fits that follow each other share most of theirs. */
  private weigh(weights: ArrayLike<number>): void {
    const { terms: t, sums, weighed } = this;
    for (let k = 0, at = 0; k < weighed.length; k++, at += TERMS) {
      const change = weights[k]! - weighed[k]!;
      if (change === 0) continue;
      weighed[k] = weights[k]!;
      for (let i = 0; i < TERMS; i++) {
        const w = change * t[at + i]!;
        for (let j = i; j < TERMS; j++) sums[TERMS * i + j]! += w * t[at + j]!;
      }
    }
  }

  /** The quartics that are nearest to some values in the least-squares sense, one for each list; places of weight 0 are left out. */
  fit(lists: readonly ArrayLike<number>[], weights: ArrayLike<number>): LightField[] {
    this.weigh(weights);
    const { sums } = this;
    const total = this.weighed.reduce((sum, w) => sum + w, 0);
    const matrix = Array.from({ length: TERMS }, (_, i) =>
      Float64Array.from({ length: TERMS }, (__, j) => sums[i < j ? TERMS * i + j : TERMS * j + i]!),
    );
    for (let i = 0; i < TERMS; i++) matrix[i]![i]! += RIDGE * Math.max(1, total);
    return lists.map((list) => {
      const own = matrix.map((row) => row.slice());
      return new LightField(solve(own, this.rightSide(list)));
    });
  }
}
