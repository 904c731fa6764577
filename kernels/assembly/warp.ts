// Planes seen through a map of the plane with perspective.

// @ts-ignore: decorator
@inline
function cubicAt(t: f32, k: i32): f32 {
  if (k == 0) return t * (-0.5 + t * (1 - <f32>0.5 * t));
  if (k == 1) return 1 + t * t * (-2.5 + <f32>1.5 * t);
  if (k == 2) return t * (0.5 + t * (2 - <f32>1.5 * t));
  return t * t * (-0.5 + <f32>0.5 * t);
}

const WX = memory.data(16, 16);
const WY = memory.data(16, 16);

// @ts-ignore: decorator
@inline
function weightsAt(to: usize, t: f32): void {
  for (let k = 0; k < 4; k++) store<f32>(to + (<usize>k << 2), cubicAt(t, k));
}

/** Adds weight times the source's value at u, v (pixels from its corner, centres whole) to the float at q; nothing beyond its edges. */
function addSample(p: usize, sw: i32, sh: i32, i0: i32, j0: i32, weight: f32, q: usize): void {
  let sum: f32 = 0;
  if (i0 >= 0 && j0 >= 0 && i0 + 4 <= sw && j0 + 4 <= sh) {
    const wx = v128.load(WX);
    let rows = f32x4.splat(0);
    for (let j = 0; j < 4; j++) {
      const row = p + ((<usize>((j0 + j) * sw + i0)) << 2);
      rows = f32x4.add(rows, f32x4.mul(f32x4.splat(load<f32>(WY + (<usize>j << 2))), v128.load(row)));
    }
    const all = f32x4.mul(rows, wx);
    sum = f32x4.extract_lane(all, 0) + f32x4.extract_lane(all, 1) + f32x4.extract_lane(all, 2) + f32x4.extract_lane(all, 3);
  } else {
    for (let j = 0; j < 4; j++) {
      const y = j0 + j;
      if (y < 0 || y >= sh) continue;
      const wy = load<f32>(WY + (<usize>j << 2));
      for (let i = 0; i < 4; i++) {
        const x = i0 + i;
        if (x < 0 || x >= sw) continue;
        sum += wy * load<f32>(WX + (<usize>i << 2)) * load<f32>(p + ((<usize>(y * sw + x)) << 2));
      }
    }
  }
  store<f32>(q, load<f32>(q) + weight * sum);
}

/** The same, bilinear, of the pixel at i0, j0 and its neighbours. */
function addLinear(p: usize, sw: i32, sh: i32, i0: i32, j0: i32, s: f32, t: f32, weight: f32, q: usize): void {
  let top: f32 = 0, bottom: f32 = 0;
  if (i0 >= 0 && j0 >= 0 && i0 + 2 <= sw && j0 + 2 <= sh) {
    const a = p + ((<usize>(j0 * sw + i0)) << 2);
    const b = a + ((<usize>sw) << 2);
    top = load<f32>(a) + s * (load<f32>(a, 4) - load<f32>(a));
    bottom = load<f32>(b) + s * (load<f32>(b, 4) - load<f32>(b));
  } else {
    top = pixel(p, sw, sh, i0, j0) * (1 - s) + pixel(p, sw, sh, i0 + 1, j0) * s;
    bottom = pixel(p, sw, sh, i0, j0 + 1) * (1 - s) + pixel(p, sw, sh, i0 + 1, j0 + 1) * s;
  }
  store<f32>(q, load<f32>(q) + weight * (top + t * (bottom - top)));
}

// @ts-ignore: decorator
@inline
function pixel(p: usize, sw: i32, sh: i32, x: i32, y: i32): f32 {
  return x < 0 || y < 0 || x >= sw || y >= sh ? 0 : load<f32>(p + ((<usize>(y * sw + x)) << 2));
}

/**
 * Adds share times the planes, seen through a map from positions of `outs` to positions of `planes`, to `outs`. Both are lists of
 * `count` pointers; the sources' corner is at sx, sy and they are sw by sh pixels, the outs' at ox, oy and w by h. Where the map
 * makes the picture smaller up to `most` by `most` bilinear samples a pixel are taken; elsewhere one, Catmull and Rom's if asked.
 */
export function warpAdd(
  planes: usize, outs: usize, count: i32, sx: f64, sy: f64, sw: i32, sh: i32, ox: f64, oy: f64, w: i32, h: i32,
  m0: f64, m1: f64, m2: f64, m3: f64, m4: f64, m5: f64, m6: f64, m7: f64, m8: f64, cubic: i32, most: i32, share: f32,
): void {
  for (let y = 0; y < h; y++) {
    const py = oy + <f64>y;
    for (let x = 0; x < w; x++) {
      const px = ox + <f64>x;
      const cw = m6 * (px + 0.5) + m7 * (py + 0.5) + m8;
      if (cw <= 1e-9) continue;
      const cu = (m0 * (px + 0.5) + m1 * (py + 0.5) + m2) / cw;
      const cv = (m3 * (px + 0.5) + m4 * (py + 0.5) + m5) / cw;
      const ax = (m0 - cu * m6) / cw, ay = (m3 - cv * m6) / cw, bx = (m1 - cu * m7) / cw, by = (m4 - cv * m7) / cw;
      const stretch = Math.sqrt(Math.max(ax * ax + ay * ay, bx * bx + by * by));
      const reach = 2.5 + stretch;
      if (cu < sx - reach || cv < sy - reach || cu > sx + <f64>sw + reach || cv > sy + <f64>sh + reach) continue;
      const n = <i32>Math.min(<f64>most, Math.max(1, Math.floor(stretch + 0.5)));
      const weight = share / <f32>(n * n);
      const at = (<usize>(y * w + x)) << 2;
      for (let j = 0; j < n; j++) {
        for (let i = 0; i < n; i++) {
          const u = px + (<f64>i + 0.5) / <f64>n;
          const v = py + (<f64>j + 0.5) / <f64>n;
          const d = m6 * u + m7 * v + m8;
          if (d <= 1e-9) continue;
          const fx = (m0 * u + m1 * v + m2) / d - 0.5 - sx;
          const fy = (m3 * u + m4 * v + m5) / d - 0.5 - sy;
          const x0 = Math.floor(fx), y0 = Math.floor(fy);
          if (x0 < -3 || y0 < -3 || x0 > <f64>sw + 2 || y0 > <f64>sh + 2) continue;
          if (n > 1 || !cubic) {
            for (let c = 0; c < count; c++) {
              const k = <usize>c << 2;
              addLinear(<usize>load<u32>(planes + k), sw, sh, <i32>x0, <i32>y0, <f32>(fx - x0), <f32>(fy - y0), weight, <usize>load<u32>(outs + k) + at);
            }
            continue;
          }
          weightsAt(WX, <f32>(fx - x0));
          weightsAt(WY, <f32>(fy - y0));
          for (let c = 0; c < count; c++) {
            const k = <usize>c << 2;
            addSample(<usize>load<u32>(planes + k), sw, sh, <i32>x0 - 1, <i32>y0 - 1, weight, <usize>load<u32>(outs + k) + at);
          }
        }
      }
    }
  }
}
