// Reductions of a plane to a few numbers.

/**
 * Writes six doubles to `out` (8-byte aligned): the least and the greatest finite value, the sum and the sum of squares of
 * the finite ones, how many are finite, and how many are NaN; the rest are infinite. With nothing finite the first two are +∞, −∞.
 */
export function statistics(x: usize, n: i32, out: usize): void {
  const infinity = f32x4.splat(Infinity);
  const minus = f32x4.splat(-Infinity);
  let low = infinity;
  let high = minus;
  let sum = f64x2.splat(0);
  let squares = f64x2.splat(0);
  let finite = i32x4.splat(0);
  let nan = i32x4.splat(0);
  let i = 0;
  for (; i + 4 <= n; i += 4, x += 16) {
    const v = v128.load(x);
    const ok = f32x4.lt(f32x4.abs(v), infinity);
    const kept = v128.and(v, ok);
    low = f32x4.pmin(low, v128.bitselect(v, infinity, ok));
    high = f32x4.pmax(high, v128.bitselect(v, minus, ok));
    const a = f64x2.promote_low_f32x4(kept);
    const b = f64x2.promote_low_f32x4(v128.shuffle<i64>(kept, kept, 1, 1));
    sum = f64x2.add(sum, f64x2.add(a, b));
    squares = f64x2.add(squares, f64x2.add(f64x2.mul(a, a), f64x2.mul(b, b)));
    finite = i32x4.sub(finite, ok);
    nan = i32x4.sub(nan, f32x4.ne(v, v));
  }
  let least = min<f32>(min<f32>(f32x4.extract_lane(low, 0), f32x4.extract_lane(low, 1)), min<f32>(f32x4.extract_lane(low, 2), f32x4.extract_lane(low, 3)));
  let most = max<f32>(max<f32>(f32x4.extract_lane(high, 0), f32x4.extract_lane(high, 1)), max<f32>(f32x4.extract_lane(high, 2), f32x4.extract_lane(high, 3)));
  let total = f64x2.extract_lane(sum, 0) + f64x2.extract_lane(sum, 1);
  let totalSquares = f64x2.extract_lane(squares, 0) + f64x2.extract_lane(squares, 1);
  let count = i32x4.extract_lane(finite, 0) + i32x4.extract_lane(finite, 1) + i32x4.extract_lane(finite, 2) + i32x4.extract_lane(finite, 3);
  let wrong = i32x4.extract_lane(nan, 0) + i32x4.extract_lane(nan, 1) + i32x4.extract_lane(nan, 2) + i32x4.extract_lane(nan, 3);
  for (; i < n; i++, x += 4) {
    const v = load<f32>(x);
    if (abs<f32>(v) < Infinity) {
      least = min<f32>(least, v);
      most = max<f32>(most, v);
      total += <f64>v;
      totalSquares += <f64>v * <f64>v;
      count++;
    } else if (v != v) wrong++;
  }
  store<f64>(out, <f64>least);
  store<f64>(out, <f64>most, 8);
  store<f64>(out, total, 16);
  store<f64>(out, totalSquares, 24);
  store<f64>(out, <f64>count, 32);
  store<f64>(out, <f64>wrong, 40);
}

/** Whether n floats are all the same value. */
export function allEqual(x: usize, n: i32, value: f32): bool {
  const v = f32x4.splat(value);
  let i = 0;
  for (; i + 4 <= n; i += 4, x += 16) if (!i32x4.all_true(f32x4.eq(v128.load(x), v))) return false;
  for (; i < n; i++, x += 4) if (load<f32>(x) != value) return false;
  return true;
}

/** Whether h rows of w floats, `stride` floats apart, all hold one value. */
export function allEqualIn(x: usize, stride: i32, w: i32, h: i32, value: f32): bool {
  for (let y = 0; y < h; y++, x += (<usize>stride) << 2) if (!allEqual(x, w, value)) return false;
  return true;
}

/** How many of n floats are NaN or infinite. */
export function countNonFinite(x: usize, n: i32): i32 {
  const infinity = f32x4.splat(Infinity);
  let ok = i32x4.splat(0);
  let i = 0;
  for (; i + 4 <= n; i += 4, x += 16) ok = i32x4.sub(ok, f32x4.lt(f32x4.abs(v128.load(x)), infinity));
  let count = i32x4.extract_lane(ok, 0) + i32x4.extract_lane(ok, 1) + i32x4.extract_lane(ok, 2) + i32x4.extract_lane(ok, 3);
  for (; i < n; i++, x += 4) count += i32(abs<f32>(load<f32>(x)) < Infinity);
  return n - count;
}
