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

/** out += coverage where the id is one of a list of `count` floats. */
export function idCoverage(id: usize, coverage: usize, out: usize, n: i32, list: usize, count: i32): void {
  const zero = f32x4.splat(0);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const v = v128.load(id + i);
    let hit = f32x4.eq(v, v128.load32_splat(list));
    for (let k = 1; k < count; k++) hit = v128.or(hit, f32x4.eq(v, v128.load32_splat(list + ((<usize>k) << 2))));
    v128.store(out + i, f32x4.add(v128.load(out + i), v128.bitselect(v128.load(coverage + i), zero, hit)));
  }
}
