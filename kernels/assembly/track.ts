// Tracking: sums of correlation, calming, features followed by shift, places of a plane looked up, and weighted normal equations.

// @ts-ignore: decorator
@inline
function at(base: usize, i: i32): usize {
  return base + ((<usize>i) << 2);
}

/**
 * out(x, y) = Σ t(i, j)·p(x + i, y + j) for nx × ny places of a tw × th template. Rows of `p` are `stride` floats apart, those of `out`
 * nx rounded up to 16; what is written beyond nx means nothing. `p` must be readable for 16 floats past its end.
 */
export function correlate(t: usize, tw: i32, th: i32, p: usize, stride: i32, out: usize, nx: i32, ny: i32): void {
  const wide = (nx + 15) & ~15;
  for (let y = 0; y < ny; y++) {
    for (let x = 0; x < wide; x += 16) {
      let a = f32x4.splat(0);
      let b = a;
      let c = a;
      let d = a;
      for (let j = 0, k = t; j < th; j++) {
        let q = at(p, (y + j) * stride + x);
        for (const end = k + ((<usize>tw) << 2); k < end; k += 4, q += 4) {
          const v = v128.load32_splat(k);
          a = f32x4.add(a, f32x4.mul(v128.load(q), v));
          b = f32x4.add(b, f32x4.mul(v128.load(q, 16), v));
          c = f32x4.add(c, f32x4.mul(v128.load(q, 32), v));
          d = f32x4.add(d, f32x4.mul(v128.load(q, 48), v));
        }
      }
      const o = at(out, y * wide + x);
      v128.store(o, a);
      v128.store(o, b, 16);
      v128.store(o, c, 32);
      v128.store(o, d, 48);
    }
  }
}

/** Smoothed by ¼ ½ ¼ along both axes, edges repeated. `scratch` holds two rows of w floats, rounded up to 4. Not in place. */
export function calm(x: usize, out: usize, w: i32, h: i32, scratch: usize): void {
  const quarter = f32x4.splat(0.25);
  const half = f32x4.splat(0.5);
  // Down the columns into a row that has its edges repeated on both sides, and along that.
  const row = at(scratch, 4);
  for (let y = 0; y < h; y++) {
    const own = at(x, y * w);
    const up = y > 0 ? at(own, -w) : own;
    const down = y < h - 1 ? at(own, w) : own;
    let i = 0;
    for (; i + 4 <= w; i += 4) {
      const sides = f32x4.mul(f32x4.add(v128.load(at(up, i)), v128.load(at(down, i))), quarter);
      v128.store(at(row, i), f32x4.add(sides, f32x4.mul(v128.load(at(own, i)), half)));
    }
    for (; i < w; i++) {
      const sides = (load<f32>(at(up, i)) + load<f32>(at(down, i))) * <f32>0.25;
      store<f32>(at(row, i), sides + load<f32>(at(own, i)) * <f32>0.5);
    }
    store<f32>(at(row, -1), load<f32>(row));
    store<f32>(at(row, w), load<f32>(at(row, w - 1)));
    const to = at(out, y * w);
    i = 0;
    for (; i + 4 <= w; i += 4) {
      const sides = f32x4.mul(f32x4.add(v128.load(at(row, i - 1)), v128.load(at(row, i + 1))), quarter);
      v128.store(at(to, i), f32x4.add(sides, f32x4.mul(v128.load(at(row, i)), half)));
    }
    for (; i < w; i++) {
      const sides = (load<f32>(at(row, i - 1)) + load<f32>(at(row, i + 1))) * <f32>0.25;
      store<f32>(at(to, i), sides + load<f32>(at(row, i)) * <f32>0.5);
    }
  }
}

/** The value between pixels, bilinear, edges repeated. */
// @ts-ignore: decorator
@inline
function sampleAt(p: usize, w: i32, h: i32, x: f64, y: f64): f64 {
  const u = min<f64>(max<f64>(x - 0.5, 0), <f64>w - 1.001);
  const v = min<f64>(max<f64>(y - 0.5, 0), <f64>h - 1.001);
  const i = <i32>u;
  const j = <i32>v;
  const a = at(p, j * w + i);
  const b = at(a, w);
  const s = u - <f64>i;
  const top = <f64>load<f32>(a) + s * (<f64>load<f32>(a, 4) - <f64>load<f32>(a));
  const bottom = <f64>load<f32>(b) + s * (<f64>load<f32>(b, 4) - <f64>load<f32>(b));
  return top + (v - <f64>j) * (bottom - top);
}

/** A block of n × n places a pixel apart, the first one's corner at x, y, less a level, in rows of `stride` floats. */
function look(p: usize, w: i32, h: i32, x: f64, y: f64, n: i32, stride: i32, level: f32, to: usize): void {
  const i = <i32>Math.floor(x);
  const j = <i32>Math.floor(y);
  if (i < 0 || j < 0 || i + stride >= w || j + n >= h) {
    for (let r = 0; r < n; r++) {
      for (let k = 0; k < n; k++) store<f32>(at(to, r * stride + k), <f32>sampleAt(p, w, h, x + <f64>k + 0.5, y + <f64>r + 0.5) - level);
    }
    return;
  }
  const u = <f32>(x - <f64>i);
  const v = <f32>(y - <f64>j);
  const a = f32x4.splat((1 - u) * (1 - v));
  const b = f32x4.splat(u * (1 - v));
  const c = f32x4.splat((1 - u) * v);
  const d = f32x4.splat(u * v);
  const l = f32x4.splat(level);
  for (let r = 0; r < n; r++) {
    const top = at(p, (j + r) * w + i);
    const bottom = at(top, w);
    for (let k = 0; k < stride; k += 4) {
      const upper = f32x4.add(f32x4.mul(v128.load(at(top, k)), a), f32x4.mul(v128.load(at(top, k + 1)), b));
      const lower = f32x4.add(f32x4.mul(v128.load(at(bottom, k)), c), f32x4.mul(v128.load(at(bottom, k + 1)), d));
      v128.store(at(to, r * stride + k), f32x4.sub(f32x4.add(upper, lower), l));
    }
  }
}

/** Σ a·b of n floats, a multiple of 4. */
function dot(a: usize, b: usize, n: i32): f64 {
  let s = f32x4.splat(0);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) s = f32x4.add(s, f32x4.mul(v128.load(a + i), v128.load(b + i)));
  return (
    <f64>f32x4.extract_lane(s, 0) + <f64>f32x4.extract_lane(s, 1) + <f64>f32x4.extract_lane(s, 2) + <f64>f32x4.extract_lane(s, 3)
  );
}

// @ts-ignore: decorator
@inline
function entry(m: usize, row: i32, column: i32): usize {
  return m + ((<usize>(4 * row + column)) << 3);
}

/** Exchanges two rows of a 4 × 4 matrix of f64. */
function exchange(m: usize, a: i32, b: i32): void {
  for (let j = 0; j < 4; j++) {
    const had = load<f64>(entry(m, a, j));
    store<f64>(entry(m, a, j), load<f64>(entry(m, b, j)));
    store<f64>(entry(m, b, j), had);
  }
}

/** The inverse of a 4 × 4 matrix of f64, which it uses up, by Gauss and Jordan with pivots; false where it is singular. */
function invert4(m: usize, to: usize): bool {
  for (let i = 0; i < 4; i++) for (let j = 0; j < 4; j++) store<f64>(entry(to, i, j), i == j ? 1 : 0);
  for (let k = 0; k < 4; k++) {
    let best = k;
    for (let i = k + 1; i < 4; i++) if (abs<f64>(load<f64>(entry(m, i, k))) > abs<f64>(load<f64>(entry(m, best, k)))) best = i;
    if (best != k) {
      exchange(m, k, best);
      exchange(to, k, best);
    }
    const pivot = load<f64>(entry(m, k, k));
    if (!(abs<f64>(pivot) > 1e-12)) return false;
    for (let j = 0; j < 4; j++) {
      store<f64>(entry(m, k, j), load<f64>(entry(m, k, j)) / pivot);
      store<f64>(entry(to, k, j), load<f64>(entry(to, k, j)) / pivot);
    }
    for (let i = 0; i < 4; i++) {
      const f = load<f64>(entry(m, i, k));
      if (i == k || f == 0) continue;
      for (let j = 0; j < 4; j++) {
        store<f64>(entry(m, i, j), load<f64>(entry(m, i, j)) - f * load<f64>(entry(m, k, j)));
        store<f64>(entry(to, i, j), load<f64>(entry(to, i, j)) - f * load<f64>(entry(to, k, j)));
      }
    }
  }
  return true;
}

const NORMAL = memory.data(128, 8);
const INVERSE = memory.data(128, 8);
const RIGHT = memory.data(32, 8);

/**
 * Follows a window of n × n pixels around px, py of one w × h picture into another of the same size, from u, v on, by
 * inverse-compositional Lucas–Kanade for a shift with gain and bias (Baker and Matthews 2004), until it moves by less than `still`
 * pixels. The window must lie a pixel inside the first picture. `scratch` holds 5 planes of n rows of n floats rounded up to 4, each.
 * Writes where it ends and the correlation there as three f64; returns 0 where it has no hold or slips away.
 */
export function followShift(
  from: usize, to: usize, w: i32, h: i32, n: i32, px: f64, py: f64, u: f64, v: f64, still: f64, steps: i32, scratch: usize, result: usize,
): i32 {
  const stride = (n + 3) & ~3;
  const size = n * stride;
  const values = scratch;
  const ones = at(values, size);
  const gx = at(ones, size);
  const gy = at(gx, size);
  const found = at(gy, size);
  const x0 = <i32>Math.floor(px - <f64>(n >> 1) + 0.5);
  const y0 = <i32>Math.floor(py - <f64>(n >> 1) + 0.5);
  let mean: f64 = 0;
  for (let r = 0; r < n; r++) for (let k = 0; k < n; k++) mean += <f64>load<f32>(at(from, (y0 + r) * w + x0 + k));
  mean /= <f64>(n * n);
  // Taken less its mean the window's values and the constant do not get into each other's way.
  const level = <f32>mean;
  for (let r = 0; r < n; r++) {
    for (let k = 0; k < stride; k++) {
      const o = r * stride + k;
      const p = at(from, (y0 + r) * w + x0 + k);
      const inside = k < n;
      store<f32>(at(values, o), inside ? load<f32>(p) - level : 0);
      store<f32>(at(ones, o), inside ? 1 : 0);
      store<f32>(at(gx, o), inside ? (load<f32>(p, 4) - load<f32>(at(p, -1))) * <f32>0.5 : 0);
      store<f32>(at(gy, o), inside ? (load<f32>(at(p, w)) - load<f32>(at(p, -w))) * <f32>0.5 : 0);
    }
  }
  for (let i = 0; i < 4; i++) {
    for (let j = i; j < 4; j++) {
      const sum = dot(at(values, i * size), at(values, j * size), size);
      store<f64>(entry(NORMAL, i, j), sum);
      store<f64>(entry(NORMAL, j, i), sum);
    }
  }
  const power = load<f64>(NORMAL);
  if (!invert4(NORMAL, INVERSE)) return 0;
  const left = <f64>x0 - px;
  const top = <f64>y0 - py;
  const su = u;
  const sv = v;
  const most = max<f64>(6, <f64>n * 0.5);
  for (let step = 0; step < steps; step++) {
    look(to, w, h, u + left, v + top, n, stride, level, found);
    for (let i = 0; i < 4; i++) store<f64>(RIGHT + ((<usize>i) << 3), dot(at(values, i * size), found, size));
    let gain: f64 = 0;
    let tx: f64 = 0;
    let ty: f64 = 0;
    for (let j = 0; j < 4; j++) {
      const right = load<f64>(RIGHT + ((<usize>j) << 3));
      gain += load<f64>(entry(INVERSE, 0, j)) * right;
      tx += load<f64>(entry(INVERSE, 2, j)) * right;
      ty += load<f64>(entry(INVERSE, 3, j)) * right;
    }
    if (!(gain > 0.05)) return 0;
    tx /= gain;
    ty /= gain;
    u -= tx;
    v -= ty;
    if (!(Math.hypot(u - su, v - sv) <= most)) return 0;
    if (tx * tx + ty * ty < still * still) break;
  }
  look(to, w, h, u + left, v + top, n, stride, level, found);
  const sum = dot(ones, found, size);
  const mixed = dot(values, found, size) - (sum * dot(ones, values, size)) / <f64>(n * n);
  // Of the rows' ends nothing is to be counted.
  let own: f64 = 0;
  for (let r = 0; r < n; r++) {
    for (let k = 0; k < n; k++) {
      const f = <f64>load<f32>(at(found, r * stride + k)) - sum / <f64>(n * n);
      own += f * f;
    }
  }
  store<f64>(result, u);
  store<f64>(result, v, 8);
  store<f64>(result, own > 0 && power > 0 ? mixed / Math.sqrt(own * power) : 0, 16);
  return 1;
}

/**
 * Values of a w × h picture at places x, y (f64) seen through a homography (nine f64, row by row), bilinear, and 1 for those that lie
 * a pixel inside the picture and before the camera; 0 and 0 for the others. Writes f64.
 */
export function lookThrough(p: usize, w: i32, h: i32, map: usize, xs: usize, ys: usize, n: i32, out: usize, seen: usize): void {
  const a = load<f64>(map);
  const b = load<f64>(map, 8);
  const c = load<f64>(map, 16);
  const d = load<f64>(map, 24);
  const e = load<f64>(map, 32);
  const f = load<f64>(map, 40);
  const g = load<f64>(map, 48);
  const q = load<f64>(map, 56);
  const r = load<f64>(map, 64);
  const right = <f64>w - 1;
  const bottom = <f64>h - 1;
  for (let i: usize = 0, end = (<usize>n) << 3; i < end; i += 8) {
    const x = load<f64>(xs + i);
    const y = load<f64>(ys + i);
    const k = g * x + q * y + r;
    const u = (a * x + b * y + c) / k;
    const v = (d * x + e * y + f) / k;
    const there = k > 1e-6 && u > 1 && v > 1 && u < right && v < bottom;
    store<f64>(out + i, there ? sampleAt(p, w, h, u, v) : 0);
    store<f64>(seen + i, there ? 1 : 0);
  }
}

/**
 * Weighted normal equations of m columns of n f64 each, one after the other: Σ w·c_a·c_b for a ≤ b into an m × m matrix, row by row,
 * and Σ w·c_a·y. `scratch` holds n f64.
 */
export function weightedProducts(columns: usize, m: i32, n: i32, weights: usize, y: usize, matrix: usize, right: usize, scratch: usize): void {
  const apart = (<usize>n) << 3;
  for (let a = 0; a < m; a++) {
    const own = columns + <usize>a * apart;
    for (let i: usize = 0; i < apart; i += 8) store<f64>(scratch + i, load<f64>(weights + i) * load<f64>(own + i));
    store<f64>(right + ((<usize>a) << 3), dot64(scratch, y, n));
    for (let b = a; b < m; b++) store<f64>(matrix + ((<usize>(a * m + b)) << 3), dot64(scratch, columns + <usize>b * apart, n));
  }
}

/** Σ a·b of n f64. */
function dot64(a: usize, b: usize, n: i32): f64 {
  let s = f64x2.splat(0);
  let t = s;
  let i = 0;
  for (; i + 4 <= n; i += 4, a += 32, b += 32) {
    s = f64x2.add(s, f64x2.mul(v128.load(a), v128.load(b)));
    t = f64x2.add(t, f64x2.mul(v128.load(a, 16), v128.load(b, 16)));
  }
  s = f64x2.add(s, t);
  let sum = f64x2.extract_lane(s, 0) + f64x2.extract_lane(s, 1);
  for (; i < n; i++, a += 8, b += 8) sum += load<f64>(a) * load<f64>(b);
  return sum;
}
