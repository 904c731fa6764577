// Triangles to coverage and depth at 16 places a pixel. A tile holds, pixel by pixel, 16 nearnesses (1/distance along the view) and 16 indices of triangles.

/** Bytes a triangle: three edges A, B, C (unit normals inward, px), the plane of nearness A, B, C, a pad, then the box x0, y0, x1, y1 of whole pixels. */
const TRIANGLE: usize = 80;

/** Places of the samples from the pixel's middle: each row and each column of sixteenths holds one (Hammersley), so that steep edges have 16 levels too. */
const XS = memory.data<f32>([
  -0.46875, -0.40625, -0.34375, -0.28125, -0.21875, -0.15625, -0.09375, -0.03125, 0.03125, 0.09375, 0.15625, 0.21875, 0.28125, 0.34375,
  0.40625, 0.46875,
]);
const YS = memory.data<f32>([
  -0.46875, 0.03125, -0.21875, 0.28125, -0.34375, 0.15625, -0.09375, 0.40625, -0.40625, 0.09375, -0.15625, 0.34375, -0.28125, 0.21875,
  -0.03125, 0.46875,
]);

/** How far each sample lies from the middle as a plane sees it: of three edges and of nearness, 16 each. */
const APART = memory.data(256, 16);

function apart(r: usize): void {
  for (let k: usize = 0; k < 4; k++) {
    const a = f32x4.splat(load<f32>(r + 12 * k));
    const b = f32x4.splat(load<f32>(r + 12 * k + 4));
    for (let g: usize = 0; g < 64; g += 16)
      v128.store(APART + 64 * k + g, f32x4.add(f32x4.mul(a, v128.load(XS + g)), f32x4.mul(b, v128.load(YS + g))));
  }
}

// @ts-ignore: decorator
@inline
function reach(a: f32, b: f32): f32 {
  return 0.5 * (Mathf.abs(a) + Mathf.abs(b));
}

/** The first and the last column of a row that a triangle may touch, as two numbers in SPAN. */
const SPAN = memory.data(8, 16);
function span(r: usize, py: f32, left: i32, right: i32): void {
  let from = <f32>left;
  let to = <f32>right;
  for (let k: usize = 0; k < 3; k++) {
    const a = load<f32>(r + 12 * k);
    const b = load<f32>(r + 12 * k + 4);
    const c = b * py + load<f32>(r + 12 * k + 8) + reach(a, b);
    if (a > 1e-6) from = Mathf.max(from, Mathf.floor(-c / a - 1));
    else if (a < -1e-6) to = Mathf.min(to, Mathf.ceil(-c / a + 1));
    else if (c < 0) to = from - 1;
  }
  store<i32>(SPAN, <i32>from);
  store<i32>(SPAN, <i32>to, 4);
}

// @ts-ignore: decorator
@inline
function inside(e0: f32, e1: f32, e2: f32, g: usize): v128 {
  const zero = f32x4.splat(0);
  const a = f32x4.ge(f32x4.add(f32x4.splat(e0), v128.load(APART + g)), zero);
  const b = f32x4.ge(f32x4.add(f32x4.splat(e1), v128.load(APART + g, 64)), zero);
  const c = f32x4.ge(f32x4.add(f32x4.splat(e2), v128.load(APART + g, 128)), zero);
  return v128.and(a, v128.and(b, c));
}

/**
 * Lays the listed triangles into a tile of w × h pixels at x0, y0: where one is nearer than what is there, its nearness and its index are kept.
 */
export function rasterNearest(triangles: usize, list: usize, count: i32, x0: i32, y0: i32, w: i32, h: i32, near: usize, ids: usize): void {
  for (let k = 0; k < count; k++) {
    const t = load<i32>(list + ((<usize>k) << 2));
    const r = triangles + <usize>t * TRIANGLE;
    const left = max(load<i32>(r, 64), x0);
    const top = max(load<i32>(r, 68), y0);
    const right = min(load<i32>(r, 72), x0 + w);
    const bottom = min(load<i32>(r, 76), y0 + h);
    if (left >= right || top >= bottom) continue;
    apart(r);
    const r0 = reach(load<f32>(r), load<f32>(r, 4));
    const r1 = reach(load<f32>(r, 12), load<f32>(r, 16));
    const r2 = reach(load<f32>(r, 24), load<f32>(r, 28));
    const id = i32x4.splat(t);
    for (let y = top; y < bottom; y++) {
      const py: f32 = <f32>y + 0.5;
      span(r, py, left, right - 1);
      const end = min(load<i32>(SPAN, 4), right - 1);
      for (let x = max(load<i32>(SPAN), left); x <= end; x++) {
        const px: f32 = <f32>x + 0.5;
        const e0 = load<f32>(r) * px + (load<f32>(r, 4) * py + load<f32>(r, 8));
        const e1 = load<f32>(r, 12) * px + (load<f32>(r, 16) * py + load<f32>(r, 20));
        const e2 = load<f32>(r, 24) * px + (load<f32>(r, 28) * py + load<f32>(r, 32));
        if (e0 < -r0 || e1 < -r1 || e2 < -r2) continue;
        const whole = e0 >= r0 && e1 >= r1 && e2 >= r2;
        const z = f32x4.splat(load<f32>(r, 36) * px + (load<f32>(r, 40) * py + load<f32>(r, 44)));
        const at = (<usize>((y - y0) * w + x - x0)) << 6;
        for (let g: usize = 0; g < 64; g += 16) {
          const own = f32x4.add(z, v128.load(APART + g, 192));
          const had = v128.load(near + at + g);
          let won = f32x4.gt(own, had);
          if (!whole) won = v128.and(won, inside(e0, e1, e2, g));
          if (!v128.any_true(won)) continue;
          v128.store(near + at + g, v128.bitselect(own, had, won));
          v128.store(ids + at + g, v128.bitselect(id, v128.load(ids + at + g), won));
        }
      }
    }
  }
}

/** Bytes of a piece: pixel of the tile, triangle, mask of samples. */
const PIECE: usize = 12;

/**
 * Lists the samples of the listed triangles that are nearer than the tile's, pixel by pixel: for what can be seen through. Returns how many pieces, −1 where `most` do
 * not hold them.
 */
export function rasterPieces(
  triangles: usize,
  list: usize,
  count: i32,
  x0: i32,
  y0: i32,
  w: i32,
  h: i32,
  near: usize,
  out: usize,
  most: i32,
): i32 {
  let made = 0;
  for (let k = 0; k < count; k++) {
    const t = load<i32>(list + ((<usize>k) << 2));
    const r = triangles + <usize>t * TRIANGLE;
    const left = max(load<i32>(r, 64), x0);
    const top = max(load<i32>(r, 68), y0);
    const right = min(load<i32>(r, 72), x0 + w);
    const bottom = min(load<i32>(r, 76), y0 + h);
    if (left >= right || top >= bottom) continue;
    apart(r);
    for (let y = top; y < bottom; y++) {
      const py: f32 = <f32>y + 0.5;
      span(r, py, left, right - 1);
      const end = min(load<i32>(SPAN, 4), right - 1);
      for (let x = max(load<i32>(SPAN), left); x <= end; x++) {
        const px: f32 = <f32>x + 0.5;
        const e0 = load<f32>(r) * px + (load<f32>(r, 4) * py + load<f32>(r, 8));
        const e1 = load<f32>(r, 12) * px + (load<f32>(r, 16) * py + load<f32>(r, 20));
        const e2 = load<f32>(r, 24) * px + (load<f32>(r, 28) * py + load<f32>(r, 32));
        const z = f32x4.splat(load<f32>(r, 36) * px + (load<f32>(r, 40) * py + load<f32>(r, 44)));
        const pixel = (y - y0) * w + x - x0;
        const at = (<usize>pixel) << 6;
        let mask = 0;
        for (let g: usize = 0; g < 64; g += 16) {
          const own = f32x4.add(z, v128.load(APART + g, 192));
          const seen = v128.and(f32x4.gt(own, v128.load(near + at + g)), inside(e0, e1, e2, g));
          mask |= i32x4.bitmask(seen) << <i32>(g >> 2);
        }
        if (mask === 0) continue;
        if (made === most) return -1;
        store<i32>(out, pixel);
        store<i32>(out, t, 4);
        store<i32>(out, mask, 8);
        out += PIECE;
        made++;
      }
    }
  }
  return made;
}

/**
 * Lists the pieces of a tile by its indices, pixel by pixel; −1 is nothing. Triangles of one surface (`surfaces`, by index) whose normals are nearly the same and which are as
 * near are one piece: it is shaded once.
 */
export function gatherPieces(ids: usize, near: usize, n: i32, surfaces: usize, normals: usize, out: usize): i32 {
  let made = 0;
  for (let i = 0; i < n; i++, ids += 64, near += 64) {
    let left = 0xffff;
    for (let s = 0; s < 16; s++) {
      if ((left & (1 << s)) === 0) continue;
      const at = <usize>s << 2;
      const t = load<i32>(ids + at);
      if (t < 0) {
        left &= ~(1 << s);
        continue;
      }
      let mask = 0;
      const surface = load<i32>(surfaces + (<usize>t << 2));
      const nt = normals + <usize>t * 12;
      const z = load<f32>(near + at);
      let last = t;
      for (let u = s; u < 16; u++) {
        if ((left & (1 << u)) === 0) continue;
        const there = load<i32>(ids + (<usize>u << 2));
        if (there !== t && there !== last) {
          if (there < 0 || load<i32>(surfaces + (<usize>there << 2)) !== surface) continue;
          const nu = normals + <usize>there * 12;
          const same = load<f32>(nt) * load<f32>(nu) + load<f32>(nt, 4) * load<f32>(nu, 4) + load<f32>(nt, 8) * load<f32>(nu, 8);
          if (same < 0.98 || Mathf.abs(load<f32>(near + (<usize>u << 2)) - z) > 0.02 * z) continue;
          last = there;
        }
        mask |= 1 << u;
      }
      left &= ~mask;
      store<i32>(out, i);
      store<i32>(out, t, 4);
      store<i32>(out, mask, 8);
      out += PIECE;
      made++;
    }
  }
  return made;
}

/** Keeps the nearest of the listed triangles at each pixel's middle: a map of depths, for shadows. */
export function rasterDepth(triangles: usize, count: i32, w: i32, h: i32, near: usize): void {
  for (let k = 0; k < count; k++) {
    const r = triangles + <usize>k * TRIANGLE;
    const left = max(load<i32>(r, 64), 0);
    const right = min(load<i32>(r, 72), w);
    const bottom = min(load<i32>(r, 76), h);
    for (let y = max(load<i32>(r, 68), 0); y < bottom; y++) {
      const py: f32 = <f32>y + 0.5;
      span(r, py, left, right - 1);
      const end = min(load<i32>(SPAN, 4), right - 1);
      for (let x = max(load<i32>(SPAN), left); x <= end; x++) {
        const px: f32 = <f32>x + 0.5;
        if (load<f32>(r) * px + (load<f32>(r, 4) * py + load<f32>(r, 8)) < 0) continue;
        if (load<f32>(r, 12) * px + (load<f32>(r, 16) * py + load<f32>(r, 20)) < 0) continue;
        if (load<f32>(r, 24) * px + (load<f32>(r, 28) * py + load<f32>(r, 32)) < 0) continue;
        const z = load<f32>(r, 36) * px + (load<f32>(r, 40) * py + load<f32>(r, 44));
        const at = near + ((<usize>(y * w + x)) << 2);
        if (z > load<f32>(at)) store<f32>(at, z);
      }
    }
  }
}

/** The places that a homography (nine doubles, row by row) takes the middles of w × h pixels from x0, y0 on to. What lies behind the horizon is no number. The planes are overrun by three floats. */
export function planePositions(m: usize, x0: f64, y0: f64, w: i32, h: i32, xs: usize, ys: usize): void {
  const m0 = f64x2.splat(load<f64>(m)), m3 = f64x2.splat(load<f64>(m, 24)), m6 = f64x2.splat(load<f64>(m, 48));
  const first = f64x2.add(f64x2.splat(x0), f64x2(0.5, 1.5)), two = f64x2.splat(2);
  for (let y = 0; y < h; y++) {
    const Y = y0 + <f64>y + 0.5;
    const a = f64x2.splat(load<f64>(m, 8) * Y + load<f64>(m, 16));
    const b = f64x2.splat(load<f64>(m, 32) * Y + load<f64>(m, 40));
    const c = f64x2.splat(load<f64>(m, 56) * Y + load<f64>(m, 64));
    const line = (<usize>(y * w)) << 2;
    let X = first;
    // The last four of a row run over into the next one, which comes after it.
    for (let x = 0; x < w; x += 4) {
      const X2 = f64x2.add(X, two);
      const k = ahead(f64x2.add(f64x2.mul(m6, X), c)), k2 = ahead(f64x2.add(f64x2.mul(m6, X2), c));
      const o = line + ((<usize>x) << 2);
      v128.store(xs + o, singles(f64x2.mul(k, f64x2.add(f64x2.mul(m0, X), a)), f64x2.mul(k2, f64x2.add(f64x2.mul(m0, X2), a))));
      v128.store(ys + o, singles(f64x2.mul(k, f64x2.add(f64x2.mul(m3, X), b)), f64x2.mul(k2, f64x2.add(f64x2.mul(m3, X2), b))));
      X = f64x2.add(X2, two);
    }
  }
}

/** 1 over what lies ahead; no number behind. */
// @ts-ignore: decorator
@inline
function ahead(z: v128): v128 {
  return v128.bitselect(f64x2.div(f64x2.splat(1), z), f64x2.splat(NaN), f64x2.gt(z, f64x2.splat(0)));
}

// @ts-ignore: decorator
@inline
function singles(a: v128, b: v128): v128 {
  return v128.shuffle<i64>(f32x4.demote_f64x2_zero(a), f32x4.demote_f64x2_zero(b), 0, 2);
}

/** Lays a plane over another one: out += under · (1 − alpha). */
export function layUnder(out: usize, alpha: usize, under: usize, n: i32): void {
  const one = f32x4.splat(1);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16)
    v128.store(out + i, f32x4.add(v128.load(out + i), f32x4.mul(v128.load(under + i), f32x4.sub(one, v128.load(alpha + i)))));
}

/** Lays rows of a picture over rows of another, both premultiplied R, G, B, A: h rows of w, their strides in floats. */
export function layOver(
  r: usize,
  g: usize,
  b: usize,
  a: usize,
  stride: i32,
  toR: usize,
  toG: usize,
  toB: usize,
  toA: usize,
  toStride: i32,
  w: i32,
  h: i32,
): void {
  const one = f32x4.splat(1);
  const whole = w & ~3;
  for (let y = 0; y < h; y++) {
    const from = <usize>(y * stride) << 2;
    const to = <usize>(y * toStride) << 2;
    for (let x: usize = 0, end = <usize>whole << 2; x < end; x += 16) {
      const alpha = v128.load(a + from + x);
      const left = f32x4.sub(one, alpha);
      v128.store(toR + to + x, f32x4.add(v128.load(r + from + x), f32x4.mul(v128.load(toR + to + x), left)));
      v128.store(toG + to + x, f32x4.add(v128.load(g + from + x), f32x4.mul(v128.load(toG + to + x), left)));
      v128.store(toB + to + x, f32x4.add(v128.load(b + from + x), f32x4.mul(v128.load(toB + to + x), left)));
      v128.store(toA + to + x, f32x4.add(alpha, f32x4.mul(v128.load(toA + to + x), left)));
    }
    for (let x = whole; x < w; x++) {
      const at = <usize>x << 2;
      const alpha = load<f32>(a + from + at);
      const left: f32 = 1 - alpha;
      store<f32>(toR + to + at, load<f32>(r + from + at) + load<f32>(toR + to + at) * left);
      store<f32>(toG + to + at, load<f32>(g + from + at) + load<f32>(toG + to + at) * left);
      store<f32>(toB + to + at, load<f32>(b + from + at) + load<f32>(toB + to + at) * left);
      store<f32>(toA + to + at, alpha + load<f32>(toA + to + at) * left);
    }
  }
}
