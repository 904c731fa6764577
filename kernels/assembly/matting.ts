// Inner loops of mattes: runs of pixels, means over windows, and affine fits of coverage to colour.

// @ts-ignore: decorator
@inline
function at(base: usize, i: i32): usize {
  return base + ((<usize>i) << 2);
}

/** Runs of pixels with low < gain·x ≤ high, four pixels at a time where nothing changes. */
// @ts-ignore: decorator
@inline
function runs(x: usize, out: usize, w: i32, h: i32, gain: f32, low: f32, high: f32): i32 {
  const k = f32x4.splat(gain);
  const lo = f32x4.splat(low);
  const hi = f32x4.splat(high);
  let count = 0;
  for (let y = 0; y < h; y++) {
    const row = y * w;
    const end = row + w;
    let inside = false;
    let i = row;
    while (i < end) {
      if (i + 4 <= end) {
        const v = f32x4.mul(v128.load(at(x, i)), k);
        const set = v128.and(f32x4.gt(v, lo), f32x4.le(v, hi));
        // Four alike that go on as before: nothing begins or ends here.
        if (inside ? i32x4.all_true(set) : !v128.any_true(set)) {
          i += 4;
          continue;
        }
      }
      const v = load<f32>(at(x, i)) * gain;
      const on = v > low && v <= high;
      if (on != inside) {
        store<i32>(out + ((<usize>count) << 3) + (inside ? 4 : 0), i);
        if (inside) count++;
        inside = on;
      }
      i++;
    }
    if (inside) {
      store<i32>(out + ((<usize>count) << 3) + 4, end);
      count++;
    }
  }
  return count;
}

/**
 * Runs of pixels along the rows of a w×h plane where gain·x > level. Writes where each begins and ends (excluded) as pairs of
 * i32; there are at most h·((w + 1) >> 1). Returns how many.
 */
export function runsAbove(x: usize, out: usize, w: i32, h: i32, gain: f32, level: f32): i32 {
  return runs(x, out, w, h, gain, level, Infinity);
}

/** The same where low < x ≤ high. */
export function runsBetween(x: usize, out: usize, w: i32, h: i32, low: f32, high: f32): i32 {
  return runs(x, out, w, h, 1, low, high);
}

/**
 * Means over columns of up to 2r + 1 pixels, those beyond the first and the last row left out. Rows are `stride` floats apart,
 * a multiple of 16; what lies between w and stride is treated like any other column. Not in place.
 */
export function boxColumns(x: usize, out: usize, stride: i32, h: i32, r: i32): void {
  const step = (<usize>stride) << 2;
  for (let c = 0; c < stride; c += 16) {
    const from = at(x, c);
    const to = at(out, c);
    let s0 = f32x4.splat(0), s1 = f32x4.splat(0), s2 = f32x4.splat(0), s3 = f32x4.splat(0);
    const first = min<i32>(r, h);
    for (let y = 0; y < first; y++) {
      const p = from + <usize>y * step;
      s0 = f32x4.add(s0, v128.load(p));
      s1 = f32x4.add(s1, v128.load(p, 16));
      s2 = f32x4.add(s2, v128.load(p, 32));
      s3 = f32x4.add(s3, v128.load(p, 48));
    }
    for (let y = 0; y < h; y++) {
      if (y + r < h) {
        const p = from + <usize>(y + r) * step;
        s0 = f32x4.add(s0, v128.load(p));
        s1 = f32x4.add(s1, v128.load(p, 16));
        s2 = f32x4.add(s2, v128.load(p, 32));
        s3 = f32x4.add(s3, v128.load(p, 48));
      }
      if (y - r - 1 >= 0) {
        const p = from + <usize>(y - r - 1) * step;
        s0 = f32x4.sub(s0, v128.load(p));
        s1 = f32x4.sub(s1, v128.load(p, 16));
        s2 = f32x4.sub(s2, v128.load(p, 32));
        s3 = f32x4.sub(s3, v128.load(p, 48));
      }
      const n = f32x4.splat(1 / <f32>(min<i32>(h - 1, y + r) - max<i32>(0, y - r) + 1));
      const q = to + <usize>y * step;
      v128.store(q, f32x4.mul(s0, n));
      v128.store(q, f32x4.mul(s1, n), 16);
      v128.store(q, f32x4.mul(s2, n), 32);
      v128.store(q, f32x4.mul(s3, n), 48);
    }
  }
}

/**
 * For each pixel the affine function of colour that explains an input best in its window, from means. `means` points to 13
 * planes, `apart` bytes from one to the next: r g b, rr rg rb gg gb bb, the input p, rp gp bp. `epsilon` is added to the variances.
 * The function's shares of r, g, b replace rp, gp, bp; what it adds replaces p.
 */
export function colourFit(means: usize, apart: usize, n: i32, epsilon: f32): void {
  const e = f32x4.splat(epsilon);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    let q = means + i;
    const x = v128.load(q);
    q += apart;
    const y = v128.load(q);
    q += apart;
    const z = v128.load(q);
    q += apart;
    const a = f32x4.add(f32x4.sub(v128.load(q), f32x4.mul(x, x)), e);
    q += apart;
    const p = f32x4.sub(v128.load(q), f32x4.mul(x, y));
    q += apart;
    const t = f32x4.sub(v128.load(q), f32x4.mul(x, z));
    q += apart;
    const d = f32x4.add(f32x4.sub(v128.load(q), f32x4.mul(y, y)), e);
    q += apart;
    const s = f32x4.sub(v128.load(q), f32x4.mul(y, z));
    q += apart;
    const f = f32x4.add(f32x4.sub(v128.load(q), f32x4.mul(z, z)), e);
    q += apart;
    const m = v128.load(q);
    const base = q;
    q += apart;
    const cr = f32x4.sub(v128.load(q), f32x4.mul(x, m));
    const cg = f32x4.sub(v128.load(q + apart), f32x4.mul(y, m));
    const cb = f32x4.sub(v128.load(q + 2 * apart), f32x4.mul(z, m));
    const c0 = f32x4.sub(f32x4.mul(d, f), f32x4.mul(s, s));
    const c1 = f32x4.sub(f32x4.mul(t, s), f32x4.mul(p, f));
    const c2 = f32x4.sub(f32x4.mul(p, s), f32x4.mul(t, d));
    const det = f32x4.add(f32x4.add(f32x4.mul(a, c0), f32x4.mul(p, c1)), f32x4.mul(t, c2));
    const c3 = f32x4.sub(f32x4.mul(a, f), f32x4.mul(t, t));
    const c4 = f32x4.sub(f32x4.mul(p, t), f32x4.mul(a, s));
    const c5 = f32x4.sub(f32x4.mul(a, d), f32x4.mul(p, p));
    const ar = f32x4.div(f32x4.add(f32x4.add(f32x4.mul(c0, cr), f32x4.mul(c1, cg)), f32x4.mul(c2, cb)), det);
    const ag = f32x4.div(f32x4.add(f32x4.add(f32x4.mul(c1, cr), f32x4.mul(c3, cg)), f32x4.mul(c4, cb)), det);
    const ab = f32x4.div(f32x4.add(f32x4.add(f32x4.mul(c2, cr), f32x4.mul(c4, cg)), f32x4.mul(c5, cb)), det);
    v128.store(q, ar);
    v128.store(q + apart, ag);
    v128.store(q + 2 * apart, ab);
    v128.store(base, f32x4.sub(f32x4.sub(f32x4.sub(m, f32x4.mul(ar, x)), f32x4.mul(ag, y)), f32x4.mul(ab, z)));
  }
}

/** out = a·r + b·g + c·b + base */
export function affineOfColour(
  a: usize, b: usize, c: usize, base: usize, red: usize, green: usize, blue: usize, out: usize, n: i32,
): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    let v = f32x4.add(v128.load(base + i), f32x4.mul(v128.load(a + i), v128.load(red + i)));
    v = f32x4.add(v, f32x4.mul(v128.load(b + i), v128.load(green + i)));
    v128.store(out + i, f32x4.add(v, f32x4.mul(v128.load(c + i), v128.load(blue + i))));
  }
}
