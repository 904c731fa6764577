import { convolveLine } from './convolve';

// Resampling with separable kernels: along an axis, and by any affine map that makes the picture smaller.

/**
 * Along rows: out(i, y) = Σ_t weights[i·taps + t]·in(starts[i] + t, y). taps is a multiple of four; every start + taps must lie
 * inside the row. `starts` are w integers.
 */
export function resampleRows(
  x: usize, out: usize, w: i32, h: i32, xStride: i32, outStride: i32, starts: usize, weights: usize, taps: i32,
): void {
  const size = (<usize>taps) << 2;
  for (let y = 0; y < h; y++) {
    const row = x + ((<usize>(y * xStride)) << 2);
    let q = out + ((<usize>(y * outStride)) << 2);
    let k = weights;
    let i = 0;
    for (; i + 4 <= w; i += 4, k += 4 * size, q += 16) {
      const s = starts + ((<usize>i) << 2);
      const a = dot(row + ((<usize>load<i32>(s)) << 2), k, size);
      const b = dot(row + ((<usize>load<i32>(s, 4)) << 2), k + size, size);
      const c = dot(row + ((<usize>load<i32>(s, 8)) << 2), k + 2 * size, size);
      const d = dot(row + ((<usize>load<i32>(s, 12)) << 2), k + 3 * size, size);
      // Transposed, so that each lane's four parts are added.
      const ab = f32x4.add(v128.shuffle<i32>(a, b, 0, 4, 1, 5), v128.shuffle<i32>(a, b, 2, 6, 3, 7));
      const cd = f32x4.add(v128.shuffle<i32>(c, d, 0, 4, 1, 5), v128.shuffle<i32>(c, d, 2, 6, 3, 7));
      v128.store(q, f32x4.add(v128.shuffle<i64>(ab, cd, 0, 2), v128.shuffle<i64>(ab, cd, 1, 3)));
    }
    for (; i < w; i++, k += size, q += 4) {
      store<f32>(q, sumOf(dot(row + ((<usize>load<i32>(starts + ((<usize>i) << 2))) << 2), k, size)));
    }
  }
}

// @ts-ignore: decorator
@inline
function dot(p: usize, k: usize, size: usize): v128 {
  let sum = f32x4.mul(v128.load(p), v128.load(k));
  for (let t: usize = 16; t < size; t += 16) sum = f32x4.add(sum, f32x4.mul(v128.load(p + t), v128.load(k + t)));
  return sum;
}

// @ts-ignore: decorator
@inline
function sumOf(v: v128): f32 {
  // In the order in which resampleRows adds four at once, so that both give the same bits.
  const low = f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 2);
  return low + (f32x4.extract_lane(v, 1) + f32x4.extract_lane(v, 3));
}

/** Along columns: out(x, j) = Σ_t weights[j·taps + t]·in(x, starts[j] + t). A row may be overrun by three floats. */
export function resampleColumns(
  x: usize, out: usize, w: i32, h: i32, xStride: i32, outStride: i32, starts: usize, weights: usize, taps: i32,
): void {
  const step = (<usize>xStride) << 2;
  for (let j = 0; j < h; j++) {
    const src = x + step * <usize>load<i32>(starts + ((<usize>j) << 2));
    const k = weights + ((<usize>(j * taps)) << 2);
    convolveLine(src, out + ((<usize>(j * outStride)) << 2), w, step, k, taps);
  }
}

const TABLE: i32 = 512; // samples of the widened kernel per unit

/**
 * For each output pixel (x, y) of the w×h region with origin (ox, oy) the source position is (m0·X + m1·Y + m2, m3·X + m4·Y + m5) with X, Y at pixel
 * centres; for maps that make the picture smaller, and for the nearest pixel. The source is sw×sh with origin (sx, sy), and zero outside. planes and outs are lists of `count` pointers. `table` holds the kernel on
 * [0, support] at 512 samples a unit; scaleX and scaleY (≥ 1) widen it. planes: pointers to source planes; outs: pointers to output planes; weights: scratch for 2·256 floats.
 * support = 0 takes the nearest pixel.
 */
export function resampleWide(
  planes: usize, outs: usize, count: i32, sx: i32, sy: i32, sw: i32, sh: i32,
  ox: i32, oy: i32, w: i32, h: i32,
  m0: f64, m1: f64, m2: f64, m3: f64, m4: f64, m5: f64,
  table: usize, support: f64, scaleX: f64, scaleY: f64, weights: usize,
): void {
  const rx = support * scaleX;
  const ry = support * scaleY;
  const wx = weights;
  const wy = weights + 1024;
  for (let y = 0; y < h; y++) {
    const Y = <f64>(oy + y) + 0.5;
    for (let x = 0; x < w; x++) {
      const X = <f64>(ox + x) + 0.5;
      const u = m0 * X + m1 * Y + m2 - 0.5 - <f64>sx;
      const v = m3 * X + m4 * Y + m5 - 0.5 - <f64>sy;
      const o = (<usize>(y * w + x)) << 2;
      if (support == 0) {
        const iu = <i32>Math.floor(u + 0.5);
        const iv = <i32>Math.floor(v + 0.5);
        const inside = iu >= 0 && iv >= 0 && iu < sw && iv < sh;
        for (let c = 0; c < count; c++) {
          const val: f32 = inside ? load<f32>(<usize>load<u32>(planes + (c << 2)) + ((<usize>(iv * sw + iu)) << 2)) : 0;
          store<f32>(<usize>load<u32>(outs + (c << 2)) + o, val);
        }
        continue;
      }
      let x0 = <i32>Math.ceil(u - rx);
      let x1 = <i32>Math.floor(u + rx);
      let y0 = <i32>Math.ceil(v - ry);
      let y1 = <i32>Math.floor(v + ry);
      if (x1 < 0 || y1 < 0 || x0 >= sw || y0 >= sh) {
        for (let c = 0; c < count; c++) store<f32>(<usize>load<u32>(outs + (c << 2)) + o, 0);
        continue;
      }
      x1 = min(x1, x0 + 255);
      y1 = min(y1, y0 + 255);
      const sumX = fillWeights(wx, x0, x1, u, scaleX, table, support);
      const sumY = fillWeights(wy, y0, y1, v, scaleY, table, support);
      const norm: f32 = sumX * sumY != 0 ? 1 / (sumX * sumY) : 0;
      const bx = x0;
      const by = y0;
      x0 = max(x0, 0);
      y0 = max(y0, 0);
      x1 = min(x1, sw - 1);
      y1 = min(y1, sh - 1);
      for (let c = 0; c < count; c++) {
        const plane = <usize>load<u32>(planes + (c << 2));
        let acc: f32 = 0;
        for (let j = y0; j <= y1; j++) {
          const row = plane + ((<usize>(j * sw)) << 2);
          let line: f32 = 0;
          for (let i = x0; i <= x1; i++) {
            line += load<f32>(row + ((<usize>i) << 2)) * load<f32>(wx + ((<usize>(i - bx)) << 2));
          }
          acc += line * load<f32>(wy + ((<usize>(j - by)) << 2));
        }
        store<f32>(<usize>load<u32>(outs + (c << 2)) + o, acc * norm);
      }
    }
  }
}

// @ts-ignore: decorator
@inline
function fillWeights(at: usize, i0: i32, i1: i32, centre: f64, scale: f64, table: usize, support: f64): f32 {
  let sum: f32 = 0;
  const last = <i32>(support * TABLE);
  for (let i = i0; i <= i1; i++) {
    const t = abs(<f64>i - centre) / scale * TABLE;
    const k = <i32>t;
    const f = <f32>(t - <f64>k);
    const a = k < last ? load<f32>(table + ((<usize>k) << 2)) : 0;
    const b = k + 1 < last ? load<f32>(table + ((<usize>(k + 1)) << 2)) : 0;
    const wgt = a + (b - a) * f;
    store<f32>(at + ((<usize>(i - i0)) << 2), wgt);
    sum += wgt;
  }
  return sum;
}
