// Layers of a small convolutional net, forward and backward. Maps are interleaved by channel (NHWC) with a border of one pixel, so
// that the three taps of a row lie together: (w + 2)·(h + 2)·c floats. c is a multiple of 4, and of 8 where it is written; w is
// 4 or more. Built twice: with relaxed SIMD a multiply and its add are one instruction, rounded once.

// @ts-ignore: decorator
@inline
export function fma(a: v128, b: v128, c: v128): v128 {
  if (ASC_FEATURE_RELAXED_SIMD) return v128.relaxed_madd<f32>(a, b, c);
  return f32x4.add(f32x4.mul(a, b), c);
}

/** 3×3 convolution, bias and leaky rectifier max(v, leak·v): weights [ky][kx][cin][cout]. The border of `out` is left as it is. */
export function conv3(x: usize, weights: usize, bias: usize, out: usize, w: i32, h: i32, cin: i32, cout: i32, leak: f32): void {
  const inPixel = (<usize>cin) << 2;
  const outPixel = (<usize>cout) << 2;
  const inRow = inPixel * <usize>(w + 2);
  const outRow = outPixel * <usize>(w + 2);
  const slope = f32x4.splat(leak);
  const taps = inPixel * 3;
  for (let y = 0; y < h; y++) {
    const src = x + inRow * <usize>y;
    const dst = out + outRow * <usize>(y + 1) + outPixel;
    for (let o = 0; o < cout; o += 8) {
      const at = (<usize>o) << 2;
      const b0 = v128.load(bias + at);
      const b1 = v128.load(bias + at, 16);
      for (let i = 0; i < w; i += 4) {
        // The last four overlap those before them where w is no multiple of 4.
        const px = min(i, w - 4);
        let a0 = b0;
        let a1 = b1;
        let c0 = b0;
        let c1 = b1;
        let d0 = b0;
        let d1 = b1;
        let e0 = b0;
        let e1 = b1;
        let k = weights + at;
        let row = src + inPixel * <usize>px;
        for (let ky = 0; ky < 3; ky++, row += inRow) {
          const end = row + taps;
          let q = row + inPixel;
          let r = q + inPixel;
          let s = r + inPixel;
          for (let p = row; p < end; p += 4, q += 4, r += 4, s += 4, k += outPixel) {
            const k0 = v128.load(k);
            const k1 = v128.load(k, 16);
            let v = v128.load32_splat(p);
            a0 = fma(v, k0, a0);
            a1 = fma(v, k1, a1);
            v = v128.load32_splat(q);
            c0 = fma(v, k0, c0);
            c1 = fma(v, k1, c1);
            v = v128.load32_splat(r);
            d0 = fma(v, k0, d0);
            d1 = fma(v, k1, d1);
            v = v128.load32_splat(s);
            e0 = fma(v, k0, e0);
            e1 = fma(v, k1, e1);
          }
        }
        let to = dst + outPixel * <usize>px + at;
        v128.store(to, f32x4.max(a0, f32x4.mul(a0, slope)));
        v128.store(to, f32x4.max(a1, f32x4.mul(a1, slope)), 16);
        to += outPixel;
        v128.store(to, f32x4.max(c0, f32x4.mul(c0, slope)));
        v128.store(to, f32x4.max(c1, f32x4.mul(c1, slope)), 16);
        to += outPixel;
        v128.store(to, f32x4.max(d0, f32x4.mul(d0, slope)));
        v128.store(to, f32x4.max(d1, f32x4.mul(d1, slope)), 16);
        to += outPixel;
        v128.store(to, f32x4.max(e0, f32x4.mul(e0, slope)));
        v128.store(to, f32x4.max(e1, f32x4.mul(e1, slope)), 16);
      }
    }
  }
}

/** Weights of the convolution that takes the gradient of conv3's output to that of its input: turned over in both directions, cin and cout exchanged. */
export function turnWeights(weights: usize, out: usize, cin: i32, cout: i32): void {
  const block = cin * cout;
  for (let k = 0; k < 9; k++) {
    const from = weights + ((<usize>(k * block)) << 2);
    const to = out + ((<usize>((8 - k) * block)) << 2);
    for (let i = 0; i < cin; i++)
      for (let o = 0; o < cout; o++) store<f32>(to + ((<usize>(o * cin + i)) << 2), load<f32>(from + ((<usize>(i * cout + o)) << 2)));
  }
}

/** Floats of maps that are read again and again, a block of rows at a time: they fit the first cache. */
const BLOCK = 6144;

/** dw += the gradient of conv3's weights: of its input x and of the gradient d of what it gave, before the rectifier. */
export function convWeightGradient(x: usize, d: usize, dw: usize, w: i32, h: i32, cin: i32, cout: i32): void {
  const inPixel = (<usize>cin) << 2;
  const outPixel = (<usize>cout) << 2;
  const inRow = inPixel * <usize>(w + 2);
  const outRow = outPixel * <usize>(w + 2);
  const rows = max(1, BLOCK / (w * (cin + cout)));
  for (let y0 = 0; y0 < h; y0 += rows) {
    const y1 = min(h, y0 + rows);
    for (let ky = 0; ky < 3; ky++) {
      for (let k = 0; k < 3 * cin; k += 4) {
        for (let o = 0; o < cout; o += 8) {
          const to = dw + ((<usize>((ky * 3 * cin + k) * cout + o)) << 2);
          let a0 = v128.load(to);
          let a1 = v128.load(to, 16);
          let b0 = v128.load(to + outPixel);
          let b1 = v128.load(to + outPixel, 16);
          let c0 = v128.load(to + 2 * outPixel);
          let c1 = v128.load(to + 2 * outPixel, 16);
          let e0 = v128.load(to + 3 * outPixel);
          let e1 = v128.load(to + 3 * outPixel, 16);
          for (let y = y0; y < y1; y++) {
            let p = x + inRow * <usize>(y + ky) + ((<usize>k) << 2);
            let q = d + outRow * <usize>(y + 1) + outPixel + ((<usize>o) << 2);
            for (let i = 0; i < w; i++, p += inPixel, q += outPixel) {
              const d0 = v128.load(q);
              const d1 = v128.load(q, 16);
              let v = v128.load32_splat(p);
              a0 = fma(v, d0, a0);
              a1 = fma(v, d1, a1);
              v = v128.load32_splat(p, 4);
              b0 = fma(v, d0, b0);
              b1 = fma(v, d1, b1);
              v = v128.load32_splat(p, 8);
              c0 = fma(v, d0, c0);
              c1 = fma(v, d1, c1);
              v = v128.load32_splat(p, 12);
              e0 = fma(v, d0, e0);
              e1 = fma(v, d1, e1);
            }
          }
          v128.store(to, a0);
          v128.store(to, a1, 16);
          v128.store(to + outPixel, b0);
          v128.store(to + outPixel, b1, 16);
          v128.store(to + 2 * outPixel, c0);
          v128.store(to + 2 * outPixel, c1, 16);
          v128.store(to + 3 * outPixel, e0);
          v128.store(to + 3 * outPixel, e1, 16);
        }
      }
    }
  }
}

/** db += the gradient of the bias. */
export function convBiasGradient(d: usize, db: usize, w: i32, h: i32, cout: i32): void {
  const pixel = (<usize>cout) << 2;
  for (let o: usize = 0; o < pixel; o += 16) {
    let sum = v128.load(db + o);
    for (let y = 1; y <= h; y++) {
      let p = d + pixel * <usize>(y * (w + 2) + 1) + o;
      for (let i = 0; i < w; i++, p += pixel) sum = f32x4.add(sum, v128.load(p));
    }
    v128.store(db + o, sum);
  }
}

/** d ·= the slope of the leaky rectifier that gave `out`: n floats of both. */
export function leakGradient(out: usize, d: usize, n: i32, leak: f32): void {
  const zero = f32x4.splat(0);
  const slope = f32x4.splat(leak);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const v = v128.load(d + i);
    v128.store(d + i, v128.bitselect(v, f32x4.mul(v, slope), f32x4.gt(v128.load(out + i), zero)));
  }
}

/** Half as large: means of 2×2 of a map of w·h, both even. */
export function poolMap(x: usize, out: usize, w: i32, h: i32, c: i32): void {
  const pixel = (<usize>c) << 2;
  const row = pixel * <usize>(w + 2);
  const quarter = f32x4.splat(0.25);
  const half = w >> 1;
  for (let y = 0; y < h >> 1; y++) {
    let p = x + row * <usize>(2 * y + 1) + pixel;
    let q = out + pixel * <usize>((y + 1) * (half + 2) + 1);
    for (let i = 0; i < half; i++, p += pixel)
      for (let k: usize = 0; k < pixel; k += 16, p += 16, q += 16) {
        const sum = f32x4.add(
          f32x4.add(v128.load(p), v128.load(p + pixel)),
          f32x4.add(v128.load(p + row), v128.load(p + row + pixel)),
        );
        v128.store(q, f32x4.mul(sum, quarter));
      }
  }
}

/** d += the gradient of a map of w·h of which `dout` is that of its means. */
export function poolGradient(dout: usize, d: usize, w: i32, h: i32, c: i32): void {
  const pixel = (<usize>c) << 2;
  const row = pixel * <usize>(w + 2);
  const quarter = f32x4.splat(0.25);
  const half = w >> 1;
  for (let y = 0; y < h; y++) {
    let p = d + row * <usize>(y + 1) + pixel;
    const from = dout + pixel * <usize>(((y >> 1) + 1) * (half + 2) + 1);
    for (let i = 0; i < w; i++) {
      let q = from + pixel * <usize>(i >> 1);
      for (let k: usize = 0; k < pixel; k += 16, p += 16, q += 16)
        v128.store(p, f32x4.add(v128.load(p), f32x4.mul(v128.load(q), quarter)));
    }
  }
}

/** Channels `from`… of a wider map of `total` channels, of w·h, become those of x: each pixel as it is, or, `doubled`, each of x four times. */
export function layMap(x: usize, out: usize, w: i32, h: i32, c: i32, total: i32, from: i32, doubled: i32): void {
  const pixel = (<usize>c) << 2;
  const row = pixel * <usize>((w >> doubled) + 2);
  const wide = (<usize>total) << 2;
  for (let y = 0; y < h; y++) {
    const src = x + row * <usize>((y >> doubled) + 1) + pixel;
    let q = out + wide * <usize>((y + 1) * (w + 2) + 1) + ((<usize>from) << 2);
    for (let i = 0; i < w; i++, q += wide) {
      const p = src + pixel * <usize>(i >> doubled);
      for (let k: usize = 0; k < pixel; k += 16) v128.store(q + k, v128.load(p + k));
    }
  }
}

/** dx += the gradient of x of which `dout` is that of what layMap made. */
export function layGradient(dout: usize, dx: usize, w: i32, h: i32, c: i32, total: i32, from: i32, doubled: i32): void {
  const pixel = (<usize>c) << 2;
  const row = pixel * <usize>((w >> doubled) + 2);
  const wide = (<usize>total) << 2;
  for (let y = 0; y < h; y++) {
    const dst = dx + row * <usize>((y >> doubled) + 1) + pixel;
    let q = dout + wide * <usize>((y + 1) * (w + 2) + 1) + ((<usize>from) << 2);
    for (let i = 0; i < w; i++, q += wide) {
      const p = dst + pixel * <usize>(i >> doubled);
      for (let k: usize = 0; k < pixel; k += 16) v128.store(p + k, f32x4.add(v128.load(p + k), v128.load(q + k)));
    }
  }
}

/** A map of a quarter of the size whose pixels hold 4×4 pixels of four channels each: rows y0… of it, from x, which starts at row 4·y0. */
export function unshuffle(x: usize, out: usize, w: i32, rows: i32): void {
  // x is a map too, of 4·w across with its border.
  const row = <usize>(4 * w + 2) << 4;
  for (let y = 0; y < rows; y++)
    for (let i = 0; i < w; i++) {
      let q = out + ((<usize>((y + 1) * (w + 2) + i + 1)) << 8);
      for (let k = 0; k < 4; k++) {
        const p = x + row * <usize>(4 * y + k + 1) + ((<usize>(4 * i + 1)) << 4);
        v128.store(q, v128.load(p));
        v128.store(q, v128.load(p, 16), 16);
        v128.store(q, v128.load(p, 32), 32);
        v128.store(q, v128.load(p, 48), 48);
        q += 64;
      }
    }
}

/**
 * One step of Adam (Kingma & Ba 2015) and of the running mean of the weights: n of weights, gradients, both moments and means.
 * `by` is the rate with both corrections of the start in it, `floor` the small number under the root, corrected as well.
 */
export function adamStep(
  weights: usize,
  gradients: usize,
  first: usize,
  second: usize,
  means: usize,
  n: i32,
  shrink: f32,
  beta1: f32,
  beta2: f32,
  by: f32,
  least: f32,
  keep: f32,
): void {
  const scale = f32x4.splat(shrink);
  const b1 = f32x4.splat(beta1);
  const c1 = f32x4.splat(1 - beta1);
  const b2 = f32x4.splat(beta2);
  const c2 = f32x4.splat(1 - beta2);
  const rate = f32x4.splat(by);
  const small = f32x4.splat(least);
  const k = f32x4.splat(keep);
  const l = f32x4.splat(1 - keep);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const g = f32x4.mul(v128.load(gradients + i), scale);
    const m = f32x4.add(f32x4.mul(b1, v128.load(first + i)), f32x4.mul(c1, g));
    const v = f32x4.add(f32x4.mul(b2, v128.load(second + i)), f32x4.mul(c2, f32x4.mul(g, g)));
    const next = f32x4.sub(v128.load(weights + i), f32x4.div(f32x4.mul(rate, m), f32x4.add(f32x4.sqrt(v), small)));
    v128.store(first + i, m);
    v128.store(second + i, v);
    v128.store(weights + i, next);
    v128.store(means + i, f32x4.add(f32x4.mul(k, v128.load(means + i)), f32x4.mul(l, next)));
  }
}

/** Sum of squares of n floats. */
export function sumSquares(x: usize, n: i32): f64 {
  let a = f64x2.splat(0);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const v = v128.load(x + i);
    const s = f32x4.mul(v, v);
    a = f64x2.add(a, f64x2.add(f64x2.promote_low_f32x4(s), f64x2.promote_low_f32x4(v128.shuffle<i32>(s, s, 2, 3, 0, 1))));
  }
  return f64x2.extract_lane(a, 0) + f64x2.extract_lane(a, 1);
}

/**
 * A row of pixels as the net sees them, four floats each: code values √(x + bend) − √bend, mirrored below 0 and held at `most`, through
 * a 3×4 matrix that whitens them (by rows), and the guess of a table of size³ floats over `low`…`high` of the code values, trilinearly.
 */
export function whitenRow(
  r: usize,
  g: usize,
  b: usize,
  out: usize,
  n: i32,
  matrix: usize,
  bend: f32,
  most: f32,
  table: usize,
  size: i32,
  box: usize,
): void {
  const root = sqrt<f32>(bend);
  const last = <f32>(size - 1);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 4, out += 16) {
    const x = codeOf(load<f32>(r + i), bend, root, most);
    const y = codeOf(load<f32>(g + i), bend, root, most);
    const z = codeOf(load<f32>(b + i), bend, root, most);
    store<f32>(out, load<f32>(matrix) * x + load<f32>(matrix, 4) * y + load<f32>(matrix, 8) * z + load<f32>(matrix, 12));
    store<f32>(out, load<f32>(matrix, 16) * x + load<f32>(matrix, 20) * y + load<f32>(matrix, 24) * z + load<f32>(matrix, 28), 4);
    store<f32>(out, load<f32>(matrix, 32) * x + load<f32>(matrix, 36) * y + load<f32>(matrix, 40) * z + load<f32>(matrix, 44), 8);
    const u = min(max((x - load<f32>(box)) * load<f32>(box, 12), 0), last);
    const v = min(max((y - load<f32>(box, 4)) * load<f32>(box, 16), 0), last);
    const t = min(max((z - load<f32>(box, 8)) * load<f32>(box, 20), 0), last);
    const iu = min(<i32>u, size - 2);
    const iv = min(<i32>v, size - 2);
    const it = min(<i32>t, size - 2);
    const fu = u - <f32>iu;
    const fv = v - <f32>iv;
    const ft = t - <f32>it;
    const dv = (<usize>size) << 2;
    const dt = dv * <usize>size;
    const p = table + ((<usize>iu) << 2) + dv * <usize>iv + dt * <usize>it;
    const near = lerp(lerp(load<f32>(p), load<f32>(p, 4), fu), lerp(load<f32>(p + dv), load<f32>(p + dv, 4), fu), fv);
    const far = lerp(
      lerp(load<f32>(p + dt), load<f32>(p + dt, 4), fu),
      lerp(load<f32>(p + dt + dv), load<f32>(p + dt + dv, 4), fu),
      fv,
    );
    store<f32>(out, 2 * lerp(near, far, ft) - 1, 12);
  }
}

// @ts-ignore: decorator
@inline
function codeOf(v: f32, bend: f32, root: f32, most: f32): f32 {
  return copysign<f32>(min(sqrt<f32>(abs<f32>(v) + bend) - root, most), v);
}

// @ts-ignore: decorator
@inline
function lerp(a: f32, b: f32, t: f32): f32 {
  return a + t * (b - a);
}
