import type { Homography } from '../geometry/homography';
import { applyHomography } from '../geometry/homography';
import type { GrayFrame } from './gray';
import { frameOf } from './gray';

/** Smooth, rich and without repeats: some waves of many directions. Values about 0..1. */
export function texture(x: number, y: number, seed = 1): number {
  let sum = 0;
  for (let k = 0; k < 7; k++) {
    const a = 2.399963 * (k + 1) * seed;
    const f = 0.06 + 0.09 * k;
    sum += Math.sin(f * (x * Math.cos(a) + y * Math.sin(a)) + 1.7 * k * seed) / (1 + 0.12 * k);
  }
  return 0.5 + 0.13 * sum;
}

export interface Shake {
  gain?: number;
  bias?: number;
  noise?: number;
  seed?: number;
}

/** A picture of the texture seen through the inverse of a map, with noise. */
export function seenThrough(
  inverse: Homography,
  width: number,
  height: number,
  { gain = 1, bias = 0, noise = 0, seed = 1 }: Shake = {},
  over?: (x: number, y: number) => number | null,
): GrayFrame {
  let state = seed * 7919 + 17;
  const next = (): number => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 4294967296;
  };
  const data = new Float32Array(width * height);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      const [u, v] = applyHomography(inverse, x + 0.5, y + 0.5);
      const grain = noise * (next() + next() + next() - 1.5) * 2;
      data[i] = (over?.(x + 0.5, y + 0.5) ?? texture(u, v)) * gain + bias + grain;
    }
  }
  return frameOf({ width, height, data });
}
