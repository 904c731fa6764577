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
function blend(op: i32, b: f32, f: f32): f32 {
  switch (op) {
    case 0: return b - f; // minus
    case 1: return b * f; // multiply
    case 2: return b <= 1 || f <= 1 ? b + f - b * f : max<f32>(b, f); // screen, kept rising above 1
    case 3: return f == 0 ? 0 : b / f; // divide
    case 4: return abs<f32>(b - f); // difference
    case 5: return max<f32>(b, f); // lighten
    case 6: return min<f32>(b, f); // darken
    case 7: return b <= 0.5 ? 2 * b * f : 1 - 2 * (1 - b) * (1 - f); // overlay
    case 8: { // soft light
      if (f <= 0.5) return b - (1 - 2 * f) * b * (1 - b);
      const d: f32 = b <= 0.25 ? ((16 * b - 12) * b + 4) * b : sqrt<f32>(b);
      return b + (2 * f - 1) * (d - b);
    }
    case 9: return f <= 0.5 ? 2 * b * f : 1 - 2 * (1 - b) * (1 - f); // hard light
    case 10: return b <= 0 ? 0 : f >= 1 ? 1 : min<f32>(1, b / (1 - f)); // colour dodge
    case 11: return b >= 1 ? 1 : f <= 0 ? 0 : 1 - min<f32>(1, (1 - b) / f); // colour burn
    default: return (b + f) * 0.5; // average
  }
}

/** Plain arithmetic on one channel: out = B(back, front). */
export function blendPlain(op: i32, front: usize, back: usize, out: usize, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 4) {
    store<f32>(out + i, blend(op, load<f32>(back + i), load<f32>(front + i)));
  }
}

/** With coverage, on premultiplied channels: out = f·(1 − αb) + b·(1 − αf) + αf·αb·B(b/αb, f/αf). */
export function blendAlpha(
  op: i32, front: usize, back: usize, frontAlpha: usize, backAlpha: usize, out: usize, n: i32,
): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 4) {
    const f = load<f32>(front + i);
    const b = load<f32>(back + i);
    const fa = load<f32>(frontAlpha + i);
    const ba = load<f32>(backAlpha + i);
    let v = f * (1 - ba) + b * (1 - fa);
    if (fa > 0 && ba > 0) v += fa * ba * blend(op, b / ba, f / fa);
    store<f32>(out + i, v);
  }
}
