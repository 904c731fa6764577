// Passes of renders: light by ratio, coverage by id.

/**
 * Turns a picture by what has become of a sum of lights: out = x·after/before where `before` is above `floor`, x + after − before where it is
 * 0, and smoothly between. Ratios below 0 count as 0.
 */
export function ratioMix(x: usize, before: usize, after: usize, out: usize, n: i32, floor: f32): void {
  const least = f32x4.splat(floor);
  const inverse = f32x4.splat(1 / floor);
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const two = f32x4.splat(2);
  const three = f32x4.splat(3);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const v = v128.load(x + i);
    const b = v128.load(before + i);
    const a = v128.load(after + i);
    const t = f32x4.min(one, f32x4.max(zero, f32x4.mul(b, inverse)));
    const w = f32x4.mul(f32x4.mul(t, t), f32x4.sub(three, f32x4.mul(two, t)));
    const ratio = f32x4.max(zero, f32x4.div(a, f32x4.max(b, least)));
    const added = f32x4.add(v, f32x4.sub(a, b));
    const scaled = f32x4.mul(v, ratio);
    const mixed = f32x4.add(added, f32x4.mul(w, f32x4.sub(scaled, added)));
    // What is the same is left as it is, to the bit.
    v128.store(out + i, v128.bitselect(v, mixed, f32x4.eq(a, b)));
  }
}

/**
 * out = what of the pairs' coverages has one of a list of `count` ids, 0..1. `pairs` lists pointers: id and coverage of each rank, most coverage
 * first.
 */
export function idCoverage(pairs: usize, ranks: i32, out: usize, n: i32, list: usize, count: i32): void {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    let sum = zero;
    for (let r = 0; r < ranks; r++) {
      const pair = pairs + ((<usize>r) << 3);
      const cover = v128.load(<usize>load<u32>(pair, 4) + i);
      // Ranks fall: once one covers nothing, the later ones do not either.
      if (!v128.any_true(f32x4.gt(cover, zero))) break;
      const v = v128.load(<usize>load<u32>(pair) + i);
      let hit = f32x4.eq(v, v128.load32_splat(list));
      for (let k = 1; k < count; k++) hit = v128.or(hit, f32x4.eq(v, v128.load32_splat(list + ((<usize>k) << 2))));
      sum = f32x4.add(sum, v128.and(cover, hit));
    }
    v128.store(out + i, f32x4.min(one, f32x4.max(zero, sum)));
  }
}

/** out = base + the planes of a list of pointers, each times its gain, read once. `base` 0 is none. */
export function weightedSum(base: usize, out: usize, n: i32, planes: usize, gains: usize, count: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 32) {
    let a = base ? v128.load(base + i) : f32x4.splat(0);
    let b = base ? v128.load(base + i, 16) : f32x4.splat(0);
    for (let k = 0; k < count; k++) {
      const p = <usize>load<u32>(planes + ((<usize>k) << 2)) + i;
      const g = v128.load32_splat(gains + ((<usize>k) << 2));
      a = f32x4.add(a, f32x4.mul(v128.load(p), g));
      b = f32x4.add(b, f32x4.mul(v128.load(p, 16), g));
    }
    v128.store(out + i, a);
    v128.store(out + i, b, 16);
  }
}
