export { random } from '@/core/random';

/** Seeded, stateless noise, so that every frame can be made on its own and again byte for byte. */

/** A hash of whole numbers to [0, 1). */
export function hash(x: number, y: number, seed: number): number {
  let h = Math.imul(x, 374761393) ^ Math.imul(y, 668265263) ^ Math.imul(seed, 2246822519);
  h = Math.imul(h ^ (h >>> 13), 1274126177);
  h = Math.imul(h ^ (h >>> 16), 2654435761);
  return ((h ^ (h >>> 15)) >>> 0) / 4294967296;
}

/** Value noise, smooth, in [0, 1). */
export function valueNoise(x: number, y: number, seed: number): number {
  const [i, j] = [Math.floor(x), Math.floor(y)];
  const ease = (t: number): number => t * t * (3 - 2 * t);
  const [u, v] = [ease(x - i), ease(y - j)];
  const a = hash(i, j, seed) * (1 - u) + hash(i + 1, j, seed) * u;
  const b = hash(i, j + 1, seed) * (1 - u) + hash(i + 1, j + 1, seed) * u;
  return a * (1 - v) + b * v;
}

/** Four octaves of value noise, mean ½. */
export function fractal(x: number, y: number, seed: number): number {
  let sum = 0;
  for (let o = 0, k = 1; o < 4; o++, k *= 2) sum += valueNoise(x * k, y * k, seed + o) / k;
  return sum / 1.875;
}

/** A normal deviate from two uniform ones (Box & Muller 1958). */
export const normal = (u: number, v: number): number => Math.sqrt(-2 * Math.log(1 - u)) * Math.cos(2 * Math.PI * v);
