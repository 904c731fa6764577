// Functions of four floats at a time.

// Constants are broadcast from memory: the engine builds a vector constant anew at every use, which costs more than a load.
const LOG = memory.data<f32>([0.32059889, 0.41219858, 0.57707802, 0.96179669, 2.88539008, 1]);
const EXP = memory.data<f32>([
  1.5252734e-5, 1.5403530e-4, 1.3333558e-3, 9.6181291e-3, 5.5504109e-2, 2.4022651e-1, 6.9314718e-1, 1, -126, 127, 12582912,
]);
const ROOT_HALF = memory.data<i32>([0x3f3504f3]);

// @ts-ignore: decorator
@inline
function step(p: v128, x: v128, c: usize): v128 {
  return f32x4.add(f32x4.mul(p, x), v128.load32_splat(c));
}

/** Base-2 logarithm of positive normal floats, by the atanh series on [√½, √2). */
// @ts-ignore: decorator
@inline
export function log2x4(x: v128): v128 {
  const bits = i32x4.sub(x, v128.load32_splat(ROOT_HALF)); // the mantissa then falls in [√½, √2)
  const e = i32x4.shr_s(bits, 23);
  const m = i32x4.sub(x, i32x4.shl(e, 23));
  const one = v128.load32_splat(LOG + 20);
  const s = f32x4.div(f32x4.sub(m, one), f32x4.add(m, one));
  const s2 = f32x4.mul(s, s);
  let p = v128.load32_splat(LOG);
  p = step(p, s2, LOG + 4);
  p = step(p, s2, LOG + 8);
  p = step(p, s2, LOG + 12);
  p = step(p, s2, LOG + 16);
  return f32x4.add(f32x4.mul(p, s), f32x4.convert_i32x4_s(e));
}

/** 2^x, x held in [−126, 127]: a polynomial on [−½, ½]; rounding to a whole number by adding 1.5·2²³. */
// @ts-ignore: decorator
@inline
export function exp2x4(x: v128): v128 {
  const c = clampx4(x, v128.load32_splat(EXP + 32), v128.load32_splat(EXP + 36));
  const magic = v128.load32_splat(EXP + 40);
  const shifted = f32x4.add(c, magic);
  const f = f32x4.sub(c, f32x4.sub(shifted, magic));
  let p = v128.load32_splat(EXP);
  p = step(p, f, EXP + 4);
  p = step(p, f, EXP + 8);
  p = step(p, f, EXP + 12);
  p = step(p, f, EXP + 16);
  p = step(p, f, EXP + 20);
  p = step(p, f, EXP + 24);
  p = step(p, f, EXP + 28);
  // The low bits of the shifted sum are the whole number; they are added to the exponent.
  return i32x4.add(p, i32x4.shl(shifted, 23));
}

/** x^e for x > 0; relative error below 2e-6 for results between 1e-6 and 1e6. */
// @ts-ignore: decorator
@inline
export function powx4(x: v128, e: v128): v128 {
  return exp2x4(f32x4.mul(log2x4(x), e));
}

/** x < low ? low : x > high ? high : x; NaN stays. */
// @ts-ignore: decorator
@inline
export function clampx4(x: v128, low: v128, high: v128): v128 {
  return f32x4.pmin(f32x4.pmax(x, low), high);
}
