// Pictures seen through a map of positions: four planes at once, a pixel of each in one vector.

/** Four planes of n floats as n vectors; a pointer of 0 is a plane of zeros. Rows may be overrun by three vectors. */
export function packFour(a: usize, b: usize, c: usize, d: usize, out: usize, n: i32): void {
  const none = f32x4.splat(0);
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const va = v128.load(a + o);
    const vb = b ? v128.load(b + o) : none;
    const vc = c ? v128.load(c + o) : none;
    const vd = d ? v128.load(d + o) : none;
    const ab0 = v128.shuffle<i32>(va, vb, 0, 4, 1, 5), ab1 = v128.shuffle<i32>(va, vb, 2, 6, 3, 7);
    const cd0 = v128.shuffle<i32>(vc, vd, 0, 4, 1, 5), cd1 = v128.shuffle<i32>(vc, vd, 2, 6, 3, 7);
    const q = out + (o << 2);
    v128.store(q, v128.shuffle<i64>(ab0, cd0, 0, 2));
    v128.store(q, v128.shuffle<i64>(ab0, cd0, 1, 3), 16);
    v128.store(q, v128.shuffle<i64>(ab1, cd1, 0, 2), 32);
    v128.store(q, v128.shuffle<i64>(ab1, cd1, 1, 3), 48);
  }
}

/**
 * A packed picture of w×h vectors made half as large, each vector the mean of four; beyond its edges is nothing. `out` holds
 * (w + 1) / 2 × (h + 1) / 2 of them, rounded down.
 */
export function halvePacked(packed: usize, w: i32, h: i32, out: usize): void {
  const quarter = f32x4.splat(0.25);
  const line = (<usize>w) << 4;
  let q = out;
  for (let y = 0; y < h; y += 2) {
    let p = packed + (<usize>y) * line;
    const below = y + 1 < h;
    for (let x = 0; x < w; x += 2, p += 32, q += 16) {
      let sum = v128.load(p);
      if (x + 1 < w) sum = f32x4.add(sum, v128.load(p, 16));
      if (below) {
        sum = f32x4.add(sum, v128.load(p + line));
        if (x + 1 < w) sum = f32x4.add(sum, v128.load(p + line, 16));
      }
      v128.store(q, f32x4.mul(sum, quarter));
    }
  }
}

// The picture that is looked at: its vectors, and their number in a row and a column.
let picture: usize = 0;
let wide: i32 = 0;
let high: i32 = 0;

// @ts-ignore: decorator
@inline
function at(x: i32, y: i32): v128 {
  return x < 0 || y < 0 || x >= wide || y >= high ? f32x4.splat(0) : v128.load(picture + ((<usize>(y * wide + x)) << 4));
}

/** Between four pixels; u, v from the corner, centres whole. Nothing beyond the edges. */
function linear(u: f64, v: f64): v128 {
  const fu = Math.floor(u), fv = Math.floor(v);
  if (fu < -1 || fv < -1 || fu >= <f64>wide || fv >= <f64>high) return f32x4.splat(0);
  const i = <i32>fu, j = <i32>fv;
  const s = f32x4.splat(<f32>(u - fu)), t = f32x4.splat(<f32>(v - fv));
  let a: v128, b: v128, c: v128, d: v128;
  if (i >= 0 && j >= 0 && i + 1 < wide && j + 1 < high) {
    const p = picture + ((<usize>(j * wide + i)) << 4);
    const q = p + ((<usize>wide) << 4);
    a = v128.load(p);
    b = v128.load(p, 16);
    c = v128.load(q);
    d = v128.load(q, 16);
  } else {
    a = at(i, j);
    b = at(i + 1, j);
    c = at(i, j + 1);
    d = at(i + 1, j + 1);
  }
  const top = f32x4.add(a, f32x4.mul(s, f32x4.sub(b, a)));
  const bottom = f32x4.add(c, f32x4.mul(s, f32x4.sub(d, c)));
  return f32x4.add(top, f32x4.mul(t, f32x4.sub(bottom, top)));
}

/** Between the pixel at p, the next one, and the two below; s and t in all lanes. */
// @ts-ignore: decorator
@inline
function linearAt(p: usize, line: usize, s: v128, t: v128): v128 {
  const a = v128.load(p), c = v128.load(p + line);
  const top = f32x4.add(a, f32x4.mul(s, f32x4.sub(v128.load(p, 16), a)));
  const bottom = f32x4.add(c, f32x4.mul(s, f32x4.sub(v128.load(p + line, 16), c)));
  return f32x4.add(top, f32x4.mul(t, f32x4.sub(bottom, top)));
}

/** Weights of four samples at t in 0..1 past the second: a cubic each, by four vectors of coefficients, the constants first. */
// @ts-ignore: decorator
@inline
function cubicWeights(k: usize, t: f32): v128 {
  const x = f32x4.splat(t);
  return f32x4.add(
    v128.load(k),
    f32x4.mul(x, f32x4.add(v128.load(k, 16), f32x4.mul(x, f32x4.add(v128.load(k, 32), f32x4.mul(x, v128.load(k, 48)))))),
  );
}

// @ts-ignore: decorator
@inline
function row4(p: usize, x0: v128, x1: v128, x2: v128, x3: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(v128.load(p), x0), f32x4.mul(v128.load(p, 16), x1)),
    f32x4.add(f32x4.mul(v128.load(p, 32), x2), f32x4.mul(v128.load(p, 48), x3)),
  );
}

/** Sixteen pixels from p on, all there. */
// @ts-ignore: decorator
@inline
function cubicAt(p: usize, line: usize, fx: f32, fy: f32, k: usize): v128 {
  const wx = cubicWeights(k, fx), wy = cubicWeights(k, fy);
  const x0 = v128.shuffle<i32>(wx, wx, 0, 0, 0, 0), x1 = v128.shuffle<i32>(wx, wx, 1, 1, 1, 1);
  const x2 = v128.shuffle<i32>(wx, wx, 2, 2, 2, 2), x3 = v128.shuffle<i32>(wx, wx, 3, 3, 3, 3);
  const y0 = v128.shuffle<i32>(wy, wy, 0, 0, 0, 0), y1 = v128.shuffle<i32>(wy, wy, 1, 1, 1, 1);
  const y2 = v128.shuffle<i32>(wy, wy, 2, 2, 2, 2), y3 = v128.shuffle<i32>(wy, wy, 3, 3, 3, 3);
  return f32x4.add(
    f32x4.add(f32x4.mul(row4(p, x0, x1, x2, x3), y0), f32x4.mul(row4(p + line, x0, x1, x2, x3), y1)),
    f32x4.add(f32x4.mul(row4(p + 2 * line, x0, x1, x2, x3), y2), f32x4.mul(row4(p + 3 * line, x0, x1, x2, x3), y3)),
  );
}

function cubic(u: f64, v: f64, k: usize): v128 {
  const fu = Math.floor(u), fv = Math.floor(v);
  if (fu < -2 || fv < -2 || fu > <f64>wide || fv > <f64>high) return f32x4.splat(0);
  const i = <i32>fu - 1, j = <i32>fv - 1;
  if (i >= 0 && j >= 0 && i + 4 <= wide && j + 4 <= high) {
    return cubicAt(picture + ((<usize>(j * wide + i)) << 4), (<usize>wide) << 4, <f32>(u - fu), <f32>(v - fv), k);
  }
  const wx = cubicWeights(k, <f32>(u - fu)), wy = cubicWeights(k, <f32>(v - fv));
  const x0 = f32x4.splat(f32x4.extract_lane(wx, 0)), x1 = f32x4.splat(f32x4.extract_lane(wx, 1));
  const x2 = f32x4.splat(f32x4.extract_lane(wx, 2)), x3 = f32x4.splat(f32x4.extract_lane(wx, 3));
  const y0 = f32x4.splat(f32x4.extract_lane(wy, 0)), y1 = f32x4.splat(f32x4.extract_lane(wy, 1));
  const y2 = f32x4.splat(f32x4.extract_lane(wy, 2)), y3 = f32x4.splat(f32x4.extract_lane(wy, 3));
  let sum = f32x4.splat(0);
  for (let r = 0; r < 4; r++) {
    const y = r == 0 ? y0 : r == 1 ? y1 : r == 2 ? y2 : y3;
    const line = f32x4.add(
      f32x4.add(f32x4.mul(at(i, j + r), x0), f32x4.mul(at(i + 1, j + r), x1)),
      f32x4.add(f32x4.mul(at(i + 2, j + r), x2), f32x4.mul(at(i + 3, j + r), x3)),
    );
    sum = f32x4.add(sum, f32x4.mul(line, y));
  }
  return sum;
}

/** Six samples each way; `table` holds their weights at 257 places between two pixels, eight floats each, mixed between places. */
function six(u: f64, v: f64, table: usize, scratch: usize): v128 {
  const fu = Math.floor(u), fv = Math.floor(v);
  if (fu < -3 || fv < -3 || fu > <f64>(wide + 1) || fv > <f64>(high + 1)) return f32x4.splat(0);
  const i = <i32>fu - 2, j = <i32>fv - 2;
  if (i >= 0 && j >= 0 && i + 6 <= wide && j + 6 <= high) {
    return sixAt(picture + ((<usize>(j * wide + i)) << 4), (<usize>wide) << 4, <f32>(u - fu), <f32>(v - fv), table, scratch);
  }
  weighSix(<f32>(u - fu), <f32>(v - fv), table, scratch);
  const x0 = v128.load32_splat(scratch), x1 = v128.load32_splat(scratch, 4), x2 = v128.load32_splat(scratch, 8);
  const x3 = v128.load32_splat(scratch, 12), x4 = v128.load32_splat(scratch, 16), x5 = v128.load32_splat(scratch, 20);
  let sum = f32x4.splat(0);
  for (let r = 0; r < 6; r++) {
    const y = j + r;
    const low = f32x4.add(f32x4.add(f32x4.mul(at(i, y), x0), f32x4.mul(at(i + 1, y), x1)), f32x4.add(f32x4.mul(at(i + 2, y), x2), f32x4.mul(at(i + 3, y), x3)));
    const line = f32x4.add(low, f32x4.add(f32x4.mul(at(i + 4, y), x4), f32x4.mul(at(i + 5, y), x5)));
    sum = f32x4.add(sum, f32x4.mul(line, v128.load32_splat(scratch + 32 + ((<usize>r) << 2))));
  }
  return sum;
}

/** Puts the weights of six columns and six rows into the scratch. */
// @ts-ignore: decorator
@inline
function weighSix(fx: f32, fy: f32, table: usize, scratch: usize): void {
  const a = fx * 256, b = fy * 256;
  const ia = <i32>a, ib = <i32>b;
  const ta = f32x4.splat(a - <f32>ia), tb = f32x4.splat(b - <f32>ib);
  const pa = table + ((<usize>ia) << 5), pb = table + ((<usize>ib) << 5);
  v128.store(scratch, mixed(pa, ta));
  v128.store(scratch, mixed(pa + 16, ta), 16);
  v128.store(scratch, mixed(pb, tb), 32);
  v128.store(scratch, mixed(pb + 16, tb), 48);
}

/** Thirty-six pixels from p on, all there. */
// @ts-ignore: decorator
@inline
function sixAt(from: usize, stride: usize, fx: f32, fy: f32, table: usize, scratch: usize): v128 {
  weighSix(fx, fy, table, scratch);
  const x0 = v128.load32_splat(scratch), x1 = v128.load32_splat(scratch, 4), x2 = v128.load32_splat(scratch, 8);
  const x3 = v128.load32_splat(scratch, 12), x4 = v128.load32_splat(scratch, 16), x5 = v128.load32_splat(scratch, 20);
  let sum = f32x4.splat(0);
  let p = from;
  for (let r: usize = 0; r < 6; r++, p += stride) {
    const line = f32x4.add(row4(p, x0, x1, x2, x3), f32x4.add(f32x4.mul(v128.load(p, 64), x4), f32x4.mul(v128.load(p, 80), x5)));
    sum = f32x4.add(sum, f32x4.mul(line, v128.load32_splat(scratch + 32 + (r << 2))));
  }
  return sum;
}

// @ts-ignore: decorator
@inline
function mixed(place: usize, t: v128): v128 {
  const a = v128.load(place);
  return f32x4.add(a, f32x4.mul(f32x4.sub(v128.load(place, 32), a), t));
}

/** Columns of a block where rows of what is made run across rows of the picture; and by how many rows of it one may rise over its whole width for the block to be as wide. */
const BLOCK: i32 = 64;
const LEVEL: f64 = 16;

/**
 * Looks at packed planes (sw by sh vectors, their corner at sx, sy) through a map from positions of the w×h outs (corner ox, oy) to theirs: by the
 * homography m, nine doubles, row by row; or, where xs and ys are not 0, by planes that hold each pixel's position, ms floats a row, one column and one row more than the outs. taps: 1 is the nearest pixel, 2 is bilinear, 4 a cubic whose coefficients are at `weights`, 6 a table there.
 * Where the map makes the picture smaller, up to `most` by `most` bilinear samples a pixel are taken instead. What is seen goes to the four outs, `stride` floats a row:
 * `outs` is a list of pointers, 0 for none, and then of what each plane is multiplied by. It is put there (lays 0), added (1), or laid over what is there by the fourth plane, its alpha (2).
 * A position that is no number, and what lies behind the horizon, is nothing.
 */
export function sampleFour(
  packed: usize, sx: f64, sy: f64, sw: i32, sh: i32, outs: usize, stride: i32, ox: f64, oy: f64, w: i32, h: i32,
  m: usize, xs: usize, ys: usize, ms: i32, taps: i32, weights: usize, scratch: usize, most: i32, lays: i32,
): void {
  picture = packed;
  wide = sw;
  high = sh;
  const m0 = load<f64>(m), m1 = load<f64>(m, 8), m2 = load<f64>(m, 16);
  const m3 = load<f64>(m, 24), m4 = load<f64>(m, 32), m5 = load<f64>(m, 40);
  const affine = load<f64>(m, 48) == 0 && load<f64>(m, 56) == 0 && load<f64>(m, 64) == 1;
  // Of an affine map the stretch is the same everywhere: most need one sample a pixel, by steps along the row.
  const plain = !xs && affine && (taps == 1 || samplesFor(m0, m3, m1, m4, most) == 1);
  const hx = sx + 0.5, hy = sy + 0.5;
  const out0 = <usize>load<u32>(outs), out1 = <usize>load<u32>(outs, 4), out2 = <usize>load<u32>(outs, 8), out3 = <usize>load<u32>(outs, 12);
  const k0 = v128.load32_splat(outs, 16), k1 = v128.load32_splat(outs, 20), k2 = v128.load32_splat(outs, 24), k3 = v128.load32_splat(outs, 28);
  const line = (<usize>sw) << 4;
  const half = taps >> 1;
  // The nearest pixel is the one whose square the place lies in.
  const nearest = taps == 1 ? 0.5 : 0;
  const dx01 = f64x2(0, m0), dx23 = f64x2(2 * m0, 3 * m0), dy01 = f64x2(0, m3), dy23 = f64x2(2 * m3, 3 * m3);
  const first = i32x4.splat(max(0, half - 1)), lastX = i32x4.splat(sw - 1 - half), lastY = i32x4.splat(sh - 1 - half);
  const back = <usize>max(0, half - 1) * (line + 16);
  // Of positions in planes: where all samples lie inside, and the corner of the picture.
  const margin = taps == 1 ? -0.5 : <f64>(half - 1);
  const lowX = f32x4.splat(<f32>(hx + margin)), lowY = f32x4.splat(<f32>(hy + margin));
  const endX = f32x4.splat(<f32>hx + <f32>(sw - 1) - <f32>margin), endY = f32x4.splat(<f32>hy + <f32>(sh - 1) - <f32>margin);
  const cornerX = f32x4.splat(<f32>(hx - nearest)), cornerY = f32x4.splat(<f32>(hy - nearest));
  const anyStretch = most <= 1 || taps == 1;
  const below = <usize>ms << 2;
  // In blocks, so that what a turned row reads is still in the cache for the next one.
  const rise = xs ? <f64>load<f32>(ys + ((<usize>w) << 2)) - <f64>load<f32>(ys) : affine ? m3 * <f64>w : Infinity;
  const block = abs(rise) < LEVEL ? w : BLOCK;
  for (let left = 0; left < w; left += block) {
    const right = min(w, left + block);
    for (let y = 0; y < h; y++) {
      const Y = oy + <f64>y + 0.5;
      const at0 = (<usize>(y * stride)) << 2;
      for (let x = left; x < right; x += 4) {
        const o = at0 + ((<usize>x) << 2);
        const mo = (<usize>(y * ms + x)) << 2;
        const end = min(4, w - x);
        const X = ox + <f64>x + 0.5;
        const u = m0 * X + m1 * Y + m2 - hx, v = m3 * X + m4 * Y + m5 - hy;
        // Four places whose samples all lie inside and are no wider apart than pixels are worked out together: their pixels, and how far past these they lie.
        let i = first, j = first, fx = f32x4.splat(0), fy = f32x4.splat(0);
        let together = false;
        if (plain) {
          const U = f64x2.splat(u + nearest), V = f64x2.splat(v + nearest);
          const u01 = f64x2.add(U, dx01), u23 = f64x2.add(U, dx23), v01 = f64x2.add(V, dy01), v23 = f64x2.add(V, dy23);
          const fu01 = f64x2.floor(u01), fu23 = f64x2.floor(u23), fv01 = f64x2.floor(v01), fv23 = f64x2.floor(v23);
          i = v128.shuffle<i64>(i32x4.trunc_sat_f64x2_s_zero(fu01), i32x4.trunc_sat_f64x2_s_zero(fu23), 0, 2);
          j = v128.shuffle<i64>(i32x4.trunc_sat_f64x2_s_zero(fv01), i32x4.trunc_sat_f64x2_s_zero(fv23), 0, 2);
          const inside = v128.and(
            v128.and(i32x4.ge_s(i, first), i32x4.le_s(i, lastX)),
            v128.and(i32x4.ge_s(j, first), i32x4.le_s(j, lastY)),
          );
          together = i32x4.bitmask(inside) == 15;
          fx = v128.shuffle<i64>(f32x4.demote_f64x2_zero(f64x2.sub(u01, fu01)), f32x4.demote_f64x2_zero(f64x2.sub(u23, fu23)), 0, 2);
          fy = v128.shuffle<i64>(f32x4.demote_f64x2_zero(f64x2.sub(v01, fv01)), f32x4.demote_f64x2_zero(f64x2.sub(v23, fv23)), 0, 2);
        } else if (xs && end == 4) {
          const px = v128.load(xs + mo), py = v128.load(ys + mo);
          // A place that is no number is not inside.
          const inside = v128.and(v128.and(f32x4.ge(px, lowX), f32x4.lt(px, endX)), v128.and(f32x4.ge(py, lowY), f32x4.lt(py, endY)));
          together = i32x4.bitmask(inside) == 15 && (anyStretch || near(px, py, xs + mo, ys + mo, below));
          const u4 = f32x4.sub(px, cornerX), v4 = f32x4.sub(py, cornerY);
          i = i32x4.trunc_sat_f32x4_s(u4);
          j = i32x4.trunc_sat_f32x4_s(v4);
          fx = f32x4.sub(u4, f32x4.convert_i32x4_s(i));
          fy = f32x4.sub(v4, f32x4.convert_i32x4_s(j));
        }
        let a: v128, b: v128, c: v128, d: v128;
        if (together) {
          const at = i32x4.shl(i32x4.add(i32x4.mul(j, i32x4.splat(sw)), i), 4);
          const p0 = packed - back + <usize>i32x4.extract_lane(at, 0), p1 = packed - back + <usize>i32x4.extract_lane(at, 1);
          const p2 = packed - back + <usize>i32x4.extract_lane(at, 2), p3 = packed - back + <usize>i32x4.extract_lane(at, 3);
          if (taps == 1) {
            a = v128.load(p0);
            b = v128.load(p1);
            c = v128.load(p2);
            d = v128.load(p3);
          } else if (taps == 2) {
            a = linearAt(p0, line, v128.shuffle<i32>(fx, fx, 0, 0, 0, 0), v128.shuffle<i32>(fy, fy, 0, 0, 0, 0));
            b = linearAt(p1, line, v128.shuffle<i32>(fx, fx, 1, 1, 1, 1), v128.shuffle<i32>(fy, fy, 1, 1, 1, 1));
            c = linearAt(p2, line, v128.shuffle<i32>(fx, fx, 2, 2, 2, 2), v128.shuffle<i32>(fy, fy, 2, 2, 2, 2));
            d = linearAt(p3, line, v128.shuffle<i32>(fx, fx, 3, 3, 3, 3), v128.shuffle<i32>(fy, fy, 3, 3, 3, 3));
          } else if (taps == 4) {
            a = cubicAt(p0, line, f32x4.extract_lane(fx, 0), f32x4.extract_lane(fy, 0), weights);
            b = cubicAt(p1, line, f32x4.extract_lane(fx, 1), f32x4.extract_lane(fy, 1), weights);
            c = cubicAt(p2, line, f32x4.extract_lane(fx, 2), f32x4.extract_lane(fy, 2), weights);
            d = cubicAt(p3, line, f32x4.extract_lane(fx, 3), f32x4.extract_lane(fy, 3), weights);
          } else {
            a = sixAt(p0, line, f32x4.extract_lane(fx, 0), f32x4.extract_lane(fy, 0), weights, scratch);
            b = sixAt(p1, line, f32x4.extract_lane(fx, 1), f32x4.extract_lane(fy, 1), weights, scratch);
            c = sixAt(p2, line, f32x4.extract_lane(fx, 2), f32x4.extract_lane(fy, 2), weights, scratch);
            d = sixAt(p3, line, f32x4.extract_lane(fx, 3), f32x4.extract_lane(fy, 3), weights, scratch);
          }
        } else {
          for (let k = 0; k < end; k++) {
            const seen = plain
              ? sampled(u + <f64>k * m0, v + <f64>k * m3, taps, weights, scratch)
              : xs
                ? byMap(xs + mo + (<usize>k << 2), ys + mo + (<usize>k << 2), <usize>ms << 2, hx, hy, taps, weights, scratch, most)
                : byMatrix(m, X + <f64>k, Y, hx, hy, taps, weights, scratch, most);
            v128.store(scratch + 64 + ((<usize>k) << 4), seen);
          }
          a = v128.load(scratch, 64);
          b = v128.load(scratch, 80);
          c = v128.load(scratch, 96);
          d = v128.load(scratch, 112);
        }
        const ab0 = v128.shuffle<i32>(a, b, 0, 4, 1, 5), ab1 = v128.shuffle<i32>(a, b, 2, 6, 3, 7);
        const cd0 = v128.shuffle<i32>(c, d, 0, 4, 1, 5), cd1 = v128.shuffle<i32>(c, d, 2, 6, 3, 7);
        const alpha = f32x4.mul(v128.shuffle<i64>(ab1, cd1, 1, 3), k3);
        const left = lays == 2 ? f32x4.sub(f32x4.splat(1), alpha) : f32x4.splat(1);
        put(out0, o, end, f32x4.mul(v128.shuffle<i64>(ab0, cd0, 0, 2), k0), left, lays);
        put(out1, o, end, f32x4.mul(v128.shuffle<i64>(ab0, cd0, 1, 3), k1), left, lays);
        put(out2, o, end, f32x4.mul(v128.shuffle<i64>(ab1, cd1, 0, 2), k2), left, lays);
        put(out3, o, end, alpha, left, lays);
      }
    }
  }
}

/** Whether the places of the next pixels, right and below, are near enough that one sample a pixel does: up to one and a half apart; see samplesFor. */
// @ts-ignore: decorator
@inline
function near(px: v128, py: v128, xs: usize, ys: usize, below: usize): bool {
  const dx = f32x4.sub(v128.load(xs + below), px), dy = f32x4.sub(v128.load(ys + below), py);
  const ex = f32x4.sub(v128.load(xs, 4), px), ey = f32x4.sub(v128.load(ys, 4), py);
  const far = f32x4.max(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)), f32x4.add(f32x4.mul(ex, ex), f32x4.mul(ey, ey)));
  return i32x4.bitmask(f32x4.lt(far, f32x4.splat(2.25))) == 15;
}

// @ts-ignore: decorator
@inline
function sampled(u: f64, v: f64, taps: i32, weights: usize, scratch: usize): v128 {
  return taps == 1 ? at(<i32>Math.floor(u + 0.5), <i32>Math.floor(v + 0.5)) : taps == 2 ? linear(u, v) : taps == 4 ? cubic(u, v, weights) : six(u, v, weights, scratch);
}

function byMap(xs: usize, ys: usize, below: usize, hx: f64, hy: f64, taps: i32, weights: usize, scratch: usize, most: i32): v128 {
  const u = <f64>load<f32>(xs), v = <f64>load<f32>(ys);
  if (!(u - u == 0 && v - v == 0)) return f32x4.splat(0);
  if (most > 1 && taps > 1) {
    // The stretch from the places of the next pixels; where those are nowhere one sample has to do.
    const ax = <f64>load<f32>(xs, 4) - u, ay = <f64>load<f32>(ys, 4) - v;
    const bx = <f64>load<f32>(xs + below) - u, by = <f64>load<f32>(ys + below) - v;
    const n = ax - ax == 0 && ay - ay == 0 && bx - bx == 0 && by - by == 0 ? samplesFor(ax, ay, bx, by, most) : 1;
    if (n > 1) {
      const part = f32x4.splat(<f32>(1.0 / <f64>(n * n)));
      let value = f32x4.splat(0);
      for (let j = 0; j < n; j++) {
        for (let i = 0; i < n; i++) {
          const p = (<f64>i + 0.5) / <f64>n - 0.5, q = (<f64>j + 0.5) / <f64>n - 0.5;
          value = f32x4.add(value, f32x4.mul(part, linear(u + p * ax + q * bx - hx, v + p * ay + q * by - hy)));
        }
      }
      return value;
    }
  }
  return sampled(u - hx, v - hy, taps, weights, scratch);
}

function byMatrix(m: usize, X: f64, Y: f64, hx: f64, hy: f64, taps: i32, weights: usize, scratch: usize, most: i32): v128 {
  const m0 = load<f64>(m), m1 = load<f64>(m, 8), m2 = load<f64>(m, 16);
  const m3 = load<f64>(m, 24), m4 = load<f64>(m, 32), m5 = load<f64>(m, 40);
  const m6 = load<f64>(m, 48), m7 = load<f64>(m, 56), m8 = load<f64>(m, 64);
  const d = m6 * X + m7 * Y + m8;
  let value = f32x4.splat(0);
  if (d <= 1e-9) return value;
  const u = (m0 * X + m1 * Y + m2) / d, v = (m3 * X + m4 * Y + m5) / d;
  const n = most > 1 ? samplesFor((m0 - u * m6) / d, (m3 - v * m6) / d, (m1 - u * m7) / d, (m4 - v * m7) / d, most) : 1;
  if (n == 1) return sampled(u - hx, v - hy, taps, weights, scratch);
  const part = f32x4.splat(<f32>(1.0 / <f64>(n * n)));
  for (let j = 0; j < n; j++) {
    for (let i = 0; i < n; i++) {
      const qx = X - 0.5 + (<f64>i + 0.5) / <f64>n, qy = Y - 0.5 + (<f64>j + 0.5) / <f64>n;
      const e = m6 * qx + m7 * qy + m8;
      if (e > 1e-9) value = f32x4.add(value, f32x4.mul(part, linear((m0 * qx + m1 * qy + m2) / e - hx, (m3 * qx + m4 * qy + m5) / e - hy)));
    }
  }
  return value;
}

// @ts-ignore: decorator
@inline
function samplesFor(ax: f64, ay: f64, bx: f64, by: f64, most: i32): i32 {
  const stretch = Math.sqrt(Math.max(ax * ax + ay * ay, bx * bx + by * by));
  return <i32>Math.min(<f64>most, Math.max(1, Math.floor(stretch + 0.5)));
}

// @ts-ignore: decorator
@inline
function put(out: usize, o: usize, count: i32, value: v128, left: v128, lays: i32): void {
  if (!out) return;
  const p = out + o;
  if (count == 4) {
    v128.store(p, lays ? f32x4.add(value, f32x4.mul(v128.load(p), left)) : value);
    return;
  }
  store<f32>(p, f32x4.extract_lane(value, 0) + (lays ? load<f32>(p) * f32x4.extract_lane(left, 0) : 0));
  if (count > 1) store<f32>(p, f32x4.extract_lane(value, 1) + (lays ? load<f32>(p, 4) * f32x4.extract_lane(left, 1) : 0), 4);
  if (count > 2) store<f32>(p, f32x4.extract_lane(value, 2) + (lays ? load<f32>(p, 8) * f32x4.extract_lane(left, 2) : 0), 8);
}
