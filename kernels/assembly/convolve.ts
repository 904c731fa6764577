// Separable convolution and the factor-two pyramid of Burt & Adelson 1983 (5-tap binomial).
// Rows are `stride` floats apart. All are "valid": the caller hands in a plane that is already padded.

/** out(x, y) = Σ_{i<taps} k[i]·in(x + i, y), for w×h outputs */
export function convolveRows(x: usize, out: usize, w: i32, h: i32, xStride: i32, outStride: i32, k: usize, taps: i32): void {
  for (let y = 0; y < h; y++) {
    const src = x + ((<usize>(y * xStride)) << 2);
    const dst = out + ((<usize>(y * outStride)) << 2);
    let i = 0;
    for (; i + 4 <= w; i += 4) {
      let acc = f32x4.splat(0);
      let p = src + ((<usize>i) << 2);
      for (let t = 0; t < taps; t++, p += 4) {
        acc = f32x4.add(acc, f32x4.mul(v128.load(p), v128.load32_splat(k + ((<usize>t) << 2))));
      }
      v128.store(dst + ((<usize>i) << 2), acc);
    }
    for (; i < w; i++) {
      let acc: f32 = 0;
      for (let t = 0; t < taps; t++) acc += load<f32>(src + ((<usize>(i + t)) << 2)) * load<f32>(k + ((<usize>t) << 2));
      store<f32>(dst + ((<usize>i) << 2), acc);
    }
  }
}

/** out(x, y) = Σ_{i<taps} k[i]·in(x, y + i), for w×h outputs */
export function convolveColumns(x: usize, out: usize, w: i32, h: i32, xStride: i32, outStride: i32, k: usize, taps: i32): void {
  const step = (<usize>xStride) << 2;
  for (let y = 0; y < h; y++) {
    const src = x + ((<usize>(y * xStride)) << 2);
    const dst = out + ((<usize>(y * outStride)) << 2);
    let i = 0;
    for (; i + 4 <= w; i += 4) {
      let acc = f32x4.splat(0);
      let p = src + ((<usize>i) << 2);
      for (let t = 0; t < taps; t++, p += step) {
        acc = f32x4.add(acc, f32x4.mul(v128.load(p), v128.load32_splat(k + ((<usize>t) << 2))));
      }
      v128.store(dst + ((<usize>i) << 2), acc);
    }
    for (; i < w; i++) {
      let acc: f32 = 0;
      let p = src + ((<usize>i) << 2);
      for (let t = 0; t < taps; t++, p += step) acc += load<f32>(p) * load<f32>(k + ((<usize>t) << 2));
      store<f32>(dst + ((<usize>i) << 2), acc);
    }
  }
}

/** Half as wide: out(x) = (in(2x) + 4·in(2x+1) + 6·in(2x+2) + 4·in(2x+3) + in(2x+4)) / 16 */
export function reduceRows(x: usize, out: usize, w: i32, h: i32, xStride: i32, outStride: i32): void {
  for (let y = 0; y < h; y++) {
    let p = x + ((<usize>(y * xStride)) << 2);
    let q = out + ((<usize>(y * outStride)) << 2);
    for (let i = 0; i < w; i++, p += 8, q += 4) {
      const v = load<f32>(p) + load<f32>(p, 16) + 4 * (load<f32>(p, 4) + load<f32>(p, 12)) + 6 * load<f32>(p, 8);
      store<f32>(q, v * 0.0625);
    }
  }
}

/** Half as high: the same along y */
export function reduceColumns(x: usize, out: usize, w: i32, h: i32, xStride: i32, outStride: i32): void {
  const s = (<usize>xStride) << 2;
  const four = f32x4.splat(4);
  const six = f32x4.splat(6);
  const norm = f32x4.splat(0.0625);
  for (let y = 0; y < h; y++) {
    const p = x + s * <usize>(2 * y);
    const q = out + ((<usize>(y * outStride)) << 2);
    for (let i: usize = 0, end = (<usize>w) << 2; i < end; i += 16) {
      const a = p + i;
      const ends = f32x4.add(v128.load(a), v128.load(a + 4 * s));
      const sides = f32x4.add(v128.load(a + s), v128.load(a + 3 * s));
      const v = f32x4.add(f32x4.add(ends, f32x4.mul(sides, four)), f32x4.mul(v128.load(a + 2 * s), six));
      v128.store(q + i, f32x4.mul(v, norm));
    }
  }
}

/** Twice as wide; in(i) sits at output 2i − phase. out(even) = (in−1 + 6·in + in+1)/8, out(odd) = (in + in+1)/2; `x` must have one sample before and two after. */
export function expandRows(x: usize, out: usize, w: i32, h: i32, xStride: i32, outStride: i32, phase: i32): void {
  for (let y = 0; y < h; y++) {
    const src = x + ((<usize>(y * xStride)) << 2);
    const dst = out + ((<usize>(y * outStride)) << 2);
    for (let i = 0; i < w; i++) {
      const j = i + phase;
      const p = src + ((<usize>(j >> 1)) << 2);
      const v: f32 = (j & 1)
        ? (load<f32>(p, 4) + load<f32>(p, 8)) * 0.5
        : (load<f32>(p) + load<f32>(p, 8) + 6 * load<f32>(p, 4)) * 0.125;
      store<f32>(dst + ((<usize>i) << 2), v);
    }
  }
}

/** Twice as high: the same along y */
export function expandColumns(x: usize, out: usize, w: i32, h: i32, xStride: i32, outStride: i32, phase: i32): void {
  const s = (<usize>xStride) << 2;
  const six = f32x4.splat(6);
  const eighth = f32x4.splat(0.125);
  const half = f32x4.splat(0.5);
  for (let y = 0; y < h; y++) {
    const j = y + phase;
    const p = x + s * <usize>(j >> 1);
    const q = out + ((<usize>(y * outStride)) << 2);
    for (let i: usize = 0, end = (<usize>w) << 2; i < end; i += 16) {
      const b = v128.load(p + s + i);
      const c = v128.load(p + 2 * s + i);
      if (j & 1) v128.store(q + i, f32x4.mul(f32x4.add(b, c), half));
      else v128.store(q + i, f32x4.mul(f32x4.add(f32x4.add(v128.load(p + i), c), f32x4.mul(b, six)), eighth));
    }
  }
}
