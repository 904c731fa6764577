// Number formats: half floats, code values through a table, interleaving.

// @ts-ignore: decorator
@inline
function half(h: u32): f32 {
  const sign = (h & 0x8000) << 16;
  const e = (h >> 10) & 31;
  const m = h & 1023;
  if (e == 31) return reinterpret<f32>(sign | 0x7f800000 | (m << 13));
  if (e != 0) return reinterpret<f32>(sign | ((e + 112) << 23) | (m << 13));
  const v = <f32>m * 5.960464477539063e-8; // 2^-24
  return sign ? -v : v;
}

/** n IEEE 754 half floats to float32 */
export function halfToFloat(x: usize, out: usize, n: i32): void {
  const magnitude = i32x4.splat(0x7fff);
  const special = i32x4.splat(0x7bff);
  const scale = reinterpret<f32>(0x77800000); // 2^112 puts the exponent right, subnormals too
  let i = 0;
  for (; i + 4 <= n; i += 4, x += 8, out += 16) {
    const h = v128.load_ext<u16>(x);
    const m = v128.and(h, magnitude);
    const shifted = i32x4.shl(m, 13);
    const finite = f32x4.mul(shifted, f32x4.splat(scale));
    const v = v128.bitselect(v128.or(shifted, i32x4.splat(0x7f800000)), finite, i32x4.gt_s(m, special));
    v128.store(out, v128.or(v, i32x4.shl(v128.andnot(h, magnitude), 16)));
  }
  for (; i < n; i++, x += 2, out += 4) store<f32>(out, half(load<u16>(x)));
}

// @ts-ignore: decorator
@inline
function halvesOf(v: v128): v128 {
  const a = v128.and(v, i32x4.splat(0x7fffffff));
  const sign = v128.and(i32x4.shr_u(v, 16), i32x4.splat(0x8000));
  const odd = v128.and(i32x4.shr_u(a, 13), i32x4.splat(1));
  const normal = i32x4.shr_u(i32x4.add(i32x4.add(a, i32x4.splat(0xc8000fff)), odd), 13);
  // Subnormal: adding 0.5 puts the half's last bit at the float's last bit, so that the sum rounds as wanted.
  const small = i32x4.sub(f32x4.add(a, f32x4.splat(0.5)), i32x4.splat(0x3f000000));
  let h = v128.bitselect(small, normal, i32x4.lt_s(a, i32x4.splat(0x38800000)));
  h = v128.bitselect(i32x4.splat(0x7c00), h, i32x4.ge_s(a, i32x4.splat(0x477ff000)));
  h = v128.bitselect(i32x4.splat(0x7e00), h, i32x4.gt_s(a, i32x4.splat(0x7f800000)));
  return v128.or(h, sign);
}

/** n float32 to half, rounding to nearest even; overflow to infinity, NaN kept */
export function floatToHalf(x: usize, out: usize, n: i32): void {
  let i = 0;
  for (; i + 8 <= n; i += 8, x += 32, out += 16) {
    v128.store(out, i16x8.narrow_i32x4_u(halvesOf(v128.load(x)), halvesOf(v128.load(x, 16))));
  }
  for (; i < n; i++, x += 4, out += 2) store<u16>(out, <u16>i32x4.extract_lane(halvesOf(v128.load32_splat(x)), 0));
}

/** out[i] = table[in[i·step]] for 8-bit codes */
export function lookup8(x: usize, out: usize, n: i32, step: i32, table: usize): void {
  let i = 0;
  const s = <usize>step;
  for (; i + 4 <= n; i += 4, x += 4 * s, out += 16) {
    store<f32>(out, load<f32>(table + ((<usize>load<u8>(x)) << 2)));
    store<f32>(out, load<f32>(table + ((<usize>load<u8>(x + s)) << 2)), 4);
    store<f32>(out, load<f32>(table + ((<usize>load<u8>(x + 2 * s)) << 2)), 8);
    store<f32>(out, load<f32>(table + ((<usize>load<u8>(x + 3 * s)) << 2)), 12);
  }
  for (; i < n; i++, x += s, out += 4) store<f32>(out, load<f32>(table + ((<usize>load<u8>(x)) << 2)));
}

/** out[i] = table[in[i·step]] for 16-bit codes; step counts codes */
export function lookup16(x: usize, out: usize, n: i32, step: i32, table: usize): void {
  for (let i = 0; i < n; i++, x += (<usize>step) << 1, out += 4) {
    store<f32>(out, load<f32>(table + ((<usize>load<u16>(x)) << 2)));
  }
}

/** Four planes to n RGBA float pixels; the pointers may be the same plane. `out` may be overrun by up to three pixels. */
export function interleave4(r: usize, g: usize, b: usize, a: usize, out: usize, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16, out += 64) {
    const vr = v128.load(r + i);
    const vg = v128.load(g + i);
    const vb = v128.load(b + i);
    const va = v128.load(a + i);
    const rgLow = v128.shuffle<i32>(vr, vg, 0, 4, 1, 5);
    const rgHigh = v128.shuffle<i32>(vr, vg, 2, 6, 3, 7);
    const baLow = v128.shuffle<i32>(vb, va, 0, 4, 1, 5);
    const baHigh = v128.shuffle<i32>(vb, va, 2, 6, 3, 7);
    v128.store(out, v128.shuffle<i64>(rgLow, baLow, 0, 2));
    v128.store(out, v128.shuffle<i64>(rgLow, baLow, 1, 3), 16);
    v128.store(out, v128.shuffle<i64>(rgHigh, baHigh, 0, 2), 32);
    v128.store(out, v128.shuffle<i64>(rgHigh, baHigh, 1, 3), 48);
  }
}

/** The mean of each factor×factor block of a plane: w×h of them. */
export function boxReduce(x: usize, out: usize, w: i32, h: i32, xStride: i32, factor: i32): void {
  const norm: f32 = 1 / <f32>(factor * factor);
  const quarter = f32x4.splat(0.25);
  for (let y = 0; y < h; y++) {
    let first = 0;
    if (factor == 2) {
      let p = x + ((<usize>(2 * y * xStride)) << 2);
      let q = p + ((<usize>xStride) << 2);
      let o = out + ((<usize>(y * w)) << 2);
      for (; first + 4 <= w; first += 4, p += 32, q += 32, o += 16) {
        const a = f32x4.add(v128.load(p), v128.load(q));
        const b = f32x4.add(v128.load(p, 16), v128.load(q, 16));
        const sum = f32x4.add(v128.shuffle<i32>(a, b, 0, 2, 4, 6), v128.shuffle<i32>(a, b, 1, 3, 5, 7));
        v128.store(o, f32x4.mul(sum, quarter));
      }
    }
    for (let i = first; i < w; i++) {
      let sum: f32 = 0;
      for (let j = 0; j < factor; j++) {
        const p = x + ((<usize>((y * factor + j) * xStride + i * factor)) << 2);
        for (let k = 0; k < factor; k++) sum += load<f32>(p + ((<usize>k) << 2));
      }
      store<f32>(out + ((<usize>(y * w + i)) << 2), sum * norm);
    }
  }
}
