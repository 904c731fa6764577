// Colour tables.

/**
 * A cube of size³ entries of four floats (red, green, blue, unused), red running fastest, looked up by three planes of n values
 * and interpolated in tetrahedra (Kasson, Nin, Plouffe and Hafner 1995). A value v is at v·scale + shift in entries, each axis with
 * its own pair at `domain` (six floats: scales, shifts), and held at the cube's ends. r, g and b are changed.
 */
export function lutCube(r: usize, g: usize, b: usize, n: i32, table: usize, size: i32, domain: usize): void {
  const last = <f32>(size - 1);
  const sg = <usize>(size * 16);
  const sb = <usize>(size * size * 16);
  for (let i = 0; i < n; i++, r += 4, g += 4, b += 4) {
    const x = min(max(load<f32>(r) * load<f32>(domain) + load<f32>(domain, 12), <f32>0), last);
    const y = min(max(load<f32>(g) * load<f32>(domain, 4) + load<f32>(domain, 16), <f32>0), last);
    const z = min(max(load<f32>(b) * load<f32>(domain, 8) + load<f32>(domain, 20), <f32>0), last);
    const ix = min(<i32>x, size - 2);
    const iy = min(<i32>y, size - 2);
    const iz = min(<i32>z, size - 2);
    const fx = x - <f32>ix;
    const fy = y - <f32>iy;
    const fz = z - <f32>iz;
    const at = table + <usize>ix * 16 + <usize>iy * sg + <usize>iz * sb;
    let first: usize;
    let second: usize;
    let high: f32;
    let mid: f32;
    let low: f32;
    if (fx >= fy) {
      if (fy >= fz) {
        first = 16; second = 16 + sg; high = fx; mid = fy; low = fz;
      } else if (fx >= fz) {
        first = 16; second = 16 + sb; high = fx; mid = fz; low = fy;
      } else {
        first = sb; second = sb + 16; high = fz; mid = fx; low = fy;
      }
    } else if (fx >= fz) {
      first = sg; second = sg + 16; high = fy; mid = fx; low = fz;
    } else if (fy >= fz) {
      first = sg; second = sg + sb; high = fy; mid = fz; low = fx;
    } else {
      first = sb; second = sb + sg; high = fz; mid = fy; low = fx;
    }
    let v = f32x4.mul(v128.load(at), f32x4.splat(<f32>1 - high));
    v = f32x4.add(v, f32x4.mul(v128.load(at + first), f32x4.splat(high - mid)));
    v = f32x4.add(v, f32x4.mul(v128.load(at + second), f32x4.splat(mid - low)));
    v = f32x4.add(v, f32x4.mul(v128.load(at + 16 + sg + sb), f32x4.splat(low)));
    store<f32>(r, f32x4.extract_lane(v, 0));
    store<f32>(g, f32x4.extract_lane(v, 1));
    store<f32>(b, f32x4.extract_lane(v, 2));
  }
}

/** A table of `size` floats looked up by a plane of n values at v·scale + shift, linear between entries, held at the ends; in place. */
export function lutCurve(x: usize, n: i32, table: usize, size: i32, scale: f32, shift: f32): void {
  const last = <f32>(size - 1);
  for (let i = 0; i < n; i++, x += 4) {
    const v = min(max(load<f32>(x) * scale + shift, <f32>0), last);
    const k = min(<i32>v, size - 2);
    const f = v - <f32>k;
    const at = table + (<usize>k << 2);
    const a = load<f32>(at);
    store<f32>(x, a + f * (load<f32>(at, 4) - a));
  }
}
