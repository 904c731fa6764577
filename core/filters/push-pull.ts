import type { Kernels, Plane } from '@/kernels';

/** Planes that share one size, premultiplied by their weight (0: nothing is known there, 1: known). */
interface Level {
  planes: readonly Plane[];
  weight: Plane;
  w: number;
  h: number;
}

/** Half the size; a sample is the weighted mean of four, and fully known as soon as what lies under it adds up to one. */
function push({ fn }: Kernels, { planes, weight, w, h }: Level, take: (n: number) => Plane): Level {
  const [hw, hh] = [(w + 1) >> 1, (h + 1) >> 1];
  const half = (from: Plane): Plane => {
    const to = take(hw * hh);
    fn.sumFours(from.byteOffset, to.byteOffset, w, h);
    return to;
  };
  const next: Level = { planes: planes.map(half), weight: half(weight), w: hw, h: hh };
  const known = next.weight;
  for (const p of next.planes) fn.divideByOver1(p.byteOffset, known.byteOffset, known.length);
  fn.clampPlane(known.byteOffset, known.byteOffset, known.length, 0, 1);
  return next;
}

/** Puts what a coarser level knows under a finer one where that one does not know everything itself. */
function pull({ fn }: Kernels, { planes, weight, w, h }: Level, coarse: Level): void {
  const add = (to: Plane, from: Plane): void => fn.addOpen(to.byteOffset, weight.byteOffset, w, h, from.byteOffset, coarse.w, coarse.h);
  planes.forEach((p, k) => add(p, coarse.planes[k]!));
  // Last, since it says what is open.
  add(weight, coarse.weight);
}

/**
 * Fills what is not known from what is, smoothly, by a pyramid (the push–pull of Gortler et al. 1996). `planes`, of the kernels'
 * memory, are premultiplied by `weight` (0..1) and are changed in place, the weight too: where it becomes 1 the planes hold colour.
 * With `levels` the filling reaches about 2^levels pixels; without, it leaves nothing open wherever anything is known.
 */
export function pushPull(kernels: Kernels, planes: readonly Plane[], weight: Plane, w: number, h: number, levels = Infinity): void {
  kernels.guard(() => {
    const taken: Plane[] = [];
    const take = (n: number): Plane => {
      const plane = kernels.take(n);
      taken.push(plane);
      return plane;
    };
    const pyramid: Level[] = [{ planes, weight, w, h }];
    for (let at = pyramid[0]!; (at.w > 1 || at.h > 1) && pyramid.length <= levels;) pyramid.push((at = push(kernels, at, take)));
    for (let i = pyramid.length - 2; i >= 0; i--) pull(kernels, pyramid[i]!, pyramid[i + 1]!);
    taken.forEach((plane) => kernels.give(plane));
  });
}
