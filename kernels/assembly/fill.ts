// Carrying colour into what is not known: sums by fours, pyramids, doubling, and what solid pixels give.

// @ts-ignore: decorator
@inline
function at(base: usize, i: i32): usize {
  return base + ((<usize>i) << 2);
}

/** Sums of 2×2 samples of a w×h plane, those beyond its edge left out: ((w + 1) >> 1) × ((h + 1) >> 1) of them. */
export function sumFours(x: usize, out: usize, w: i32, h: i32): void {
  const half = (w + 1) >> 1;
  const whole = w >> 1;
  for (let y = 0; 2 * y < h; y++) {
    const a = at(x, 2 * y * w);
    // The last row of an odd height stands alone.
    const alone = 2 * y + 1 >= h;
    const b = alone ? a : at(a, w);
    const o = at(out, y * half);
    const share: f32 = alone ? 0.5 : 1;
    const k = f32x4.splat(share);
    let i = 0;
    for (; i + 4 <= whole; i += 4) {
      const p = at(a, 2 * i);
      const q = at(b, 2 * i);
      const u = f32x4.add(v128.load(p), v128.load(q));
      const v = f32x4.add(v128.load(p, 16), v128.load(q, 16));
      const sum = f32x4.add(v128.shuffle<i32>(u, v, 0, 2, 4, 6), v128.shuffle<i32>(u, v, 1, 3, 5, 7));
      v128.store(at(o, i), f32x4.mul(sum, k));
    }
    for (; i < half; i++) {
      const p = at(a, 2 * i);
      const q = at(b, 2 * i);
      let sum = load<f32>(p) + load<f32>(q);
      if (2 * i + 1 < w) sum += load<f32>(p, 4) + load<f32>(q, 4);
      store<f32>(at(o, i), sum * share);
    }
  }
}

/** x / max(1, weight), in place */
export function divideByOver1(x: usize, weight: usize, n: i32): void {
  const one = f32x4.splat(1);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    v128.store(x + i, f32x4.div(v128.load(x + i), f32x4.pmax(v128.load(weight + i), one)));
  }
}

/**
 * Adds to a w×h plane, by how much of each of its pixels is open (1 − weight), what a plane of half its size holds there,
 * bilinearly; the coarse plane's edge is repeated.
 */
export function addOpen(fine: usize, weight: usize, w: i32, h: i32, coarse: usize, cw: i32, ch: i32): void {
  const one = f32x4.splat(1);
  const near = f32x4.splat(0.75);
  const far = f32x4.splat(0.25);
  for (let y = 0; y < h; y++) {
    const a = at(coarse, (y >> 1) * cw);
    const b = at(coarse, min<i32>(ch - 1, max<i32>(0, (y >> 1) + (y & 1 ? 1 : -1))) * cw);
    const f = at(fine, y * w);
    const o = at(weight, y * w);
    let x = 0;
    while (x < w) {
      const c = x >> 1;
      // Four at once where all that they read lies in the row.
      if (c >= 1 && c + 2 < cw && x + 4 <= w) {
        const open = f32x4.sub(one, v128.load(at(o, x)));
        if (v128.any_true(f32x4.gt(open, f32x4.splat(0)))) {
          const v = f32x4.add(f32x4.mul(v128.load(at(a, c - 1)), near), f32x4.mul(v128.load(at(b, c - 1)), far));
          const sum = f32x4.add(
            f32x4.mul(v128.shuffle<i32>(v, v, 1, 1, 2, 2), near),
            f32x4.mul(v128.shuffle<i32>(v, v, 0, 2, 1, 3), far),
          );
          v128.store(at(f, x), f32x4.add(v128.load(at(f, x)), f32x4.mul(open, sum)));
        }
        x += 4;
        continue;
      }
      // The same pixels as four at once would be, so that the next four begin on an even one.
      for (let end = min<i32>(w, x + 2); x < end; x++) {
        const open = <f32>1 - load<f32>(at(o, x));
        if (open <= 0) continue;
        const own = x >> 1;
        const beside = min<i32>(cw - 1, max<i32>(0, x & 1 ? own + 1 : own - 1));
        const here = load<f32>(at(a, own)) * <f32>0.75 + load<f32>(at(b, own)) * <f32>0.25;
        const there = load<f32>(at(a, beside)) * <f32>0.75 + load<f32>(at(b, beside)) * <f32>0.25;
        store<f32>(at(f, x), load<f32>(at(f, x)) + open * (here * <f32>0.75 + there * <f32>0.25));
      }
    }
  }
}

/**
 * Twice the size, bilinearly about the pixels' centres: out(2i) = ¼·in(i − 1) + ¾·in(i), out(2i + 1) = ¾·in(i) + ¼·in(i + 1), along
 * both axes. `x` points at the sample under the first output and has `xStride` floats a row, with one sample more on each side.
 * w and h are of `x`; rows of `out` are 2·w floats.
 */
export function doubled(x: usize, out: usize, w: i32, h: i32, xStride: i32): void {
  const near = f32x4.splat(0.75);
  const far = f32x4.splat(0.25);
  for (let y = 0; y < 2 * h; y++) {
    const a = at(x, (y >> 1) * xStride);
    const b = at(a, y & 1 ? xStride : -xStride);
    const o = at(out, y * 2 * w);
    let i = 0;
    for (; i + 4 <= w; i += 4) {
      const before = f32x4.add(f32x4.mul(v128.load(at(a, i - 1)), near), f32x4.mul(v128.load(at(b, i - 1)), far));
      const own = f32x4.add(f32x4.mul(v128.load(at(a, i)), near), f32x4.mul(v128.load(at(b, i)), far));
      const after = f32x4.add(f32x4.mul(v128.load(at(a, i + 1)), near), f32x4.mul(v128.load(at(b, i + 1)), far));
      const most = f32x4.mul(own, near);
      const even = f32x4.add(most, f32x4.mul(before, far));
      const odd = f32x4.add(most, f32x4.mul(after, far));
      v128.store(at(o, 2 * i), v128.shuffle<i32>(even, odd, 0, 4, 1, 5));
      v128.store(at(o, 2 * i), v128.shuffle<i32>(even, odd, 2, 6, 3, 7), 16);
    }
    for (; i < w; i++) {
      const own = <f32>0.75 * load<f32>(at(a, i)) + <f32>0.25 * load<f32>(at(b, i));
      const before = <f32>0.75 * load<f32>(at(a, i - 1)) + <f32>0.25 * load<f32>(at(b, i - 1));
      const after = <f32>0.75 * load<f32>(at(a, i + 1)) + <f32>0.25 * load<f32>(at(b, i + 1));
      store<f32>(at(o, 2 * i), <f32>0.75 * own + <f32>0.25 * before);
      store<f32>(at(o, 2 * i), <f32>0.75 * own + <f32>0.25 * after, 4);
    }
  }
}

/** out(i) = a + u·(b + u·(c + u·(d + u·e))) with u = (2i + 1)/w − 1, for a row of w floats */
export function quarticRow(out: usize, w: i32, a: f32, b: f32, c: f32, d: f32, e: f32): void {
  const step: f32 = 2 / <f32>w;
  const s = f32x4.splat(step);
  const first = f32x4.splat(0.5 * step - 1);
  const va = f32x4.splat(a);
  const vb = f32x4.splat(b);
  const vc = f32x4.splat(c);
  const vd = f32x4.splat(d);
  const ve = f32x4.splat(e);
  const four = f32x4.splat(4);
  let i = f32x4(0, 1, 2, 3);
  for (const end = at(out, w); out < end; out += 16, i = f32x4.add(i, four)) {
    const u = f32x4.add(f32x4.mul(i, s), first);
    let v = f32x4.add(f32x4.mul(ve, u), vd);
    v = f32x4.add(f32x4.mul(v, u), vc);
    v = f32x4.add(f32x4.mul(v, u), vb);
    v128.store(out, f32x4.add(f32x4.mul(v, u), va));
  }
}

/** Whether a w×h part of a plane has a value over `low` and under `high`. */
export function anyBetween(x: usize, w: i32, h: i32, stride: i32, low: f32, high: f32): i32 {
  const lo = f32x4.splat(low);
  const hi = f32x4.splat(high);
  for (let y = 0; y < h; y++) {
    let p = at(x, y * stride);
    const end = at(p, w);
    for (; p + 16 <= end; p += 16) {
      const v = v128.load(p);
      if (v128.any_true(v128.and(f32x4.gt(v, lo), f32x4.lt(v, hi)))) return 1;
    }
    for (; p < end; p += 4) {
      const v = load<f32>(p);
      if (v > low && v < high) return 1;
    }
  }
  return 0;
}

/** out = c/a where a ≥ solid, else 0, for a w×h part of two planes; rows of `out` are w floats */
export function solidOnly(c: usize, a: usize, stride: i32, out: usize, w: i32, h: i32, solid: f32): void {
  const least = f32x4.splat(solid);
  for (let y = 0; y < h; y++) {
    const p = at(c, y * stride);
    const q = at(a, y * stride);
    const o = at(out, y * w);
    let i = 0;
    for (; i + 4 <= w; i += 4) {
      const v = v128.load(at(q, i));
      v128.store(at(o, i), v128.and(f32x4.div(v128.load(at(p, i)), v), f32x4.ge(v, least)));
    }
    for (; i < w; i++) {
      const v = load<f32>(at(q, i));
      store<f32>(at(o, i), v >= solid ? load<f32>(at(p, i)) / v : 0);
    }
  }
}

/**
 * Mixes carried colour into a w×h part of a plane of premultiplied colour c with coverage a: where 0 < a < solid and something is
 * known, c + min(1, 4·known)·(1 − keep·a)·(a·carried/known − c), else c.
 */
export function takeCarried(
  c: usize, a: usize, stride: i32, carried: usize, known: usize, carriedStride: i32, out: usize, outStride: i32, w: i32, h: i32,
  solid: f32, keep: f32,
): void {
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const v = load<f32>(at(a, y * stride + x));
      const k = load<f32>(at(known, y * carriedStride + x));
      if (v <= 0 || v >= solid || k <= 0) continue;
      const was = load<f32>(at(c, y * stride + x));
      const share = min<f32>(1, 4 * k) * (1 - keep * v);
      const theirs = (v * load<f32>(at(carried, y * carriedStride + x))) / k;
      store<f32>(at(out, y * outStride + x), was + share * (theirs - was));
    }
  }
}
