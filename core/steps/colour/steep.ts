import type { Kernels } from '@/kernels';

/** The greatest half float: no picture is expected to be brighter. */
export const BRIGHT = 65504;
/** No light is brighter; what is multiplied with it still fits a float. */
const BRIGHTEST = 1e30;

/**
 * pivot·(x/pivot)^power over a plane in place. `most` is the greatest value that is expected in it; where that would leave a float's
 * range, what comes out ends at a great number, not at infinity, which no step after it could mend. Returns the greatest value now.
 */
export function raise({ fn }: Kernels, plane: number, n: number, power: number, pivot: number, most: number): number {
  fn.powerPlane(plane, plane, n, power, pivot);
  const now = pivot * Math.max(1, most / pivot) ** power;
  if (now <= BRIGHTEST) return now;
  fn.clampPlane(plane, plane, n, -BRIGHTEST, BRIGHTEST);
  return BRIGHTEST;
}
