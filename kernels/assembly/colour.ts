// Power functions and saturation.
import { powx4 } from './math';

/** out = pivot·(x/pivot)^exponent where x > 0, else x */
export function powerPlane(x: usize, out: usize, n: i32, exponent: f32, pivot: f32): void {
  const e = f32x4.splat(exponent);
  const p = f32x4.splat(pivot);
  const inv = f32x4.splat(1 / pivot);
  const zero = f32x4.splat(0);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const v = v128.load(x + i);
    const lit = f32x4.gt(v, zero);
    // Nothing's power would end among the subnormal floats, which processors multiply a hundred times as slowly.
    const y = f32x4.mul(powx4(f32x4.mul(v128.bitselect(v, p, lit), inv), e), p);
    v128.store(out + i, v128.bitselect(y, v, lit));
  }
}

/** c' = luma + saturation·(c − luma), luma by Rec.709 weights; in place on three planes */
export function saturate(r: usize, g: usize, b: usize, n: i32, saturation: f32): void {
  const s = f32x4.splat(saturation);
  const wr = f32x4.splat(0.2126);
  const wg = f32x4.splat(0.7152);
  const wb = f32x4.splat(0.0722);
  for (let i: usize = 0, end = (<usize>n) << 2; i < end; i += 16) {
    const vr = v128.load(r + i);
    const vg = v128.load(g + i);
    const vb = v128.load(b + i);
    const y = f32x4.add(f32x4.add(f32x4.mul(vr, wr), f32x4.mul(vg, wg)), f32x4.mul(vb, wb));
    v128.store(r + i, f32x4.add(y, f32x4.mul(f32x4.sub(vr, y), s)));
    v128.store(g + i, f32x4.add(y, f32x4.mul(f32x4.sub(vg, y), s)));
    v128.store(b + i, f32x4.add(y, f32x4.mul(f32x4.sub(vb, y), s)));
  }
}
