// Separable convolution and the factor-two pyramid of Burt & Adelson 1983 (5-tap binomial).
// Rows are `stride` floats apart. All are "valid": the caller hands in a plane that is already padded. A row may be overrun by
// up to three floats, so rows are written in ascending order.

/** Sixteen sums at once: the taps' samples are `step` bytes apart. */
// @ts-ignore: decorator
@inline
export function convolveLine(src: usize, dst: usize, w: i32, step: usize, k: usize, taps: i32): void {
  let i = 0;
  const end = k + ((<usize>taps) << 2);
  for (; i + 16 <= w; i += 16, src += 64, dst += 64) {
    let a = f32x4.splat(0);
    let b = a;
    let c = a;
    let d = a;
    let p = src;
    let t = k;
    // Two taps a turn, and the kernel's mirrored taps would not pay: the loads are what costs.
    for (; t + 4 < end; t += 8, p += 2 * step) {
      const g = v128.load32_splat(t);
      const h = v128.load32_splat(t, 4);
      const q = p + step;
      a = f32x4.add(f32x4.add(a, f32x4.mul(v128.load(p), g)), f32x4.mul(v128.load(q), h));
      b = f32x4.add(f32x4.add(b, f32x4.mul(v128.load(p, 16), g)), f32x4.mul(v128.load(q, 16), h));
      c = f32x4.add(f32x4.add(c, f32x4.mul(v128.load(p, 32), g)), f32x4.mul(v128.load(q, 32), h));
      d = f32x4.add(f32x4.add(d, f32x4.mul(v128.load(p, 48), g)), f32x4.mul(v128.load(q, 48), h));
    }
    if (t < end) {
      const g = v128.load32_splat(t);
      a = f32x4.add(a, f32x4.mul(v128.load(p), g));
      b = f32x4.add(b, f32x4.mul(v128.load(p, 16), g));
      c = f32x4.add(c, f32x4.mul(v128.load(p, 32), g));
      d = f32x4.add(d, f32x4.mul(v128.load(p, 48), g));
    }
    v128.store(dst, a);
    v128.store(dst, b, 16);
    v128.store(dst, c, 32);
    v128.store(dst, d, 48);
  }
  for (; i < w; i += 4, src += 16, dst += 16) {
    let a = f32x4.splat(0);
    let p = src;
    for (let t = k; t < end; t += 4, p += step) a = f32x4.add(a, f32x4.mul(v128.load(p), v128.load32_splat(t)));
    v128.store(dst, a);
  }
}

/** out(x, y) = Σ_{i<taps} k[i]·in(x + i, y), for w×h outputs */
export function convolveRows(x: usize, out: usize, w: i32, h: i32, xStride: i32, outStride: i32, k: usize, taps: i32): void {
  for (let y = 0; y < h; y++) {
    convolveLine(x + ((<usize>(y * xStride)) << 2), out + ((<usize>(y * outStride)) << 2), w, 4, k, taps);
  }
}

/** out(x, y) = Σ_{i<taps} k[i]·in(x, y + i), for w×h outputs */
export function convolveColumns(x: usize, out: usize, w: i32, h: i32, xStride: i32, outStride: i32, k: usize, taps: i32): void {
  for (let y = 0; y < h; y++) {
    convolveLine(x + ((<usize>(y * xStride)) << 2), out + ((<usize>(y * outStride)) << 2), w, (<usize>xStride) << 2, k, taps);
  }
}

/** (a + e + 4·(b + d) + 6·c) / 16 */
// @ts-ignore: decorator
@inline
function binomial(a: v128, b: v128, c: v128, d: v128, e: v128): v128 {
  const v = f32x4.add(f32x4.add(f32x4.add(a, e), f32x4.mul(f32x4.add(b, d), f32x4.splat(4))), f32x4.mul(c, f32x4.splat(6)));
  return f32x4.mul(v, f32x4.splat(0.0625));
}

/** Half as wide: out(x) = (in(2x) + 4·in(2x+1) + 6·in(2x+2) + 4·in(2x+3) + in(2x+4)) / 16 */
export function reduceRows(x: usize, out: usize, w: i32, h: i32, xStride: i32, outStride: i32): void {
  for (let y = 0; y < h; y++) {
    let p = x + ((<usize>(y * xStride)) << 2);
    let q = out + ((<usize>(y * outStride)) << 2);
    for (let i = 0; i < w; i += 4, p += 32, q += 16) {
      const a0 = v128.load(p);
      const a1 = v128.load(p, 16);
      const b0 = v128.load(p, 8);
      const b1 = v128.load(p, 24);
      const c1 = v128.load(p, 32);
      v128.store(
        q,
        binomial(
          v128.shuffle<i32>(a0, a1, 0, 2, 4, 6),
          v128.shuffle<i32>(a0, a1, 1, 3, 5, 7),
          v128.shuffle<i32>(b0, b1, 0, 2, 4, 6),
          v128.shuffle<i32>(b0, b1, 1, 3, 5, 7),
          v128.shuffle<i32>(a1, c1, 0, 2, 4, 6),
        ),
      );
    }
  }
}

/** Half as high: the same along y */
export function reduceColumns(x: usize, out: usize, w: i32, h: i32, xStride: i32, outStride: i32): void {
  const s = (<usize>xStride) << 2;
  for (let y = 0; y < h; y++) {
    const p = x + s * <usize>(2 * y);
    const q = out + ((<usize>(y * outStride)) << 2);
    for (let i: usize = 0, end = (<usize>w) << 2; i < end; i += 16) {
      const a = p + i;
      v128.store(
        q + i,
        binomial(v128.load(a), v128.load(a + s), v128.load(a + 2 * s), v128.load(a + 3 * s), v128.load(a + 4 * s)),
      );
    }
  }
}

/** An output that lies on a coarse sample: (a + 6·b + c) / 8 */
// @ts-ignore: decorator
@inline
function onSample(a: v128, b: v128, c: v128): v128 {
  return f32x4.mul(f32x4.add(f32x4.add(a, c), f32x4.mul(b, f32x4.splat(6))), f32x4.splat(0.125));
}

/** An output between two coarse samples: (b + c) / 2 */
// @ts-ignore: decorator
@inline
function between(b: v128, c: v128): v128 {
  return f32x4.mul(f32x4.add(b, c), f32x4.splat(0.5));
}

/**
 * Twice as wide; in(i) sits at output 2i − phase. out(even) = (in−1 + 6·in + in+1)/8, out(odd) = (in + in+1)/2; `x` must have
 * one sample before and two after. A row may be overrun by up to seven floats.
 */
export function expandRows(x: usize, out: usize, w: i32, h: i32, xStride: i32, outStride: i32, phase: i32): void {
  for (let y = 0; y < h; y++) {
    const src = x + ((<usize>(y * xStride)) << 2);
    let q = out + ((<usize>(y * outStride)) << 2);
    let i = 0;
    if (phase & 1) {
      const p = src + ((<usize>(phase >> 1)) << 2);
      store<f32>(q, (load<f32>(p, 4) + load<f32>(p, 8)) * 0.5);
      i = 1;
      q += 4;
    }
    let p = src + ((<usize>((i + phase) >> 1)) << 2);
    for (; i < w; i += 8, p += 16, q += 32) {
      const b = v128.load(p, 4);
      const c = v128.load(p, 8);
      const even = onSample(v128.load(p), b, c);
      const odd = between(b, c);
      v128.store(q, v128.shuffle<i32>(even, odd, 0, 4, 1, 5));
      v128.store(q, v128.shuffle<i32>(even, odd, 2, 6, 3, 7), 16);
    }
  }
}

/** Twice as high: the same along y */
export function expandColumns(x: usize, out: usize, w: i32, h: i32, xStride: i32, outStride: i32, phase: i32): void {
  const s = (<usize>xStride) << 2;
  for (let y = 0; y < h; y++) {
    const j = y + phase;
    const p = x + s * <usize>(j >> 1);
    const q = out + ((<usize>(y * outStride)) << 2);
    for (let i: usize = 0, end = (<usize>w) << 2; i < end; i += 16) {
      const b = v128.load(p + s + i);
      const c = v128.load(p + 2 * s + i);
      v128.store(q + i, j & 1 ? between(b, c) : onSample(v128.load(p + i), b, c));
    }
  }
}
