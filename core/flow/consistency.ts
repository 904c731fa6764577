import type { Kernels, Plane } from '@/kernels';
import type { Flow } from './dense';

/**
 * How far motion there and back leaves each pixel from where it started, against what may be expected: under 1 the two agree; above, the pixel is
 * hidden on the other frame or its motion is not known (Sundaram, Brox & Keutzer 2010). Takes a plane, which is the caller's.
 */
export function consistency(kernels: Kernels, there: Flow, back: Flow, w: number, h: number): Plane {
  const out = kernels.take(w * h);
  kernels.fn.flowApart(there.u.byteOffset, there.v.byteOffset, back.u.byteOffset, back.v.byteOffset, w, h, out.byteOffset);
  return out;
}
