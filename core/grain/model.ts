import * as yup from 'yup';
import { isNumbers, listOf } from '../params/list-of';

/** Samples from a kernel's middle outward, each way: a quarter of it, since it is the same to all four sides. */
export const QUARTER = 4;
export const SIDE = 2 * QUARTER - 1;

/** The grain of one channel of a plate: R, G, B in a list. */
export interface ChannelGrain {
  /** a, b, c: its variance at the light v is a + b·v + c·v² (scene-linear). */
  variance: readonly number[];
  /** What white noise is smoothed by: QUARTER² weights of a quarter, the middle first, row by row. Its squares sum to 1 over the whole. */
  kernel: readonly number[];
  /** How much of the white noise of R, G and B is in it: a row of a lower triangle, its squares summing to 1. */
  mix: readonly number[];
}

const numbers = (count: number) =>
  yup
    .mixed(isNumbers)
    .required()
    .test('count', `\${path} has not ${count} numbers`, (v) => v.length === count);
const item = yup.object({ variance: numbers(3), kernel: numbers(QUARTER * QUARTER), mix: numbers(3) }).required();
const list = listOf<ChannelGrain>(item, 'its grain is damaged; measure it again');

/** The grain of a parameter; an empty list is none. Throws ShotError where it is no such. */
export function grainOf(value: unknown): readonly ChannelGrain[] {
  const all = list(value);
  return all.length === 3 ? all : [];
}

/** White noise as strong at every light, for what has none of its own. */
export const evenGrain = (variance: number): ChannelGrain[] =>
  [0, 1, 2].map((c) => ({
    variance: [variance, 0, 0],
    kernel: Array.from({ length: QUARTER * QUARTER }, (_, i) => (i === 0 ? 1 : 0)),
    mix: [0, 1, 2].map((k) => (k === c ? 1 : 0)),
  }));

/** A kernel whole, SIDE×SIDE, row by row. */
export const wholeKernel = ({ kernel }: Pick<ChannelGrain, 'kernel'>): Float32Array =>
  Float32Array.from({ length: SIDE * SIDE }, (_, i) => {
    const [x, y] = [Math.abs((i % SIDE) - QUARTER + 1), Math.abs(Math.floor(i / SIDE) - QUARTER + 1)];
    return kernel[y * QUARTER + x]!;
  });

/** How like its own neighbour at a distance the grain is, 1 at 0. */
function likeness(k: Float32Array, dx: number, dy: number): number {
  let sum = 0;
  for (let y = 0; y < SIDE; y++) {
    for (let x = 0; x < SIDE; x++) {
      const [u, v] = [x + dx, y + dy];
      if (u >= 0 && v >= 0 && u < SIDE && v < SIDE) sum += k[y * SIDE + x]! * k[v * SIDE + u]!;
    }
  }
  return sum;
}

/** Standard deviation at a light. */
export const sigmaAt = ({ variance: [a, b, c] }: ChannelGrain, v: number): number => Math.sqrt(Math.max(0, a! + b! * v + c! * v * v));

/** The size of a grain, px: the side of the square whose noise would be as even seen from afar; white noise has 1. */
export function sizeOf(grain: Pick<ChannelGrain, 'kernel'>): number {
  const k = wholeKernel(grain);
  let sum = 0;
  for (const v of k) sum += v;
  return Math.abs(sum);
}

/** What is left of its strength where so many pixels each way are seen as one, as a proxy does. */
export function shareAt(grain: ChannelGrain, scale: number): number {
  const b = Math.round(1 / scale);
  if (b <= 1) return 1;
  const k = wholeKernel(grain);
  let sum = 0;
  for (let y = 1 - b; y < b; y++) for (let x = 1 - b; x < b; x++) sum += (1 - Math.abs(x) / b) * (1 - Math.abs(y) / b) * likeness(k, x, y);
  return Math.sqrt(Math.max(0, sum)) / b;
}
