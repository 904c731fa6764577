import { LRUCache } from 'lru-cache';
import type { Aperture } from '../filters/aperture';
import { spansOf } from '../filters/aperture';
import { powerSpectrum } from './fft';

const SIDE = 256;
/** Of the aperture in the square, px: small, so that its pattern is wide. */
const RADIUS = 28;
/** Patterns that were worked out, by their aperture. */
const kept = new LRUCache<string, Float32Array>({ max: 16 });

/**
 * What an aperture makes of a point of light far away: the square of its Fourier transform (Fraunhofer), as a square whose middle is the point, its greatest value 1.
 * The middle of the pattern is the light itself.
 */
export function starburst(aperture: Aperture): { pattern: Float32Array; side: number } {
  const key = JSON.stringify(aperture);
  let pattern = kept.get(key);
  if (!pattern) {
    const square = new Float64Array(SIDE * SIDE);
    const { list } = spansOf(RADIUS, aperture);
    for (let s = 0; s < list.length; s += 4) {
      const row = SIDE / 2 + list[s]!;
      const [l, r] = [SIDE / 2 + list[s + 1]! + 0.5, SIDE / 2 + list[s + 2]! + 0.5];
      for (let x = Math.floor(l); x < r; x++) square[row * SIDE + x] = Math.max(0, Math.min(x + 1, r) - Math.max(x, l));
    }
    const power = powerSpectrum(square, SIDE);
    const most = power[(SIDE / 2) * SIDE + SIDE / 2]!;
    pattern = Float32Array.from(power, (v) => v / most);
    kept.set(key, pattern);
  }
  return { pattern, side: SIDE };
}

/** The pattern between its samples, at a place from the middle. */
export function patternAt({ pattern, side }: { pattern: Float32Array; side: number }, x: number, y: number): number {
  const [u, v] = [x + side / 2, y + side / 2];
  const [i, j] = [Math.floor(u), Math.floor(v)];
  if (i < 0 || j < 0 || i + 1 >= side || j + 1 >= side) return 0;
  const [s, t] = [u - i, v - j];
  const p = j * side + i;
  const top = pattern[p]! + s * (pattern[p + 1]! - pattern[p]!);
  const bottom = pattern[p + side]! + s * (pattern[p + side + 1]! - pattern[p + side]!);
  return top + t * (bottom - top);
}
