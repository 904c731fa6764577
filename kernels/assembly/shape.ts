// Coverage of outlines: exact areas by signed accumulation, bands of feather, lines of a width, and shapes laid together.

const ONE = f32x4.splat(1);
const NONE = f32x4.splat(0);
const TINY = f32x4.splat(1e-6);

// @ts-ignore: decorator
@inline
function add(row: usize, x: i32, v: f64): void {
  const p = row + ((<usize>x) << 2);
  store<f32>(p, load<f32>(p) + <f32>v);
}

/** One row's part of an edge, from x0 to x1 within the row's width; d is its height, signed. */
// @ts-ignore: decorator
@inline
function within(row: usize, xa: f64, xb: f64, d: f64): void {
  const x0 = min(xa, xb);
  const x1 = max(xa, xb);
  const low = Math.floor(x0);
  const i0 = <i32>low;
  const i1 = <i32>Math.ceil(x1);
  if (i1 <= i0 + 1) {
    const m = d * (0.5 * (x0 + x1) - low);
    add(row, i0, d - m);
    add(row, i0 + 1, m);
    return;
  }
  const s = 1 / (x1 - x0);
  const f0 = x0 - low;
  const f1 = x1 - <f64>i1 + 1;
  const first = 0.5 * s * (1 - f0) * (1 - f0);
  const last = 0.5 * s * f1 * f1;
  add(row, i0, d * first);
  if (i1 == i0 + 2) add(row, i0 + 1, d * (1 - first - last));
  else {
    const second = s * (1.5 - f0);
    add(row, i0 + 1, d * (second - first));
    for (let i = i0 + 2; i < i1 - 1; i++) add(row, i, d * s);
    add(row, i1 - 1, d * (1 - (second + <f64>(i1 - i0 - 3) * s) - last));
  }
  add(row, i1, d * last);
}

/**
 * Adds the edges of outlines to a plane of (w + 2)×h differences of coverage. An edge is four doubles, x0, y0, x1, y1 from the
 * region's corner; edges that go down count against those that go up. Summed along a row, differences are areas. Of the h rows
 * those from top to before bottom are worked out, to the bit as they are among all; `out` begins with the first of them.
 */
export function coverEdges(edges: usize, n: i32, out: usize, w: i32, h: i32, top: i32, bottom: i32): void {
  const wide = <f64>w;
  for (let e = 0; e < n; e++) {
    const p = edges + ((<usize>e) << 5);
    let x0 = load<f64>(p), y0 = load<f64>(p, 8), x1 = load<f64>(p, 16), y1 = load<f64>(p, 24);
    if (y0 == y1) continue;
    let sign: f64 = 1;
    if (y0 > y1) {
      sign = -1;
      let t = x0; x0 = x1; x1 = t;
      t = y0; y0 = y1; y1 = t;
    }
    if (y1 <= 0 || y0 >= <f64>h || min(x0, x1) >= wide) continue;
    const slope = (x1 - x0) / (y1 - y0);
    const from = max<f64>(y0, 0), to = min<f64>(y1, <f64>h);
    const end = min(bottom, <i32>Math.ceil(to));
    for (let y = max(top, <i32>Math.floor(from)); y < end; y++) {
      const ya = max(from, <f64>y), yb = min(to, <f64>(y + 1));
      const row = out + ((<usize>((y - top) * (w + 2))) << 2);
      let xa = x0 + (ya - y0) * slope, xb = x0 + (yb - y0) * slope;
      let d = (yb - ya) * sign;
      if (xa >= 0 && xb >= 0 && xa <= wide && xb <= wide) {
        within(row, xa, xb, d);
        continue;
      }
      // What lies left of the region covers all of the row, what lies right of it none.
      if (xa > xb) {
        const t = xa; xa = xb; xb = t;
      }
      if (xb <= 0) {
        add(row, 0, d);
        continue;
      }
      if (xa >= wide) continue;
      const whole = d / (xb - xa);
      if (xa < 0) {
        add(row, 0, whole * -xa);
        xa = 0;
      }
      if (xb > wide) xb = wide;
      d = whole * (xb - xa);
      within(row, xa, xb, d);
    }
  }
}

/** Coverage, 0..1, of w×h from the differences that coverEdges has summed. */
export function coverSum(differences: usize, out: usize, w: i32, h: i32): void {
  for (let y = 0; y < h; y++) {
    let p = differences + ((<usize>(y * (w + 2))) << 2);
    let q = out + ((<usize>(y * w)) << 2);
    let sum: f64 = 0;
    for (let x = 0; x < w; x++, p += 4, q += 4) {
      sum += <f64>load<f32>(p);
      store<f32>(q, covered(sum));
    }
  }
}

/** Coverage as it is added up along a row. Rounding leaves less than 1e-6 where there is nothing. */
// @ts-ignore: decorator
@inline
function covered(sum: f64): f32 {
  const a = Math.abs(sum);
  return a < 1e-6 ? 0 : <f32>min<f64>(1, a);
}

/** Coverage c laid with what is there: 0 adds, 1 subtracts, 2 keeps what both cover, 3 what one of them does. */
// @ts-ignore: decorator
@inline
function laid(operation: i32, a: f32, c: f32): f32 {
  if (operation == 0) return a + c - a * c;
  if (operation == 1) return a * (1 - c);
  return operation == 2 ? a * c : a + c - 2 * (a * c);
}

// @ts-ignore: decorator
@inline
function laidFour(operation: i32, a: v128, c: v128): v128 {
  const both = f32x4.mul(a, c);
  if (operation == 0) return f32x4.sub(f32x4.add(a, c), both);
  if (operation == 1) return f32x4.mul(a, f32x4.sub(ONE, c));
  return operation == 2 ? both : f32x4.sub(f32x4.add(a, c), f32x4.add(both, both));
}

/**
 * coverSum and coverLay in one, without the coverage between them: four pixels that no edge passes are covered alike and go at once.
 */
export function coverSumLay(differences: usize, operation: i32, out: usize, w: i32, h: i32, stride: i32, opacity: f32): void {
  for (let y = 0; y < h; y++) {
    let p = differences + ((<usize>(y * (w + 2))) << 2);
    let q = out + ((<usize>(y * stride)) << 2);
    let sum: f64 = 0;
    let x = 0;
    for (; x + 4 <= w; x += 4, p += 16, q += 16) {
      const d = v128.load(p);
      if (!v128.any_true(d)) {
        const c = covered(sum) * opacity;
        // What covers nothing leaves all but the cut of an intersection as it is.
        if (c != 0 || operation == 2) v128.store(q, laidFour(operation, v128.load(q), f32x4.splat(c)));
        continue;
      }
      const c0 = covered((sum += <f64>f32x4.extract_lane(d, 0)));
      const c1 = covered((sum += <f64>f32x4.extract_lane(d, 1)));
      const c2 = covered((sum += <f64>f32x4.extract_lane(d, 2)));
      const c3 = covered((sum += <f64>f32x4.extract_lane(d, 3)));
      let c = f32x4.splat(c0);
      c = f32x4.replace_lane(c, 1, c1);
      c = f32x4.replace_lane(c, 2, c2);
      c = f32x4.replace_lane(c, 3, c3);
      v128.store(q, laidFour(operation, v128.load(q), f32x4.mul(c, f32x4.splat(opacity))));
    }
    for (; x < w; x++, p += 4, q += 4) {
      sum += <f64>load<f32>(p);
      store<f32>(q, laid(operation, load<f32>(q), covered(sum) * opacity));
    }
  }
}

/**
 * How near pixels are to outlines, as shares of a reach that runs linearly along each edge: an edge is six doubles, x0, y0, x1, y1 and the
 * reach at both ends. `out` holds the greatest 1 − distance/reach of the edges whose reach has the sign asked for, 0 where none reaches.
 * Within `core` of an edge it is 1. Rows from top to before bottom are worked out; `out` begins with the first of them.
 */
export function coverNear(edges: usize, n: i32, out: usize, w: i32, top: i32, bottom: i32, sign: f64, core: f64): void {
  for (let e = 0; e < n; e++) {
    const p = edges + <usize>e * 48;
    const x0 = load<f64>(p), y0 = load<f64>(p, 8), x1 = load<f64>(p, 16), y1 = load<f64>(p, 24);
    const ra = max<f64>(0, sign * load<f64>(p, 32)), rb = max<f64>(0, sign * load<f64>(p, 40));
    const most = max(ra, rb);
    if (!(most > 0)) continue;
    const reach = most + core;
    const ix0 = <i32>max<f64>(0, Math.floor(min(x0, x1) - reach)), ix1 = <i32>min<f64>(<f64>w, Math.ceil(max(x0, x1) + reach));
    const iy0 = <i32>max<f64>(<f64>top, Math.floor(min(y0, y1) - reach)), iy1 = <i32>min<f64>(<f64>bottom, Math.ceil(max(y0, y1) + reach));
    const dx = x1 - x0, dy = y1 - y0;
    const length = dx * dx + dy * dy;
    const k = length > 0 ? 1 / length : 0;
    const px = f32x4.splat(<f32>(dx * k)), sx = f32x4.splat(<f32>dx), sy = f32x4.splat(<f32>dy);
    const start = f32x4.splat(<f32>ra), change = f32x4.splat(<f32>(rb - ra)), inner = f32x4.splat(<f32>core);
    for (let y = iy0; y < iy1; y++) {
      const v = <f64>y + 0.5 - y0;
      // Of a slanted edge only a part of its box is near in a row: between where its line is as far as the reach.
      let from = ix0, to = ix1;
      if (Math.abs(dy) > 1e-3) {
        const ta = (v - reach) / dy, tb = (v + reach) / dy;
        const t0 = max<f64>(0, min<f64>(1, min(ta, tb))), t1 = max<f64>(0, min<f64>(1, max(ta, tb)));
        const xa = x0 + t0 * dx, xb = x0 + t1 * dx;
        from = max(from, <i32>Math.floor(min(xa, xb) - reach));
        to = min(to, <i32>Math.ceil(max(xa, xb) + reach));
      }
      const row = out + ((<usize>((y - top) * w)) << 2);
      const vv = f32x4.splat(<f32>v);
      const pv = f32x4.splat(<f32>(v * dy * k));
      for (let x = from; x < to; x += 4) {
        const q = row + ((<usize>x) << 2);
        const u = f32x4.add(f32x4.splat(<f32>(<f64>x + 0.5 - x0)), f32x4(0, 1, 2, 3));
        const t = f32x4.min(ONE, f32x4.max(NONE, f32x4.add(f32x4.mul(u, px), pv)));
        const r = f32x4.add(start, f32x4.mul(t, change));
        const a = f32x4.sub(u, f32x4.mul(t, sx)), b = f32x4.sub(vv, f32x4.mul(t, sy));
        const d = f32x4.sqrt(f32x4.add(f32x4.mul(a, a), f32x4.mul(b, b)));
        const near = f32x4.min(ONE, f32x4.sub(ONE, f32x4.div(f32x4.sub(d, inner), f32x4.max(r, TINY))));
        // Beyond the row lies the next one's beginning.
        const was = v128.load(q);
        const now = f32x4.max(was, near);
        if (x + 4 <= to) v128.store(q, now);
        else {
          store<f32>(q, f32x4.extract_lane(now, 0));
          if (x + 1 < to) store<f32>(q, f32x4.extract_lane(now, 1), 4);
          if (x + 2 < to) store<f32>(q, f32x4.extract_lane(now, 2), 8);
        }
      }
    }
  }
}

// @ts-ignore: decorator
@inline
function fall(u: f32, falloff: i32): f32 {
  if (falloff == 0) return u;
  return falloff == 1 ? u * u * (3 - 2 * u) : u * u;
}

/**
 * The coverage of n pixels with its feathers: what lies within the inward one is taken down, what lies within the outward one is brought up.
 * A pointer of 0 is no such feather. falloff: 0 linear, 1 smooth, 2 squared.
 */
export function coverFeather(coverage: usize, inward: usize, outward: usize, n: i32, falloff: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 4) {
    let c = load<f32>(coverage + i);
    if (inward) c = min(c, fall(1 - load<f32>(inward + i), falloff));
    if (outward) c = max(c, fall(load<f32>(outward + i), falloff));
    store<f32>(coverage + i, c);
  }
}

/** Lays coverage of w×h, times opacity, with what stands in a plane of a longer row, as `laid` has it. */
export function coverLay(operation: i32, coverage: usize, out: usize, w: i32, h: i32, stride: i32, opacity: f32): void {
  const k = f32x4.splat(opacity);
  for (let y = 0; y < h; y++) {
    const p = coverage + ((<usize>(y * w)) << 2);
    const q = out + ((<usize>(y * stride)) << 2);
    let x = 0;
    for (; x + 4 <= w; x += 4) {
      const i = (<usize>x) << 2;
      v128.store(q + i, laidFour(operation, v128.load(q + i), f32x4.mul(v128.load(p + i), k)));
    }
    for (; x < w; x++) {
      const i = (<usize>x) << 2;
      store<f32>(q + i, laid(operation, load<f32>(q + i), load<f32>(p + i) * opacity));
    }
  }
}
