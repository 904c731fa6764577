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

/** n IEEE 754 half floats, `step` bytes apart, to float32 */
export function halfToFloat(x: usize, out: usize, n: i32, step: i32): void {
  for (let i = 0; i < n; i++, x += step, out += 4) store<f32>(out, half(load<u16>(x)));
}

/** n float32 to half, rounding to nearest even; overflow to infinity, NaN kept */
export function floatToHalf(x: usize, out: usize, n: i32, step: i32): void {
  for (let i = 0; i < n; i++, x += 4, out += step) {
    const bits = load<u32>(x);
    const sign = (bits >> 16) & 0x8000;
    const a = bits & 0x7fffffff;
    let h: u32;
    if (a > 0x7f800000) h = 0x7e00;
    else if (a >= 0x477ff000) h = 0x7c00;
    else if (a < 0x38800000) {
      // Subnormal: adding 0.5 puts the half's last bit at the float's last bit, so that the sum rounds as wanted.
      h = reinterpret<u32>(reinterpret<f32>(a) + 0.5) - 0x3f000000;
    } else {
      h = (a + 0xc8000fff + ((a >> 13) & 1)) >> 13;
    }
    store<u16>(out, <u16>(sign | h));
  }
}

/** out[i] = table[in[i·step]] for 8-bit codes */
export function lookup8(x: usize, out: usize, n: i32, step: i32, table: usize): void {
  for (let i = 0; i < n; i++, x += step, out += 4) {
    store<f32>(out, load<f32>(table + ((<usize>load<u8>(x)) << 2)));
  }
}

/** out[i] = table[in[i·step]] for 16-bit codes; step counts codes */
export function lookup16(x: usize, out: usize, n: i32, step: i32, table: usize): void {
  for (let i = 0; i < n; i++, x += (<usize>step) << 1, out += 4) {
    store<f32>(out, load<f32>(table + ((<usize>load<u16>(x)) << 2)));
  }
}

/** Four planes to n RGBA float pixels; the pointers may be the same plane */
export function interleave4(r: usize, g: usize, b: usize, a: usize, out: usize, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 4, out += 16) {
    store<f32>(out, load<f32>(r + i));
    store<f32>(out, load<f32>(g + i), 4);
    store<f32>(out, load<f32>(b + i), 8);
    store<f32>(out, load<f32>(a + i), 12);
  }
}

/** The mean of each factor×factor block of a plane whose size is a multiple of the factor */
export function boxReduce(x: usize, out: usize, w: i32, h: i32, xStride: i32, factor: i32): void {
  const norm: f32 = 1 / <f32>(factor * factor);
  for (let y = 0; y < h; y++) {
    for (let i = 0; i < w; i++) {
      let sum: f32 = 0;
      for (let j = 0; j < factor; j++) {
        const p = x + ((<usize>((y * factor + j) * xStride + i * factor)) << 2);
        for (let k = 0; k < factor; k++) sum += load<f32>(p + ((<usize>k) << 2));
      }
      store<f32>(out + ((<usize>(y * w + i)) << 2), sum * norm);
    }
  }
}
