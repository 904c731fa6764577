// Gradient noise in three dimensions (Perlin 2002, with a hash of integers in the place of a table), summed over octaves.

// @ts-ignore: decorator
@inline
function hash(x: i32, y: i32, z: i32, seed: u32): u32 {
  let h: u32 = (<u32>x * 0x8da6b343) ^ (<u32>y * 0xd8163841) ^ (<u32>z * 0xcb1ab31f) ^ seed;
  h = (h ^ (h >> 16)) * 0x7feb352d;
  h = (h ^ (h >> 15)) * 0x846ca68b;
  return h ^ (h >> 16);
}

// The twelve directions to a cube's edges, four of them twice.
// @ts-ignore: decorator
@inline
function gradient(h: u32, x: f32, y: f32, z: f32): f32 {
  const k = h & 15;
  const u = k < 8 ? x : y;
  const v = k < 4 ? y : k == 12 || k == 14 ? x : z;
  return ((k & 1) == 0 ? u : -u) + ((k & 2) == 0 ? v : -v);
}

// @ts-ignore: decorator
@inline
function fade(t: f32): f32 {
  return t * t * t * (t * (t * 6 - 15) + 10);
}

// @ts-ignore: decorator
@inline
function lerp(a: f32, b: f32, t: f32): f32 {
  return a + (b - a) * t;
}

/**
 * Fills w×h with Σ roughnessⁱ·noise(2ⁱ·(X, Y)/size, 2ⁱ·z) over the first octaves, over Σ roughnessⁱ of all of them; X and Y are pixel centres counted from
 * (ox, oy). About −0.7..0.7. Each octave has a seed of its own.
 */
export function gradientNoise(
  out: usize, w: i32, h: i32, ox: i32, oy: i32, size: f64, z: f64, octaves: i32, all: i32, roughness: f32, seed: u32,
): void {
  const n = w * h;
  memory.fill(out, 0, (<usize>n) << 2);
  let weight: f32 = 1;
  let sum: f32 = 0;
  for (let o = 0; o < all; o++) sum += <f32>Math.pow(roughness, o);
  for (let o = 0; o < octaves; o++) {
    const k = <f64>(1 << o) / size;
    const own = seed + <u32>o * 0x9e3779b9;
    const Z = z * <f64>(1 << o);
    const iz = <i32>Math.floor(Z);
    const fz = <f32>(Z - <f64>iz);
    const wz = fade(fz);
    const share = weight / sum;
    for (let y = 0; y < h; y++) {
      const Y = (<f64>(oy + y) + 0.5) * k;
      const iy = <i32>Math.floor(Y);
      const fy = <f32>(Y - <f64>iy);
      const wy = fade(fy);
      let p = out + ((<usize>(y * w)) << 2);
      // The corners of a cell are hashed when it is entered.
      let at: i32 = i32.MIN_VALUE;
      let a: u32 = 0, b: u32 = 0, c: u32 = 0, d: u32 = 0, e: u32 = 0, f: u32 = 0, g: u32 = 0, i: u32 = 0;
      for (let x = 0; x < w; x++, p += 4) {
        const X = (<f64>(ox + x) + 0.5) * k;
        const ix = <i32>Math.floor(X);
        if (ix != at) {
          at = ix;
          a = hash(ix, iy, iz, own);
          b = hash(ix + 1, iy, iz, own);
          c = hash(ix, iy + 1, iz, own);
          d = hash(ix + 1, iy + 1, iz, own);
          e = hash(ix, iy, iz + 1, own);
          f = hash(ix + 1, iy, iz + 1, own);
          g = hash(ix, iy + 1, iz + 1, own);
          i = hash(ix + 1, iy + 1, iz + 1, own);
        }
        const fx = <f32>(X - <f64>ix);
        const wx = fade(fx);
        const near = lerp(
          lerp(gradient(a, fx, fy, fz), gradient(b, fx - 1, fy, fz), wx),
          lerp(gradient(c, fx, fy - 1, fz), gradient(d, fx - 1, fy - 1, fz), wx),
          wy,
        );
        const far = lerp(
          lerp(gradient(e, fx, fy, fz - 1), gradient(f, fx - 1, fy, fz - 1), wx),
          lerp(gradient(g, fx, fy - 1, fz - 1), gradient(i, fx - 1, fy - 1, fz - 1), wx),
          wy,
        );
        store<f32>(p, load<f32>(p) + share * lerp(near, far, wz));
      }
    }
    weight *= roughness;
  }
}
