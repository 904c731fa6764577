// Colour-difference keying and spill.
import { clampx4, powx4 } from './math';

/** c_p − (w·max + (1 − w)·min of the others) */
// @ts-ignore: decorator
@inline
function difference(p: v128, q: v128, r: v128, balance: v128, rest: v128): v128 {
  return f32x4.sub(p, f32x4.add(f32x4.mul(balance, f32x4.pmax(q, r)), f32x4.mul(rest, f32x4.pmin(q, r))));
}

/**
 * The colour-difference matte. p is the plane of the screen's primary, q and r the two others; sp, sq, sr the screen
 * colour's planes. With w the balance, d(c) = c_p − (w·max + (1 − w)·min of the others); 1 − A = d(P)/d(S); then the two
 * thresholds as a ramp of constant slope, eased quadratically over toe/2 at its foot and shoulder/2 at its head, and gamma
 * on the partial values. `raw` gets the matte before the thresholds. Where the screen's own difference d(S) is not over `least`,
 * it counts as `own`.
 */
export function colourDifference(
  p: usize, q: usize, r: usize, sp: usize, sq: usize, sr: usize, out: usize, raw: usize, n: i32,
  balance: f32, low: f32, high: f32, toe: f32, shoulder: f32, gamma: f32, least: f32, own: f32,
): void {
  const floor = f32x4.splat(least);
  const instead = f32x4.splat(own);
  const eased = toe > 0 || shoulder > 0;
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const w = f32x4.splat(balance);
  const rest = f32x4.splat(1 - balance);
  const lo = f32x4.splat(low);
  const span = f32x4.splat(1 / max<f32>(high - low, 1e-6));
  const half: f32 = 0.5;
  const a = toe * half;
  const b = shoulder * half;
  const slope: f32 = 1 / (1 - half * (a + b));
  const s = f32x4.splat(slope);
  const foot = f32x4.splat(a);
  const middle = f32x4.splat(half * a);
  const head = f32x4.splat(1 - b);
  const footGain = f32x4.splat(a > 0 ? slope / (2 * a) : 0);
  const headGain = f32x4.splat(b > 0 ? slope / (2 * b) : 0);
  const power = f32x4.splat(1 / gamma);
  const tiny = f32x4.splat(1e-6);
  const smallest = f32x4.splat(1e-30);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const d = difference(v128.load(p + i), v128.load(q + i), v128.load(r + i), w, rest);
    let k = difference(v128.load(sp + i), v128.load(sq + i), v128.load(sr + i), w, rest);
    k = v128.bitselect(k, instead, f32x4.gt(k, floor));
    const ratio = clampx4(f32x4.div(d, k), zero, one);
    const m = f32x4.sub(one, v128.and(ratio, f32x4.gt(k, tiny)));
    v128.store(raw + i, m);
    const x = clampx4(f32x4.mul(f32x4.sub(m, lo), span), zero, one);
    const partial = v128.and(f32x4.gt(x, zero), f32x4.lt(x, one));
    let v = x;
    if (v128.any_true(partial)) {
      if (eased) {
        const y = f32x4.sub(one, x);
        v = f32x4.mul(s, f32x4.sub(x, middle));
        v = v128.bitselect(f32x4.mul(footGain, f32x4.mul(x, x)), v, f32x4.lt(x, foot));
        v = v128.bitselect(f32x4.sub(one, f32x4.mul(headGain, f32x4.mul(y, y))), v, f32x4.gt(x, head));
      }
      if (gamma != 1) v = powx4(f32x4.pmax(v, smallest), power);
      v = v128.bitselect(v, x, partial);
    }
    v128.store(out + i, v);
  }
}

/** Copies a screen plate, with the constant colour (cp, cq, cr) where the plate's own difference is under `share` of the constant's. */
export function fillScreen(
  p: usize, q: usize, r: usize, op: usize, oq: usize, or: usize, n: i32,
  cp: f32, cq: f32, cr: f32, balance: f32, share: f32,
): void {
  const least = f32x4.splat(share * (cp - (balance * max<f32>(cq, cr) + (1 - balance) * min<f32>(cq, cr))));
  const w = f32x4.splat(balance);
  const rest = f32x4.splat(1 - balance);
  const kp = f32x4.splat(cp);
  const kq = f32x4.splat(cq);
  const kr = f32x4.splat(cr);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const a = v128.load(p + i);
    const b = v128.load(q + i);
    const c = v128.load(r + i);
    const full = f32x4.gt(difference(a, b, c, w, rest), least);
    v128.store(op + i, v128.bitselect(a, kp, full));
    v128.store(oq + i, v128.bitselect(b, kq, full));
    v128.store(or + i, v128.bitselect(c, kr, full));
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
    const v = f32x4.pmax(f32x4.sub(v128.load(c + i), f32x4.mul(f32x4.sub(one, m), v128.load(s + i))), zero);
    v128.store(out + i, f32x4.div(f32x4.mul(v, v128.load(a + i)), f32x4.pmax(m, least)));
  }
}

/**
 * Spill of a screen primary p over a limit made of the others: 0 their average, 1 their maximum, 2 their minimum,
 * 3 weight·q + (1 − weight)·r. Writes s = max(0, p − limit)·amount.
 */
export function spillAmount(
  p: usize, q: usize, r: usize, out: usize, n: i32, limit: i32, weight: f32, amount: f32,
): void {
  const zero = f32x4.splat(0);
  const gain = f32x4.splat(amount);
  const share: f32 = limit == 0 ? 0.5 : weight;
  const w = f32x4.splat(share);
  const rest = f32x4.splat(1 - share);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const a = v128.load(q + i);
    const b = v128.load(r + i);
    let f: v128;
    if (limit == 1) f = f32x4.pmax(a, b);
    else if (limit == 2) f = f32x4.pmin(a, b);
    else f = f32x4.add(f32x4.mul(w, a), f32x4.mul(rest, b));
    v128.store(out + i, f32x4.mul(f32x4.pmax(f32x4.sub(v128.load(p + i), f), zero), gain));
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

/** Adds a background's colour where there was spill, scaled so that it brings the luminance lost: c += b·lost·spill/luma(b). */
export function giveBackground(
  r: usize, g: usize, b: usize, br: usize, bg: usize, bb: usize, spill: usize, n: i32, lost: f32,
): void {
  const wr = f32x4.splat(0.2126);
  const wg = f32x4.splat(0.7152);
  const wb = f32x4.splat(0.0722);
  const share = f32x4.splat(lost);
  const least = f32x4.splat(1e-5);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const vr = v128.load(br + i);
    const vg = v128.load(bg + i);
    const vb = v128.load(bb + i);
    const luma = f32x4.add(f32x4.add(f32x4.mul(vr, wr), f32x4.mul(vg, wg)), f32x4.mul(vb, wb));
    const k = v128.and(f32x4.div(f32x4.mul(share, v128.load(spill + i)), luma), f32x4.gt(luma, least));
    v128.store(r + i, f32x4.add(v128.load(r + i), f32x4.mul(k, vr)));
    v128.store(g + i, f32x4.add(v128.load(g + i), f32x4.mul(k, vg)));
    v128.store(b + i, f32x4.add(v128.load(b + i), f32x4.mul(k, vb)));
  }
}

/**
 * Fades a spill plane out where a colour's hue lies within `range` radians of `keep`, with a soft outer half. Hue is the angle of
 * (2r − g − b, √3·(g − b)).
 */
export function protectHue(r: usize, g: usize, b: usize, spill: usize, n: i32, keep: f32, range: f32): void {
  const root3: f32 = 1.7320508;
  const pi: f32 = 3.14159265;
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 4) {
    const s = load<f32>(spill + i);
    if (s == 0) continue;
    const vr = load<f32>(r + i);
    const vg = load<f32>(g + i);
    const vb = load<f32>(b + i);
    let d = abs<f32>(Mathf.atan2(root3 * (vg - vb), 2 * vr - vg - vb) - keep);
    if (d > pi) d = 2 * pi - d;
    const t = min<f32>(1, max<f32>(0, (d / range - 0.5) * 2));
    store<f32>(spill + i, s * t * t * (3 - 2 * t));
  }
}
