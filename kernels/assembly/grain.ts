// Grain that is made, and noise that is taken away.

/** Half the sum of bytes, and what makes eight bytes' sum of variance 1: 8·(256² − 1)/12. */
const MIDDLE: i32 = 1020;
const UNIT: f32 = 0.0047841;

// @ts-ignore: decorator
@inline
function mixed(h: v128): v128 {
  h = i32x4.mul(v128.xor(h, i32x4.shr_u(h, 16)), i32x4.splat(0x7feb352d));
  h = i32x4.mul(v128.xor(h, i32x4.shr_u(h, 15)), i32x4.splat(0x846ca68b));
  return v128.xor(h, i32x4.shr_u(h, 16));
}

// @ts-ignore: decorator
@inline
function bytes(h: v128): v128 {
  const low = i32x4.splat(0x00ff00ff);
  const two = i32x4.add(v128.and(h, low), v128.and(i32x4.shr_u(h, 8), low));
  return i32x4.add(v128.and(two, i32x4.splat(0xffff)), i32x4.shr_u(two, 16));
}

/**
 * White noise of mean 0 and variance 1, near normal (the sum of eight bytes of a hash of the place), over w×h pixels whose first is at (ox, oy). The
 * same place and seed give the same value. Rows are w floats; the last may be overrun by three.
 */
export function whiteNoise(out: usize, w: i32, h: i32, ox: i32, oy: i32, seed: u32): void {
  const steps = i32x4(0, 1, 2, 3);
  for (let y = 0; y < h; y++) {
    const row = i32x4.splat((oy + y) * 0x1b873593 + <i32>seed);
    for (let x = 0; x < w; x += 4) {
      const at = i32x4.add(i32x4.splat(ox + x), steps);
      const first = mixed(v128.xor(i32x4.mul(at, i32x4.splat(0x2c1b3c6d)), row));
      const second = mixed(i32x4.add(first, i32x4.splat(0x68e31da4)));
      const sum = i32x4.sub(i32x4.add(bytes(first), bytes(second)), i32x4.splat(MIDDLE));
      const v = f32x4.mul(f32x4.convert_i32x4_s(sum), f32x4.splat(UNIT));
      const q = out + ((<usize>(y * w + x)) << 2);
      if (x + 4 <= w) v128.store(q, v);
      else {
        store<f32>(q, f32x4.extract_lane(v, 0));
        if (x + 1 < w) store<f32>(q, f32x4.extract_lane(v, 1), 4);
        if (x + 2 < w) store<f32>(q, f32x4.extract_lane(v, 2), 8);
      }
    }
  }
}

/**
 * out(x, y) = Σ weights(i, j)·x(x + i, y + j) over side×side samples; x has rows of `stride` floats, that may be overrun by three, and its first
 * sample is the window's corner.
 */
export function correlateSquare(x: usize, stride: i32, out: usize, w: i32, h: i32, weights: usize, side: i32): void {
  for (let y = 0; y < h; y++) {
    for (let i = 0; i < w; i += 4) {
      let sum = f32x4.splat(0);
      for (let v = 0; v < side; v++) {
        const row = x + ((<usize>((y + v) * stride + i)) << 2);
        const own = weights + ((<usize>(v * side)) << 2);
        for (let u = 0; u < side; u++) {
          sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(own + ((<usize>u) << 2)), v128.load(row + ((<usize>u) << 2))));
        }
      }
      const q = out + ((<usize>(y * w + i)) << 2);
      if (i + 4 <= w) v128.store(q, sum);
      else {
        store<f32>(q, f32x4.extract_lane(sum, 0));
        if (i + 1 < w) store<f32>(q, f32x4.extract_lane(sum, 1), 4);
        if (i + 2 < w) store<f32>(q, f32x4.extract_lane(sum, 2), 8);
      }
    }
  }
}

/**
 * x += gain·√(a·α² + b·v·α + c·v²)·n, where v is x held at 0 and above and α its alpha: grain whose strength goes with the light, of a picture that is
 * premultiplied.
 */
export function addGrain(x: usize, alpha: usize, noise: usize, n: i32, a: f32, b: f32, c: f32, gain: f32): void {
  const zero = f32x4.splat(0);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const p = v128.load(x + i);
    const v = f32x4.max(p, zero);
    const k = v128.load(alpha + i);
    const own = f32x4.mul(k, f32x4.add(f32x4.mul(k, f32x4.splat(a)), f32x4.mul(v, f32x4.splat(b))));
    const variance = f32x4.add(own, f32x4.mul(v, f32x4.mul(v, f32x4.splat(c))));
    const s = f32x4.mul(f32x4.sqrt(f32x4.max(variance, zero)), f32x4.splat(gain));
    v128.store(x + i, f32x4.add(p, f32x4.mul(s, v128.load(noise + i))));
  }
}

/**
 * One offset of non-local means (Buades, Coll and Morel 2005) over w×h pixels: patches of (2r + 1)² pixels of three planes are compared with those of
 * three others, and the squares of what those hold, with their sign, are added to `s0` to `s2` with the weight, and that to `weight`. Planes point at the first pixel's own sample and at its
 * partner's, rows are `stride` floats, and r + 4 samples more lie around. The weight is (1 − t/8)⁸, near e^−t, of t = max(0, d − floor)·scale where d
 * is the mean squared difference. `square` and `rows` are scratch of (h + 2r)·(w + 2r + 8) floats.
 */
export function addAlike(
  a0: usize, a1: usize, a2: usize, b0: usize, b1: usize, b2: usize, stride: i32, w: i32, h: i32, r: i32,
  floor: f32, scale: f32, s0: usize, s1: usize, s2: usize, weight: usize, sumStride: i32, square: usize, rows: usize,
): void {
  const wide = (w + 2 * r + 7) & ~3;
  const tall = h + 2 * r;
  const back = ((<usize>(r * stride + r)) << 2);
  for (let y = 0; y < tall; y++) {
    const o = ((<usize>(y * stride)) << 2) - back;
    const q = square + ((<usize>(y * wide)) << 2);
    for (let x = 0; x < wide; x += 4) {
      const i = o + ((<usize>x) << 2);
      const d0 = f32x4.sub(v128.load(a0 + i), v128.load(b0 + i));
      const d1 = f32x4.sub(v128.load(a1 + i), v128.load(b1 + i));
      const d2 = f32x4.sub(v128.load(a2 + i), v128.load(b2 + i));
      v128.store(q + ((<usize>x) << 2), f32x4.add(f32x4.add(f32x4.mul(d0, d0), f32x4.mul(d1, d1)), f32x4.mul(d2, d2)));
    }
  }
  // Sums along the rows, then down the columns, kept going from row to row.
  for (let y = 0; y < tall; y++) {
    const q = square + ((<usize>(y * wide)) << 2);
    const t = rows + ((<usize>(y * wide)) << 2);
    for (let x = 0; x < w; x += 4) {
      let sum = v128.load(q + ((<usize>x) << 2));
      for (let u = 1; u <= 2 * r; u++) sum = f32x4.add(sum, v128.load(q + ((<usize>(x + u)) << 2)));
      v128.store(t + ((<usize>x) << 2), sum);
    }
  }
  const side = 2 * r + 1;
  const even = f32x4.splat(<f32>1 / (<f32>3 * <f32>side * <f32>side));
  const least = f32x4.splat(floor);
  const by = f32x4.splat(scale / 8);
  const one = f32x4.splat(1);
  const zero = f32x4.splat(0);
  for (let y = 0; y < h; y++) {
    const t = rows + ((<usize>(y * wide)) << 2);
    const at = (<usize>(y * sumStride)) << 2;
    const own = (<usize>(y * stride)) << 2;
    for (let x = 0; x < w; x += 4) {
      const i = (<usize>x) << 2;
      let sum = v128.load(t + i);
      for (let v = 1; v < side; v++) sum = f32x4.add(sum, v128.load(t + i + ((<usize>(v * wide)) << 2)));
      const d = f32x4.max(zero, f32x4.sub(f32x4.mul(sum, even), least));
      let k = f32x4.max(zero, f32x4.sub(one, f32x4.mul(d, by)));
      k = f32x4.mul(k, k);
      k = f32x4.mul(k, k);
      k = f32x4.mul(k, k);
      const j = at + i;
      v128.store(weight + j, f32x4.add(v128.load(weight + j), k));
      const v0 = v128.load(b0 + own + i);
      v128.store(s0 + j, f32x4.add(v128.load(s0 + j), f32x4.mul(k, f32x4.mul(v0, f32x4.abs(v0)))));
      const v1 = v128.load(b1 + own + i);
      v128.store(s1 + j, f32x4.add(v128.load(s1 + j), f32x4.mul(k, f32x4.mul(v1, f32x4.abs(v1)))));
      const v2 = v128.load(b2 + own + i);
      v128.store(s2 + j, f32x4.add(v128.load(s2 + j), f32x4.mul(k, f32x4.mul(v2, f32x4.abs(v2)))));
    }
  }
}
