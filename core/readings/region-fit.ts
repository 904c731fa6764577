import type { Kernels, Plane } from '@/kernels';
import { invert, multiply } from '../geometry/fit';
import type { PlaneModel } from '../geometry/fit';
import type { Homography } from '../geometry/homography';
import { applyHomography } from '../geometry/homography';
import { solve } from '../geometry/solve';
import type { Gray } from './gray';

const MOST_SAMPLES = 5000;
const ITERATIONS = 12;
/** Deviation of what is left that is always taken for noise. */
const LEAST_NOISE = 0.006;

export interface DirectFit {
  map: Homography;
  /** Share of the region that the map explains, by weight. */
  explained: number;
  /** Correlation of what it explains. */
  match: number;
}

/**
 * A region of a reference picture, registered to other pictures by inverse-compositional Gauss and Newton (Baker and Matthews
 * 2004) with gain and bias and Tukey's weights: pixels that something else covers count for nothing.
 */
export class DirectRegion {
  private readonly planes: Plane[] = [];
  private readonly count: number;
  /** Columns that explain a picture's values, one after the other: the reference's values, ones, and what the model may change. */
  private readonly columns: Float64Array;
  private readonly columnCount: number;
  private readonly values: Float64Array;
  private readonly xs: Float64Array;
  private readonly ys: Float64Array;
  private readonly found: Float64Array;
  private readonly weights: Float64Array;
  private readonly rest: Float64Array;
  private readonly map: Float64Array;
  private readonly matrix: Float64Array;
  private readonly right: Float64Array;
  private readonly centre: readonly [number, number];
  private readonly size: number;

  /** `inside` tells which pixels of the reference belong to the region; `box` holds all of them. To be closed when it is done with. */
  constructor(
    private readonly kernels: Kernels,
    reference: Gray,
    inside: (x: number, y: number) => boolean,
    box: { x0: number; y0: number; x1: number; y1: number },
    private readonly model: PlaneModel,
  ) {
    const { width: w, height: h, data } = reference;
    const [x0, y0] = [Math.max(1, Math.floor(box.x0)), Math.max(1, Math.floor(box.y0))];
    const [x1, y1] = [Math.min(w - 1, Math.ceil(box.x1)), Math.min(h - 1, Math.ceil(box.y1))];
    const all: number[] = [];
    for (let y = y0; y < y1; y++) for (let x = x0; x < x1; x++) if (inside(x + 0.5, y + 0.5)) all.push(y * w + x);
    // Where there are too many, those with the steeper slopes: flat pixels say little of where they are.
    const slope = (i: number): number => (data[i + 1]! - data[i - 1]!) ** 2 + (data[i + w]! - data[i - w]!) ** 2;
    const chosen = all.length <= MOST_SAMPLES ? all : steepest(all, slope, MOST_SAMPLES);
    const n = (this.count = chosen.length);
    this.centre = [(x0 + x1) / 2, (y0 + y1) / 2];
    this.size = Math.max(1, Math.max(x1 - x0, y1 - y0) / 2);
    const of = (f: (i: number) => number): Float64Array => Float64Array.from(chosen, f);
    const x = of((i) => ((i % w) + 0.5 - this.centre[0]) / this.size);
    const y = of((i) => (Math.floor(i / w) + 0.5 - this.centre[1]) / this.size);
    const gx = of((i) => ((data[i + 1]! - data[i - 1]!) / 2) * this.size);
    const gy = of((i) => ((data[i + w]! - data[i - w]!) / 2) * this.size);
    const made = (f: (k: number) => number): Float64Array => Float64Array.from({ length: n }, (_, k) => f(k));
    const slopes = {
      shift: () => [gx, gy],
      similarity: () => [gx, gy, made((k) => gx[k]! * x[k]! + gy[k]! * y[k]!), made((k) => gy[k]! * x[k]! - gx[k]! * y[k]!)],
      affine: () => [gx, gy, ...[gx, gy].flatMap((g) => [made((k) => g[k]! * x[k]!), made((k) => g[k]! * y[k]!)])],
      perspective: () => [
        gx,
        gy,
        ...[gx, gy].flatMap((g) => [made((k) => g[k]! * x[k]!), made((k) => g[k]! * y[k]!)]),
        made((k) => -x[k]! * (gx[k]! * x[k]! + gy[k]! * y[k]!)),
        made((k) => -y[k]! * (gx[k]! * x[k]! + gy[k]! * y[k]!)),
      ],
    }[model]();
    const columns = [of((i) => data[i]!), new Float64Array(n).fill(1), ...slopes];
    const m = (this.columnCount = columns.length);
    this.columns = this.take(m * n);
    columns.forEach((c, k) => this.columns.set(c, k * n));
    this.values = this.columns.subarray(0, n);
    [this.xs, this.ys] = [this.take(n), this.take(n)];
    this.xs.set(x);
    this.ys.set(y);
    [this.found, this.weights, this.rest] = [this.take(n), this.take(n), this.take(n)];
    [this.map, this.matrix, this.right] = [this.take(9), this.take(m * m), this.take(m)];
  }

  /** Doubles in the kernels' memory. */
  private take(n: number): Float64Array {
    const plane = this.kernels.take(2 * Math.max(1, n));
    this.planes.push(plane);
    return new Float64Array(plane.buffer, plane.byteOffset, n);
  }

  close(): void {
    this.planes.forEach((p) => this.kernels.give(p));
    this.planes.length = 0;
  }

  /**
   * Improves a map from the reference to a picture, which lies in the kernels' memory; null where there is no hold. `visible` leaves
   * out pixels of the picture.
   */
  register(picture: Gray, start: Homography, visible?: (x: number, y: number) => boolean): DirectFit | null {
    const [n, m] = [this.count, this.columnCount];
    if (n < 4 * m) return null;
    const { found, weights, rest } = this;
    const [cx, cy] = this.centre;
    const toPixels: Homography = [this.size, 0, cx, 0, this.size, cy, 0, 0, 1];
    const toLocal: Homography = [1 / this.size, 0, -cx / this.size, 0, 1 / this.size, -cy / this.size, 0, 0, 1];
    let map = multiply(start, toPixels);
    // Until a first fit says more, the pictures are taken to be alike.
    let q: Float64Array = new Float64Array(m);
    q[0] = 1;
    for (let round = 0; round < ITERATIONS; round++) {
      this.look(picture, map, visible);
      if (round === 0) [q[0], q[1]] = gainAndBias(this.values, found, weights);
      weigh(this.values, found, q[0]!, q[1]!, weights, rest);
      const next = this.solve();
      if (!next || !(next[0]! > 0.05)) return null;
      q = next;
      const g = q[0]!;
      const d = (k: number): number => (q[k] ?? 0) / g;
      const move: Homography = {
        shift: (): Homography => [1, 0, d(2), 0, 1, d(3), 0, 0, 1],
        similarity: (): Homography => [1 + d(4), -d(5), d(2), d(5), 1 + d(4), d(3), 0, 0, 1],
        affine: (): Homography => [1 + d(4), d(5), d(2), d(6), 1 + d(7), d(3), 0, 0, 1],
        perspective: (): Homography => [1 + d(4), d(5), d(2), d(6), 1 + d(7), d(3), d(8), d(9), 1],
      }[this.model]();
      const back = invert(move);
      if (!back) return null;
      map = multiply(map, back);
      if (Math.max(...Array.from(q.subarray(2), (v) => Math.abs(v / g))) * this.size < 0.003) break;
    }
    this.look(picture, map, visible);
    const seen = weights.reduce((s, v) => s + v, 0);
    weigh(this.values, found, q[0]!, q[1]!, weights, rest);
    const explained = seen > 0 ? weights.reduce((s, v) => s + v, 0) / seen : 0;
    return { map: multiply(map, toLocal), explained, match: weightedMatch(this.values, found, weights) };
  }

  /** The picture's values where the samples lie; a weight of 0 where they are not seen. */
  private look({ width, height, data }: Gray, map: Homography, visible?: (x: number, y: number) => boolean): void {
    const { fn } = this.kernels;
    const { xs, ys, found, weights, count } = this;
    this.map.set(map);
    const at = data.byteOffset;
    fn.lookThrough(at, width, height, this.map.byteOffset, xs.byteOffset, ys.byteOffset, count, found.byteOffset, weights.byteOffset);
    if (!visible) return;
    for (let i = 0; i < count; i++) {
      if (weights[i] === 0) continue;
      const [u, v] = applyHomography(map, xs[i]!, ys[i]!);
      if (!visible(u, v)) found[i] = weights[i] = 0;
    }
  }

  /** The weighted least-squares share of each column in what was found; null where they do not determine it. */
  private solve(): Float64Array | null {
    const { columns, columnCount: m, count, weights, found, matrix, right, rest } = this;
    this.kernels.fn.weightedProducts(
      columns.byteOffset,
      m,
      count,
      weights.byteOffset,
      found.byteOffset,
      matrix.byteOffset,
      right.byteOffset,
      rest.byteOffset,
    );
    const normal = Array.from({ length: m }, (_, a) => Float64Array.from({ length: m }, (__, b) => matrix[a < b ? a * m + b : b * m + a]!));
    const shares = solve(normal, right.slice());
    return shares.every(Number.isFinite) ? shares : null;
  }
}

function steepest(all: readonly number[], slope: (i: number) => number, count: number): number[] {
  const slopes = new Float64Array(all.length);
  for (let k = 0; k < all.length; k++) slopes[k] = slope(all[k]!);
  const cut = slopes.slice().sort()[all.length - 1 - count]!;
  return all.filter((_, k) => slopes[k]! > cut);
}

function median(list: Float64Array): number {
  // Without a comparison of its own a typed array is sorted as numbers, several times faster.
  return list.sort()[list.length >> 1] ?? 0;
}

/** Gain and bias by medians, which a part that is covered does not move. */
function gainAndBias(values: Float64Array, found: Float64Array, weights: Float64Array): [number, number] {
  const seen = (list: Float64Array): Float64Array => list.filter((_, i) => i % 3 === 0 && weights[i] !== 0);
  const [a, b] = [seen(values), seen(found)];
  if (a.length < 8) return [1, 0];
  const [ma, mb] = [median(a), median(b)];
  const [sa, sb] = [median(a.map((v) => Math.abs(v - ma))), median(b.map((v) => Math.abs(v - mb)))];
  const gain = sa > 1e-6 ? Math.min(3, Math.max(0.33, sb / sa)) : 1;
  return [gain, mb - gain * ma];
}

/** Tukey's weights of what gain and bias leave over; pixels of weight 0 stay at 0. */
function weigh(values: Float64Array, found: Float64Array, gain: number, bias: number, weights: Float64Array, rest: Float64Array): void {
  const sizes = new Float64Array(values.length);
  let seen = 0;
  for (let i = 0; i < values.length; i++) {
    rest[i] = found[i]! - gain * values[i]! - bias;
    if (weights[i]! > 0) sizes[seen++] = Math.abs(rest[i]!);
  }
  const noise = Math.max(LEAST_NOISE, 1.4826 * median(sizes.subarray(0, seen)));
  const limit = 4.685 * noise;
  for (let i = 0; i < values.length; i++) {
    const t = rest[i]! / limit;
    if (weights[i]! > 0) weights[i] = Math.abs(t) < 1 ? (1 - t * t) ** 2 : 0;
  }
}

function weightedMatch(a: Float64Array, b: Float64Array, weights: Float64Array): number {
  let [n, ma, mb] = [0, 0, 0];
  for (let i = 0; i < a.length; i++) {
    n += weights[i]!;
    ma += weights[i]! * a[i]!;
    mb += weights[i]! * b[i]!;
  }
  if (!(n > 0)) return 0;
  let [ab, aa, bb] = [0, 0, 0];
  for (let i = 0; i < a.length; i++) {
    const [u, v, w] = [a[i]! - ma / n, b[i]! - mb / n, weights[i]!];
    ab += w * u * v;
    aa += w * u * u;
    bb += w * v * v;
  }
  return aa > 0 && bb > 0 ? ab / Math.sqrt(aa * bb) : 0;
}
