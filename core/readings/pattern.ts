import type { Affine } from '../geometry/affine';
import { compose, invertAffine } from '../geometry/affine';
import { inverseOf } from '../geometry/solve';
import type { Gray, GrayFrame } from './gray';
import { calmed, sampleAt, sampleBlock } from './gray';

export const POINT_MODELS = ['shift', 'similarity', 'affine'] as const;
export type PointModel = (typeof POINT_MODELS)[number];

/** Left, top, right, bottom from the point, in pixels. */
export type Box = readonly [number, number, number, number];

/** A calmed part of a frame, and the frame's position of its corner. */
export interface Patch {
  gray: Gray;
  x: number;
  y: number;
}

/** Cuts a box around a position, with a margin, out of a frame. */
export function cutPatch(frame: GrayFrame, x: number, y: number, box: Box, margin: number): Patch {
  const [x0, y0] = [Math.floor(x + box[0] - margin), Math.floor(y + box[1] - margin)];
  const [x1, y1] = [Math.ceil(x + box[2] + margin), Math.ceil(y + box[3] + margin)];
  return { gray: calmed(frame.read(x0, y0, x1 - x0, y1 - y0)), x: x0, y: y0 };
}

export interface Fit {
  /** From offsets of the pattern's point to positions of the frame. */
  at: Affine;
  /** Correlation of the pattern with what was found, −1..1. */
  match: number;
}

const MOST_ITERATIONS = 20;
const NOISE_SLOPE = 5 / 12;
/** Share of the detail across that there must be along, and pixels by which it may slide. */
const APERTURE = 0.01;
const SLIDES = 0.3;
const STILL = 0.004;

/** Multiplies a square matrix, row by row, with a vector. */
function times(m: Float64Array, v: Float64Array, to: Float64Array): void {
  const n = v.length;
  for (let i = 0; i < n; i++) {
    let sum = 0;
    for (let j = 0; j < n; j++) sum += m[i * n + j]! * v[j]!;
    to[i] = sum;
  }
}

/** The sum of products, four at once, which do not wait for each other. */
function dot(a: Float64Array, b: Float64Array): number {
  let [s0, s1, s2, s3] = [0, 0, 0, 0];
  let i = 0;
  for (const end = a.length - 3; i < end; i += 4) {
    s0 += a[i]! * b[i]!;
    s1 += a[i + 1]! * b[i + 1]!;
    s2 += a[i + 2]! * b[i + 2]!;
    s3 += a[i + 3]! * b[i + 3]!;
  }
  for (; i < a.length; i++) s0 += a[i]! * b[i]!;
  return s0 + s1 + s2 + s3;
}

/** What the values change by when the pattern turns, grows or is sheared around its point, per unit. */
function slopesOf(model: PointModel, gx: Float64Array, gy: Float64Array, dx: Float64Array, dy: Float64Array): Float64Array[] {
  if (model === 'shift') return [];
  const n = gx.length;
  const columns = Array.from({ length: model === 'similarity' ? 2 : 4 }, () => new Float64Array(n));
  for (let i = 0; i < n; i++) {
    const [a, b, c, d] = [gx[i]! * dx[i]!, gx[i]! * dy[i]!, gy[i]! * dx[i]!, gy[i]! * dy[i]!];
    if (model === 'similarity') [columns[0]![i], columns[1]![i]] = [a + d, c - b];
    else [columns[0]![i], columns[1]![i], columns[2]![i], columns[3]![i]] = [a, b, c, d];
  }
  return columns;
}

/**
 * What is followed: a box of a frame around a point. It is found again by inverse-compositional Lucas–Kanade (Baker and Matthews
 * 2004) with gain and bias: the frame's values are explained by the pattern's, a constant and the pattern's slopes.
 */
export class Pattern {
  readonly width: number;
  readonly height: number;
  private readonly dx: Float64Array;
  private readonly dy: Float64Array;
  private readonly values: Float64Array;
  private readonly columns: Float64Array[];
  private readonly inverse: Float64Array | null;
  private readonly mean: number;
  private readonly power: number;
  /** Mean products of its slopes: the smaller and the greater of their eigenvalues (the structure tensor). */
  private readonly hold: readonly [weak: number, strong: number];

  /** `patch` holds the box around x, y with at least two pixels to spare. */
  constructor(
    private readonly patch: Patch,
    private readonly x: number,
    private readonly y: number,
    private readonly box: Box,
    private readonly model: PointModel,
  ) {
    const { gray } = patch;
    const [x0, y0] = [Math.round(x + box[0]) - patch.x, Math.round(y + box[1]) - patch.y];
    const [w, h] = [Math.max(3, Math.round(box[2] - box[0])), Math.max(3, Math.round(box[3] - box[1]))];
    [this.width, this.height] = [w, h];
    const n = w * h;
    this.dx = new Float64Array(n);
    this.dy = new Float64Array(n);
    this.values = new Float64Array(n);
    const gx = new Float64Array(n);
    const gy = new Float64Array(n);
    for (let j = 0, i = 0; j < h; j++) {
      for (let k = 0; k < w; k++, i++) {
        const at = (y0 + j) * gray.width + x0 + k;
        this.dx[i] = patch.x + x0 + k + 0.5 - x;
        this.dy[i] = patch.y + y0 + j + 0.5 - y;
        this.values[i] = gray.data[at]!;
        gx[i] = (gray.data[at + 1]! - gray.data[at - 1]!) / 2;
        gy[i] = (gray.data[at + gray.width]! - gray.data[at - gray.width]!) / 2;
      }
    }
    this.columns = [this.values, new Float64Array(n).fill(1), gx, gy, ...slopesOf(model, gx, gy, this.dx, this.dy)];
    const m = this.columns.length;
    const normal = new Float64Array(m * m);
    for (let a = 0; a < m; a++) {
      const p = this.columns[a]!;
      for (let b = a; b < m; b++) {
        normal[a * m + b] = normal[b * m + a] = dot(p, this.columns[b]!);
      }
    }
    const [xx, xy, yy] = [dot(gx, gx) / n, dot(gx, gy) / n, dot(gy, gy) / n];
    const spread = Math.sqrt((xx - yy) ** 2 + 4 * xy * xy);
    this.hold = [(xx + yy - spread) / 2, (xx + yy + spread) / 2];
    this.inverse = inverseOf(normal, m);
    // Sums of the values and of their squares are there already.
    this.mean = normal[1]! / n;
    this.power = Math.max(0, normal[0]! - n * this.mean * this.mean);
  }

  /**
   * Whether it holds one way only (the aperture problem): across an edge it is found exactly, along it noise decides. `match` is the
   * correlation with what was found, which tells the noise; by it the slopes of noise alone are taken off the structure tensor, and
   * what is left bounds the error of the fit along its weak direction.
   */
  slides(match: number): boolean {
    // Half of what the fit leaves over is the noise of either picture, after the 1 2 1 smoothing.
    return this.slidesIn((Math.max(0, 1 - match * match) * this.power) / (2 * this.values.length));
  }

  /** The same for noise of a known variance, after the smoothing. */
  slidesIn(noise: number): boolean {
    const n = this.values.length;
    // Of such noise a slope's mean square is (1 − 1/6)/2 of its variance, and about four pixels count as one.
    const weak = this.hold[0] - NOISE_SLOPE * noise;
    const strong = this.hold[1] - NOISE_SLOPE * noise;
    if (!(weak > APERTURE * strong)) return true;
    return Math.sqrt((2 * noise * 4) / (n * weak)) > SLIDES;
  }

  /** The pattern as it would look turned and scaled by a linear map, over the bounding box that its own size has. */
  warped(linear: Affine): Gray {
    const inverse = invertAffine([linear[0], linear[1], 0, linear[3], linear[4], 0]) ?? [1, 0, 0, 0, 1, 0];
    const data = new Float32Array(this.values.length);
    const [ox, oy] = [this.x - this.patch.x, this.y - this.patch.y];
    for (let i = 0; i < data.length; i++) {
      const [u, v] = [this.dx[i]!, this.dy[i]!];
      data[i] = sampleAt(this.patch.gray, ox + inverse[0] * u + inverse[1] * v, oy + inverse[3] * u + inverse[4] * v);
    }
    return { width: this.width, height: this.height, data };
  }

  /** Offset of its first sample from the point. */
  get corner(): readonly [number, number] {
    return [this.dx[0]! - 0.5, this.dy[0]! - 0.5];
  }

  /** Finds it in a patch, from a start that is a few pixels off at most; null where it slips away or has no hold. */
  fit(patch: Patch, start: Affine): Fit | null {
    if (!this.inverse) return null;
    const m = this.columns.length;
    const found = new Float64Array(this.values.length);
    const right = new Float64Array(m);
    const q = new Float64Array(m);
    let at = start;
    for (let step = 0; step < MOST_ITERATIONS; step++) {
      this.look(patch, at, found);
      for (let k = 0; k < m; k++) right[k] = dot(this.columns[k]!, found);
      times(this.inverse, right, q);
      const gain = q[0]!;
      if (!(gain > 0.05)) return null;
      for (let k = 2; k < m; k++) q[k]! /= gain;
      const [tx, ty] = [q[2]!, q[3]!];
      const move: Affine =
        this.model === 'shift'
          ? [1, 0, tx, 0, 1, ty]
          : this.model === 'similarity'
            ? [1 + q[4]!, -q[5]!, tx, q[5]!, 1 + q[4]!, ty]
            : [1 + q[4]!, q[5]!, tx, q[6]!, 1 + q[7]!, ty];
      const back = invertAffine(move);
      if (!back) return null;
      at = compose(at, back);
      if (Math.hypot(at[2] - start[2], at[5] - start[5]) > Math.max(6, this.width / 2)) return null;
      if (Math.hypot(tx, ty) < STILL) break;
    }
    this.look(patch, at, found);
    return { at, match: this.matchOf(found) };
  }

  /** The frame's values where the pattern's samples lie. */
  private look({ gray, x, y }: Patch, at: Affine, to: Float64Array): void {
    if (at[0] === 1 && at[1] === 0 && at[3] === 0 && at[4] === 1) {
      const [left, top] = this.corner;
      if (sampleBlock(gray, at[2] + left - x, at[5] + top - y, this.width, this.height, to)) return;
    }
    for (let i = 0; i < to.length; i++) {
      const [u, v] = [this.dx[i]!, this.dy[i]!];
      to[i] = sampleAt(gray, at[0] * u + at[1] * v + at[2] - x, at[3] * u + at[4] * v + at[5] - y);
    }
  }

  /** Correlation with values at its samples. */
  private matchOf(found: Float64Array): number {
    let mean = 0;
    for (const v of found) mean += v;
    mean /= found.length;
    let [dot, power] = [0, 0];
    for (let i = 0; i < found.length; i++) {
      const v = found[i]! - mean;
      dot += v * (this.values[i]! - this.mean);
      power += v * v;
    }
    return power > 0 && this.power > 0 ? dot / Math.sqrt(power * this.power) : 0;
  }

  /** How well it matches a patch where it is said to lie. */
  match(patch: Patch, at: Affine): number {
    const found = new Float64Array(this.values.length);
    this.look(patch, at, found);
    return this.matchOf(found);
  }

  /** The point's box, for cutting a new pattern where it was found. */
  renewed(patch: Patch, x: number, y: number): Pattern {
    return new Pattern(patch, x, y, this.box, this.model);
  }
}
