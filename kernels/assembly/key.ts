// Colour-difference keying and spill.

/** A ramp from 0 to 1 over [0, 1] of constant slope, eased quadratically over `toe`/2 at its foot and `shoulder`/2 at its head. */
// @ts-ignore: decorator
@inline
function ramp(x: f32, toe: f32, shoulder: f32): f32 {
  if (x <= 0) return 0;
  if (x >= 1) return 1;
  const half: f32 = 0.5;
  const a = toe * half;
  const b = shoulder * half;
  const s: f32 = 1 / (1 - half * (a + b));
  if (x < a) return (s * x * x) / (2 * a);
  if (x > 1 - b) return 1 - (s * (1 - x) * (1 - x)) / (2 * b);
  return s * (x - half * a);
}

/**
 * The colour-difference matte. p is the plane of the screen's primary, q and r the two others; sp, sq, sr the screen
 * colour's planes. With w the balance, d(c) = c_p − (w·max + (1 − w)·min of the others); 1 − A = d(P)/d(S); then the two
 * thresholds with toe and shoulder, and gamma on the partial values. `raw` gets the matte before the thresholds.
 */
export function colourDifference(
  p: usize, q: usize, r: usize, sp: usize, sq: usize, sr: usize, out: usize, raw: usize, n: i32,
  balance: f32, low: f32, high: f32, toe: f32, shoulder: f32, gamma: f32,
): void {
  const span: f32 = 1 / max<f32>(high - low, 1e-6);
  const power: f32 = 1 / gamma;
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 4) {
    const q1 = load<f32>(q + i);
    const r1 = load<f32>(r + i);
    const q2 = load<f32>(sq + i);
    const r2 = load<f32>(sr + i);
    const d = load<f32>(p + i) - (balance * max<f32>(q1, r1) + (1 - balance) * min<f32>(q1, r1));
    const k = load<f32>(sp + i) - (balance * max<f32>(q2, r2) + (1 - balance) * min<f32>(q2, r2));
    const screen: f32 = k > 1e-6 ? min<f32>(max<f32>(d / k, 0), 1) : 0;
    store<f32>(raw + i, 1 - screen);
    let a = ramp((1 - screen - low) * span, toe, shoulder);
    if (gamma != 1 && a > 0 && a < 1) a = Mathf.pow(a, power);
    store<f32>(out + i, a);
  }
}

/** Copies a screen plate, with the constant colour (cp, cq, cr) where the plate's own difference is under `share` of the constant's. */
export function fillScreen(
  p: usize, q: usize, r: usize, op: usize, oq: usize, or: usize, n: i32,
  cp: f32, cq: f32, cr: f32, balance: f32, share: f32,
): void {
  const least: f32 = share * (cp - (balance * max<f32>(cq, cr) + (1 - balance) * min<f32>(cq, cr)));
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 4) {
    const a = load<f32>(p + i);
    const b = load<f32>(q + i);
    const c = load<f32>(r + i);
    const full = a - (balance * max<f32>(b, c) + (1 - balance) * min<f32>(b, c)) > least;
    store<f32>(op + i, full ? a : cp);
    store<f32>(oq + i, full ? b : cq);
    store<f32>(or + i, full ? c : cr);
  }
}

/**
 * out = max(0, c − (1 − raw)·s)·a/raw: what the screen adds is taken off by the matte as measured, the rest follows the matte
 * as set. Under raw = `floor` the quotient is held, so that the screen's own noise is not left behind.
 */
export function subtractScreen(c: usize, s: usize, raw: usize, a: usize, out: usize, n: i32, floor: f32): void {
  const one = f32x4.splat(1);
  const zero = f32x4.splat(0);
  const least = f32x4.splat(floor);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const m = v128.load(raw + i);
    const v = f32x4.max(zero, f32x4.sub(v128.load(c + i), f32x4.mul(f32x4.sub(one, m), v128.load(s + i))));
    v128.store(out + i, f32x4.div(f32x4.mul(v, v128.load(a + i)), f32x4.max(m, least)));
  }
}

/**
 * Spill of a screen primary p over a limit made of the others: 0 their average, 1 their maximum, 2 their minimum,
 * 3 weight·q + (1 − weight)·r. Writes s = max(0, p − limit)·amount.
 */
export function spillAmount(
  p: usize, q: usize, r: usize, out: usize, n: i32, limit: i32, weight: f32, amount: f32,
): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 4) {
    const q1 = load<f32>(q + i);
    const r1 = load<f32>(r + i);
    let f: f32;
    if (limit == 0) f = (q1 + r1) * 0.5;
    else if (limit == 1) f = max<f32>(q1, r1);
    else if (limit == 2) f = min<f32>(q1, r1);
    else f = weight * q1 + (1 - weight) * r1;
    store<f32>(out + i, max<f32>(0, load<f32>(p + i) - f) * amount);
  }
}

/** out_i = Σ m_ij·in_j on three planes; in place is allowed */
export function matrix3(
  a: usize, b: usize, c: usize, oa: usize, ob: usize, oc: usize, n: i32,
  m00: f32, m01: f32, m02: f32, m10: f32, m11: f32, m12: f32, m20: f32, m21: f32, m22: f32,
): void {
  const x00 = f32x4.splat(m00), x01 = f32x4.splat(m01), x02 = f32x4.splat(m02);
  const x10 = f32x4.splat(m10), x11 = f32x4.splat(m11), x12 = f32x4.splat(m12);
  const x20 = f32x4.splat(m20), x21 = f32x4.splat(m21), x22 = f32x4.splat(m22);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const va = v128.load(a + i);
    const vb = v128.load(b + i);
    const vc = v128.load(c + i);
    v128.store(oa + i, f32x4.add(f32x4.add(f32x4.mul(va, x00), f32x4.mul(vb, x01)), f32x4.mul(vc, x02)));
    v128.store(ob + i, f32x4.add(f32x4.add(f32x4.mul(va, x10), f32x4.mul(vb, x11)), f32x4.mul(vc, x12)));
    v128.store(oc + i, f32x4.add(f32x4.add(f32x4.mul(va, x20), f32x4.mul(vb, x21)), f32x4.mul(vc, x22)));
  }
}
