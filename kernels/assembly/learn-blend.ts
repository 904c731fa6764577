// Results of a net at full size: coefficients of a map a quarter of the size, taken bilinearly, times features; and the gradients of it.
import { fma } from './learn';

/** Where pixel i of the full size lies in a map of a quarter of it. */
// @ts-ignore: decorator
@inline
function quarterOf(i: i32): f32 {
  return (<f32>i + 0.5) * 0.25 - 0.5;
}

/** Row or column k of such a map, held at its edges, behind the border. */
// @ts-ignore: decorator
@inline
function heldAt(k: i32, count: i32, stride: usize): usize {
  return stride * <usize>(min(max(k, 0), count - 1));
}

// @ts-ignore: decorator
@inline
function sum4(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + (f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3));
}

/**
 * Sums of coefficients · features: for each of `sets`, 16 coefficients (8 for the features, 4 for the pixel's own channels, a
 * constant, 3 unused) of a map a quarter of the size, taken bilinearly. `rows` rows from y0; features and pixels start at that row.
 * Writes `sets` floats a pixel.
 */
export function blendFeatures(
  coefficients: usize,
  features: usize,
  pixels: usize,
  out: usize,
  wq: i32,
  hq: i32,
  y0: i32,
  rows: i32,
  sets: i32,
): void {
  const w = 4 * wq;
  const cell = (<usize>sets) << 6;
  const line = cell * <usize>(wq + 2);
  const one = f32x4(1, 0, 0, 0);
  for (let y = 0; y < rows; y++) {
    const v = quarterOf(y0 + y);
    const top = <i32>floor(v);
    const fy = v - <f32>top;
    const above = coefficients + line + cell + heldAt(top, hq, line);
    const below = coefficients + line + cell + heldAt(top + 1, hq, line);
    let f = features + ((<usize>((y + 1) * (w + 2) + 1)) << 5);
    let p = pixels + ((<usize>((y + 1) * (w + 2) + 1)) << 4);
    let q = out + ((<usize>(y * w * sets)) << 2);
    for (let i = 0; i < w; i++, f += 32, p += 16) {
      const u = quarterOf(i);
      const left = <i32>floor(u);
      const fx = u - <f32>left;
      const l = heldAt(left, wq, cell);
      const r = heldAt(left + 1, wq, cell);
      const a = f32x4.splat((1 - fx) * (1 - fy));
      const b = f32x4.splat(fx * (1 - fy));
      const c = f32x4.splat((1 - fx) * fy);
      const d = f32x4.splat(fx * fy);
      const f0 = v128.load(f);
      const f1 = v128.load(f, 16);
      const f2 = v128.load(p);
      for (let s = 0; s < sets; s++, q += 4) {
        const o = (<usize>s) << 6;
        let sum = f32x4.mul(bilinear(above + l + o, above + r + o, below + l + o, below + r + o, a, b, c, d, 0), f0);
        sum = fma(bilinear(above + l + o, above + r + o, below + l + o, below + r + o, a, b, c, d, 16), f1, sum);
        sum = fma(bilinear(above + l + o, above + r + o, below + l + o, below + r + o, a, b, c, d, 32), f2, sum);
        sum = fma(bilinear(above + l + o, above + r + o, below + l + o, below + r + o, a, b, c, d, 48), one, sum);
        store<f32>(q, sum4(sum));
      }
    }
  }
}

// @ts-ignore: decorator
@inline
function bilinear(p: usize, q: usize, r: usize, s: usize, a: v128, b: v128, c: v128, d: v128, at: usize): v128 {
  return fma(v128.load(p + at), a, fma(v128.load(q + at), b, fma(v128.load(r + at), c, f32x4.mul(v128.load(s + at), d))));
}

// @ts-ignore: decorator
@inline
function addTo(at: usize, v: v128): void {
  v128.store(at, f32x4.add(v128.load(at), v));
}

/** From the gradient of what blendFeatures wrote of a whole map, `sets` floats a pixel, += those of coefficients and features. */
export function blendGradient(
  dout: usize,
  coefficients: usize,
  features: usize,
  pixels: usize,
  dcoefficients: usize,
  dfeatures: usize,
  wq: i32,
  hq: i32,
  sets: i32,
): void {
  const w = 4 * wq;
  const cell = (<usize>sets) << 6;
  const line = cell * <usize>(wq + 2);
  const one = f32x4(1, 0, 0, 0);
  const away = dcoefficients - coefficients;
  for (let y = 0; y < 4 * hq; y++) {
    const v = quarterOf(y);
    const top = <i32>floor(v);
    const fy = v - <f32>top;
    const above = coefficients + line + cell + heldAt(top, hq, line);
    const below = coefficients + line + cell + heldAt(top + 1, hq, line);
    let f = features + ((<usize>((y + 1) * (w + 2) + 1)) << 5);
    let df = dfeatures + ((<usize>((y + 1) * (w + 2) + 1)) << 5);
    let p = pixels + ((<usize>((y + 1) * (w + 2) + 1)) << 4);
    let q = dout + ((<usize>(y * w * sets)) << 2);
    for (let i = 0; i < w; i++, f += 32, df += 32, p += 16) {
      const u = quarterOf(i);
      const left = <i32>floor(u);
      const fx = u - <f32>left;
      const l = heldAt(left, wq, cell);
      const r = heldAt(left + 1, wq, cell);
      const a = f32x4.splat((1 - fx) * (1 - fy));
      const b = f32x4.splat(fx * (1 - fy));
      const c = f32x4.splat((1 - fx) * fy);
      const d = f32x4.splat(fx * fy);
      let d0 = v128.load(df);
      let d1 = v128.load(df, 16);
      const f0 = v128.load(f);
      const f1 = v128.load(f, 16);
      const f2 = v128.load(p);
      for (let s = 0; s < sets; s++, q += 4) {
        const g = v128.load32_splat(q);
        const o = (<usize>s) << 6;
        const k = above + l + o;
        const m = above + r + o;
        const n = below + l + o;
        const t = below + r + o;
        d0 = fma(bilinear(k, m, n, t, a, b, c, d, 0), g, d0);
        d1 = fma(bilinear(k, m, n, t, a, b, c, d, 16), g, d1);
        const g0 = f32x4.mul(f0, g);
        const g1 = f32x4.mul(f1, g);
        const g2 = f32x4.mul(f2, g);
        const g3 = f32x4.mul(one, g);
        spread(k + away, a, g0, g1, g2, g3);
        spread(m + away, b, g0, g1, g2, g3);
        spread(n + away, c, g0, g1, g2, g3);
        spread(t + away, d, g0, g1, g2, g3);
      }
      v128.store(df, d0);
      v128.store(df, d1, 16);
    }
  }
}

// @ts-ignore: decorator
@inline
function spread(at: usize, by: v128, g0: v128, g1: v128, g2: v128, g3: v128): void {
  addTo(at, f32x4.mul(by, g0));
  addTo(at + 16, f32x4.mul(by, g1));
  addTo(at + 32, f32x4.mul(by, g2));
  addTo(at + 48, f32x4.mul(by, g3));
}

