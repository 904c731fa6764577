import type { Kernels, Plane } from '@/kernels';

/**
 * The light above a threshold, its colour kept, into planes of the caller's: by the greatest of the three channels; over a knee of half the
 * threshold it sets in softly.
 */
export function brightParts(from: readonly [Plane, Plane, Plane], to: readonly [Plane, Plane, Plane], threshold: number): void {
  const knee = threshold / 2;
  const [r, g, b] = from;
  for (let i = 0; i < r.length; i++) {
    const most = Math.max(r[i]!, g[i]!, b[i]!);
    const over = most - threshold;
    const soft = over <= -knee ? 0 : over >= knee ? over : (over + knee) ** 2 / (4 * knee);
    const k = most > 0 ? soft / most : 0;
    to[0][i] = k * Math.max(0, r[i]!);
    to[1][i] = k * Math.max(0, g[i]!);
    to[2][i] = k * Math.max(0, b[i]!);
  }
}

/** A level in stops over white as light. */
export const stops = (s: number): number => 2 ** s;

/** Adds a plane, scaled, to another. */
export const addTo = ({ fn }: Kernels, to: Plane, from: Plane, gain: number): void =>
  fn.addScaled(to.byteOffset, from.byteOffset, to.byteOffset, to.length, gain);
