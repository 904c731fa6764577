import type { Kernels, Plane } from '@/kernels';

/** Rows and columns of the guided filter's planes are padded to a multiple of this. */
const GRAIN = 16;
export const padded = (n: number): number => Math.ceil(n / GRAIN) * GRAIN;

/** Planes of means: r g b, their six products, the input, and its products with r, g, b. */
const MEANS = 13;
const INPUT = 9;
const WITH_INPUT = 10;

/**
 * The guided filter with a colour guide (He, Sun and Tang 2010): in each window of (2·radius + 1)² the input is explained as an
 * affine function of the guide's colour, with variances under ε held flat; a pixel takes the mean of the windows that it lies in.
 * Planes have rows of padded(w) floats, padded(h) of them; the padding may hold anything. Cost does not grow with the radius.
 * Returns a pool plane.
 */
export function guidedFilter(
  kernels: Kernels,
  guide: readonly [Plane, Plane, Plane],
  input: Plane,
  w: number,
  h: number,
  radius: number,
  epsilon: number,
): Plane {
  return kernels.guard(() => {
    const { fn } = kernels;
    const [sw, sh] = [padded(w), padded(h)];
    const n = sw * sh;
    const means = kernels.take(MEANS * n);
    const [one, two] = [kernels.take(n), kernels.take(n)];
    const mean = (k: number): number => means.byteOffset + 4 * n * k;
    const [r, g, b] = guide.map((p) => p.byteOffset) as [number, number, number];
    const p = input.byteOffset;
    const sides: (readonly [number, number?])[] = [
      [r],
      [g],
      [b],
      [r, r],
      [r, g],
      [r, b],
      [g, g],
      [g, b],
      [b, b],
      [p],
      [r, p],
      [g, p],
      [b, p],
    ];
    // Means over columns, turned, and over columns again: the means lie on their side.
    sides.forEach(([x, y], k) => {
      if (y !== undefined) fn.multiply(x, y, one.byteOffset, n);
      fn.boxColumns(y === undefined ? x : one.byteOffset, two.byteOffset, sw, h, radius);
      fn.transpose(two.byteOffset, one.byteOffset, sw, sh);
      fn.boxColumns(one.byteOffset, mean(k), sh, w, radius);
    });
    fn.colourFit(means.byteOffset, 4 * n, n, epsilon);
    // The means of the windows' own fits, turned back.
    [WITH_INPUT, WITH_INPUT + 1, WITH_INPUT + 2, INPUT].forEach((k, to) => {
      fn.boxColumns(mean(k), one.byteOffset, sh, w, radius);
      fn.transpose(one.byteOffset, two.byteOffset, sh, sw);
      fn.boxColumns(two.byteOffset, mean(to), sw, h, radius);
    });
    fn.affineOfColour(mean(0), mean(1), mean(2), mean(3), r, g, b, one.byteOffset, n);
    [means, two].forEach((plane) => kernels.give(plane));
    return one;
  });
}
