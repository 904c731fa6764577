import { EigenvalueDecomposition, Matrix } from 'ml-matrix';
import type { Kernels, Plane } from '@/kernels';
import type { Example, Teaches } from './lesson';
import { BEND, MOST_CODE, changedOf, codeOf } from './lesson';

/** Sides of the table of guesses. */
export const TABLE = 32;

/** How a lesson sees colours: whitened over its examples, and what each colour alone makes one guess. */
export interface Look {
  /** 3×4 by rows: from code values to numbers without correlation, of mean 0 and variance 1. */
  readonly whiten: Float32Array;
  /** The lowest code values of the table, and its steps a unit. */
  readonly box: Float32Array;
  /** 32³ guesses from 0 to 1, red fastest. */
  readonly table: Float32Array;
}

/** Pixels of all examples that are looked at. */
const SAMPLES = 300_000;

/** The look of some examples. Throws nothing: of a single colour the smallest spread is assumed. */
export function lookOf(examples: readonly Example[], teaches: Teaches): Look {
  const taught = examples.filter((e) => !e.held);
  const [mean, spread, low, high] = [[0, 0, 0], new Float64Array(9), [9, 9, 9], [-9, -9, -9]];
  let count = 0;
  const each = (run: (code: readonly [number, number, number], e: number, i: number) => void): void => {
    const all = taught.reduce((n, e) => n + e.width * e.height, 0);
    const step = Math.max(1, Math.floor(all / SAMPLES));
    taught.forEach(({ width, height, input }, e) => {
      const n = width * height;
      for (let i = e % step; i < n; i += step) {
        const code = [0, 1, 2].map((c) => Math.min(MOST_CODE, Math.max(-MOST_CODE, codeOf(input[c * n + i]!)))) as [number, number, number];
        run(code, e, i);
      }
    });
  };
  each((code) => {
    count++;
    for (let a = 0; a < 3; a++) {
      mean[a]! += code[a]!;
      low[a] = Math.min(low[a]!, code[a]!);
      high[a] = Math.max(high[a]!, code[a]!);
      for (let b = 0; b < 3; b++) spread[3 * a + b]! += code[a]! * code[b]!;
    }
  });
  mean.forEach((v, a) => (mean[a] = v / Math.max(1, count)));
  const covariance = new Matrix([0, 1, 2].map((a) => [0, 1, 2].map((b) => spread[3 * a + b]! / Math.max(1, count) - mean[a]! * mean[b]!)));
  const eigen = new EigenvalueDecomposition(covariance, { assumeSymmetric: true });
  const floor = Math.max(1e-6, 2e-4 * Math.max(...eigen.realEigenvalues));
  const roots = Matrix.diag(eigen.realEigenvalues.map((v) => 1 / Math.sqrt(Math.max(v, floor))));
  const whitening = eigen.eigenvectorMatrix.mmul(roots).mmul(eigen.eigenvectorMatrix.transpose());
  const whiten = Float32Array.from({ length: 12 }, (_, i) => {
    const [row, column] = [Math.floor(i / 4), i % 4];
    if (column < 3) return whitening.get(row, column);
    return -[0, 1, 2].reduce((s, c) => s + whitening.get(row, c) * mean[c]!, 0);
  });
  const box = Float32Array.from([...low, ...low.map((v, c) => (TABLE - 1) / Math.max(1e-3, high[c]! - v))]);
  return { whiten, box, table: tableOf(taught, teaches, box, each) };
}

type Each = (run: (code: readonly [number, number, number], e: number, i: number) => void) => void;

/** Means of the targets of each colour, spread trilinearly; where no example has a colour, those of the colours around it, ever further. */
function tableOf(examples: readonly Example[], teaches: Teaches, box: Float32Array, each: Each): Float32Array {
  const table = new Float32Array(TABLE ** 3);
  if (teaches === 'carry') return table.fill(1);
  const targets = examples.map((e) => (teaches === 'matte' ? e.target : changedOf(e)));
  const sums = new Float64Array(TABLE ** 3);
  const weights = new Float64Array(TABLE ** 3);
  each((code, e, i) => {
    const at = code.map((v, c) => Math.min(TABLE - 1, (v - box[c]!) * box[3 + c]!));
    const low = at.map((v) => Math.min(TABLE - 2, Math.floor(v)));
    const t = Math.min(1, Math.max(0, targets[e]![i]!));
    for (let k = 0; k < 8; k++) {
      let [w, cell] = [1, 0];
      for (let c = 2; c >= 0; c--) {
        const up = (k >> c) & 1;
        w *= up ? at[c]! - low[c]! : 1 - (at[c]! - low[c]!);
        cell = cell * TABLE + low[c]! + up;
      }
      sums[cell]! += w * t;
      weights[cell]! += w;
    }
  });
  fillUp(sums, weights, TABLE);
  for (let i = 0; i < table.length; i++) table[i] = sums[i]! / weights[i]!;
  return table;
}

/** Adds to each cell of side³ a little of what the cells around it have, so that none is empty. */
function fillUp(sums: Float64Array, weights: Float64Array, side: number): void {
  if (side === 1) {
    if (weights[0] === 0) [sums[0], weights[0]] = [0.5, 1];
    return;
  }
  const half = side / 2;
  const [s, w] = [new Float64Array(half ** 3), new Float64Array(half ** 3)];
  const up = (i: number): number => {
    const [x, y, z] = [i % side, Math.floor(i / side) % side, Math.floor(i / side ** 2)];
    return (x >> 1) + half * ((y >> 1) + half * (z >> 1));
  };
  for (let i = 0; i < sums.length; i++) {
    s[up(i)]! += sums[i]!;
    w[up(i)]! += weights[i]!;
  }
  fillUp(s, w, half);
  const little = 0.5;
  for (let i = 0; i < sums.length; i++) {
    const k = up(i);
    sums[i]! += (little * s[k]!) / w[k]!;
    weights[i]! += little;
  }
}

/** A look in the kernels' memory. */
export class LookPlanes {
  private readonly whiten: Plane;
  private readonly box: Plane;
  private readonly table: Plane;

  constructor(
    private readonly kernels: Kernels,
    look: Look,
  ) {
    this.whiten = kernels.copy(look.whiten);
    this.box = kernels.copy(look.box);
    this.table = kernels.copy(look.table);
  }

  /** n pixels of three planes' memory as the net sees them, from `out` on, four floats each. */
  row(r: number, g: number, b: number, out: number, n: number): void {
    const { fn } = this.kernels;
    fn.whitenRow(r, g, b, out, n, this.whiten.byteOffset, BEND, MOST_CODE, this.table.byteOffset, TABLE, this.box.byteOffset);
  }

  dispose(): void {
    [this.whiten, this.box, this.table].forEach((p) => this.kernels.give(p));
  }
}
