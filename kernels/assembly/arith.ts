// Plane arithmetic: one or two planes in, one out.
import { clampx4 } from './math';

/**
 * Copies h rows of w floats, `stride` floats apart, into rows of left + w + right floats that follow each other, with zeros at
 * both sides.
 */
export function copyRows(x: usize, stride: i32, out: usize, w: i32, h: i32, left: i32, right: i32): void {
  const from = (<usize>stride) << 2;
  const row = (<usize>w) << 2;
  const before = (<usize>left) << 2;
  const after = (<usize>right) << 2;
  for (let y = 0; y < h; y++, x += from) {
    memory.fill(out, 0, before);
    out += before;
    memory.copy(out, x, row);
    out += row;
    memory.fill(out, 0, after);
    out += after;
  }
}

/** Copies h rows of w floats from one plane's rows, `stride` floats apart, to another's. */
export function copyPart(x: usize, stride: i32, out: usize, outStride: i32, w: i32, h: i32): void {
  if (w == stride && w == outStride) {
    memory.copy(out, x, (<usize>(w * h)) << 2);
    return;
  }
  for (let y = 0; y < h; y++, x += (<usize>stride) << 2, out += (<usize>outStride) << 2) memory.copy(out, x, (<usize>w) << 2);
}

/** out = x·gain + offset */
export function affine(x: usize, out: usize, n: i32, gain: f32, offset: f32): void {
  const g = f32x4.splat(gain);
  const o = f32x4.splat(offset);
  const end = x + ((<usize>n) << 2);
  for (; x + 48 < end; x += 64, out += 64) {
    v128.store(out, f32x4.add(f32x4.mul(v128.load(x), g), o));
    v128.store(out, f32x4.add(f32x4.mul(v128.load(x, 16), g), o), 16);
    v128.store(out, f32x4.add(f32x4.mul(v128.load(x, 32), g), o), 32);
    v128.store(out, f32x4.add(f32x4.mul(v128.load(x, 48), g), o), 48);
  }
  for (; x < end; x += 16, out += 16) v128.store(out, f32x4.add(f32x4.mul(v128.load(x), g), o));
}

/** A plane of a table's values by the square of the distance from the origin, times `scale`, between its entries; x, y is the middle of the first of w × h pixels. */
export function radialPlane(table: usize, scale: f64, x: f64, y: f64, w: i32, h: i32, out: usize): void {
  for (let j = 0; j < h; j++) {
    const dy = y + <f64>j;
    for (let i = 0; i < w; i++, out += 4) {
      const dx = x + <f64>i;
      const t = (dy * dy + dx * dx) * scale;
      const k = <i32>t;
      const at = table + ((<usize>k) << 2);
      const a = load<f32>(at);
      store<f32>(out, a + <f32>(t - <f64>k) * (load<f32>(at, 4) - a));
    }
  }
}

/** out = a·b */
export function multiply(a: usize, b: usize, out: usize, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    v128.store(out + i, f32x4.mul(v128.load(a + i), v128.load(b + i)));
  }
}

/** out = a + b·gain */
export function addScaled(a: usize, b: usize, out: usize, n: i32, gain: f32): void {
  const g = f32x4.splat(gain);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    v128.store(out + i, f32x4.add(v128.load(a + i), f32x4.mul(v128.load(b + i), g)));
  }
}

/** out = c / a where a > 0, else c */
export function unpremultiply(c: usize, a: usize, out: usize, n: i32): void {
  const zero = f32x4.splat(0);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const v = v128.load(c + i);
    const w = v128.load(a + i);
    v128.store(out + i, v128.bitselect(f32x4.div(v, w), v, f32x4.gt(w, zero)));
  }
}

/** out = c·a where a > 0, else c: the exact partner of unpremultiply */
export function repremultiply(c: usize, a: usize, out: usize, n: i32): void {
  const zero = f32x4.splat(0);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const v = v128.load(c + i);
    const w = v128.load(a + i);
    v128.store(out + i, v128.bitselect(f32x4.mul(v, w), v, f32x4.gt(w, zero)));
  }
}

/** out = c·a where a > 0; else c where there was light before, and nothing where there was nothing. */
export function repremultiplyLight(c: usize, a: usize, before: usize, out: usize, n: i32): void {
  const zero = f32x4.splat(0);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const v = v128.load(c + i);
    const w = v128.load(a + i);
    const light = v128.andnot(v, f32x4.eq(v128.load(before + i), zero));
    v128.store(out + i, v128.bitselect(f32x4.mul(v, w), light, f32x4.gt(w, zero)));
  }
}

/** out = c / before · after where before > 0, else c·after: premultiplied colour that follows another alpha */
export function carryAlpha(c: usize, before: usize, after: usize, out: usize, n: i32): void {
  const zero = f32x4.splat(0);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const v = v128.load(c + i);
    const w = v128.load(before + i);
    const own = v128.bitselect(f32x4.div(v, w), v, f32x4.gt(w, zero));
    v128.store(out + i, f32x4.mul(own, v128.load(after + i)));
  }
}

/** out = min(max(x, low), high); each side can be left open with an infinity */
export function clampPlane(x: usize, out: usize, n: i32, low: f32, high: f32): void {
  const lo = f32x4.splat(low);
  const hi = f32x4.splat(high);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    v128.store(out + i, clampx4(v128.load(x + i), lo, hi));
  }
}

/** out = min(max(x·gain + offset, low), high) */
export function affineClamped(x: usize, out: usize, n: i32, gain: f32, offset: f32, low: f32, high: f32): void {
  const g = f32x4.splat(gain);
  const o = f32x4.splat(offset);
  const lo = f32x4.splat(low);
  const hi = f32x4.splat(high);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    v128.store(out + i, clampx4(f32x4.add(f32x4.mul(v128.load(x + i), g), o), lo, hi));
  }
}

/** out = before + mix·(after − before) */
export function mixPlane(before: usize, after: usize, out: usize, n: i32, mix: f32): void {
  const m = f32x4.splat(mix);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const b = v128.load(before + i);
    v128.store(out + i, f32x4.add(b, f32x4.mul(f32x4.sub(v128.load(after + i), b), m)));
  }
}

/** out = before + mix·mask·(after − before) */
export function mixMasked(before: usize, after: usize, mask: usize, out: usize, n: i32, mix: f32): void {
  const m = f32x4.splat(mix);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const b = v128.load(before + i);
    const share = f32x4.mul(v128.load(mask + i), m);
    v128.store(out + i, f32x4.add(b, f32x4.mul(f32x4.sub(v128.load(after + i), b), share)));
  }
}

/** out = max(a, b), or min(a, b); NaN where either is */
export function maxPlane(a: usize, b: usize, out: usize, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    v128.store(out + i, f32x4.max(v128.load(a + i), v128.load(b + i)));
  }
}
export function minPlane(a: usize, b: usize, out: usize, n: i32): void {
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    v128.store(out + i, f32x4.min(v128.load(a + i), v128.load(b + i)));
  }
}
