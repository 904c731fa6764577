const words = new Uint32Array(1);
const numbers = new Float32Array(words.buffer);

/** The value of an IEEE 754 half. */
export function halfValue(h: number): number {
  const e = (h >> 10) & 31;
  const m = h & 1023;
  const v = e === 31 ? (m ? NaN : Infinity) : e === 0 ? m * 2 ** -24 : (1 + m / 1024) * 2 ** (e - 15);
  return h & 0x8000 ? -v : v;
}

/** A number as an IEEE 754 half, to the nearest, ties to even. */
export function halfOf(v: number): number {
  numbers[0] = v;
  const bits = words[0]!;
  const sign = (bits >> 16) & 0x8000;
  const a = bits & 0x7fffffff;
  if (a > 0x7f800000) return sign | 0x7e00;
  if (a >= 0x477ff000) return sign | 0x7c00;
  if (a < 0x38800000) {
    numbers[0] = Math.abs(numbers[0]!) + 0.5;
    return sign | (words[0]! - 0x3f000000);
  }
  return sign | (((a + 0xc8000fff + ((a >> 13) & 1)) >>> 13) & 0xffff);
}
