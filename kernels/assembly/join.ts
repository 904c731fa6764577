// Laying one picture over another: Porter & Duff 1984, and the blend modes of W3C Compositing and Blending Level 1.

/** out = front·(fa0 + fa1·backAlpha) + back·(fb0 + fb1·frontAlpha): every Porter–Duff operator is a choice of the four */
export function porterDuff(
  front: usize, back: usize, frontAlpha: usize, backAlpha: usize, out: usize, n: i32,
  fa0: f32, fa1: f32, fb0: f32, fb1: f32,
): void {
  const a0 = f32x4.splat(fa0);
  const a1 = f32x4.splat(fa1);
  const b0 = f32x4.splat(fb0);
  const b1 = f32x4.splat(fb1);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const fa = f32x4.add(a0, f32x4.mul(a1, v128.load(backAlpha + i)));
    const fb = f32x4.add(b0, f32x4.mul(b1, v128.load(frontAlpha + i)));
    v128.store(out + i, f32x4.add(f32x4.mul(v128.load(front + i), fa), f32x4.mul(v128.load(back + i), fb)));
  }
}

/** The numbers that core/steps/join uses for the separable blend functions B(back, front). */
// @ts-ignore: decorator
@inline
function blend(op: i32, b: v128, f: v128): v128 {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const half = f32x4.splat(0.5);
  const product = f32x4.mul(b, f);
  switch (op) {
    case 0: return f32x4.sub(b, f); // minus
    case 1: return product; // multiply
    case 2: { // screen, kept rising above 1
      const low = v128.or(f32x4.le(b, one), f32x4.le(f, one));
      return v128.bitselect(f32x4.sub(f32x4.add(b, f), product), f32x4.pmax(b, f), low);
    }
    case 3: return v128.andnot(f32x4.div(b, f), f32x4.eq(f, zero)); // divide
    case 4: return f32x4.abs(f32x4.sub(b, f)); // difference
    case 5: return f32x4.pmax(b, f); // lighten
    case 6: return f32x4.pmin(b, f); // darken
    case 7: return v128.bitselect(f32x4.add(product, product), light(b, f), f32x4.le(b, half)); // overlay
    case 8: { // soft light
      const t = f32x4.sub(f32x4.add(f, f), one); // 2f − 1
      const low = f32x4.add(b, f32x4.mul(t, f32x4.mul(b, f32x4.sub(one, b))));
      const quartic = f32x4.mul(f32x4.add(f32x4.mul(f32x4.sub(f32x4.mul(f32x4.splat(16), b), f32x4.splat(12)), b), f32x4.splat(4)), b);
      const d = v128.bitselect(quartic, f32x4.sqrt(b), f32x4.le(b, f32x4.splat(0.25)));
      return v128.bitselect(low, f32x4.add(b, f32x4.mul(t, f32x4.sub(d, b))), f32x4.le(f, half));
    }
    case 9: return v128.bitselect(f32x4.add(product, product), light(b, f), f32x4.le(f, half)); // hard light
    case 10: { // colour dodge
      const v = f32x4.pmin(f32x4.div(b, f32x4.sub(one, f)), one);
      return v128.andnot(v128.bitselect(one, v, f32x4.ge(f, one)), f32x4.le(b, zero));
    }
    case 11: { // colour burn
      const v = f32x4.sub(one, f32x4.pmin(f32x4.div(f32x4.sub(one, b), f), one));
      return v128.bitselect(one, v128.andnot(v, f32x4.le(f, zero)), f32x4.ge(b, one));
    }
    default: return f32x4.mul(f32x4.add(b, f), half); // average
  }
}

/** 1 − 2·(1 − b)·(1 − f) */
// @ts-ignore: decorator
@inline
function light(b: v128, f: v128): v128 {
  const one = f32x4.splat(1);
  const v = f32x4.mul(f32x4.sub(one, b), f32x4.sub(one, f));
  return f32x4.sub(one, f32x4.add(v, v));
}

/** Plain arithmetic on one channel: out = B(back, front). */
export function blendPlain(op: i32, front: usize, back: usize, out: usize, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    v128.store(out + i, blend(op, v128.load(back + i), v128.load(front + i)));
  }
}

/** With coverage, on premultiplied channels: out = f·(1 − αb) + b·(1 − αf) + αf·αb·B(b/αb, f/αf). */
export function blendAlpha(
  op: i32, front: usize, back: usize, frontAlpha: usize, backAlpha: usize, out: usize, n: i32,
): void {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const f = v128.load(front + i);
    const b = v128.load(back + i);
    const fa = v128.load(frontAlpha + i);
    const ba = v128.load(backAlpha + i);
    const apart = f32x4.add(f32x4.mul(f, f32x4.sub(one, ba)), f32x4.mul(b, f32x4.sub(one, fa)));
    const both = v128.and(f32x4.gt(fa, zero), f32x4.gt(ba, zero));
    const mixed = f32x4.mul(f32x4.mul(fa, ba), blend(op, f32x4.div(b, ba), f32x4.div(f, fa)));
    v128.store(out + i, f32x4.add(apart, v128.and(mixed, both)));
  }
}
