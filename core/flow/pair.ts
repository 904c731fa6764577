import type { Kernels, Plane } from '@/kernels';
import { LUMA } from '../colour/transfer';
import { seen } from '../readings/gray';
import { consistency } from './consistency';
import type { Flow, Level } from './dense';
import { denseFlow, giveLevels, levelsOf } from './dense';

/** Pixels of a picture whose motion is looked at whole, and at every second pixel. */
const [WHOLE, HALF] = [130_000, 2_500_000];

/** Halvings that are left out at the fine end: grain does less harm there, and 960×540 and HD take a fifth of a second and one. */
export const usualFinest = (w: number, h: number): number => (w * h <= WHOLE ? 0 : w * h <= HALF ? 1 : 2);

/** Luma as it is seen, white at 255. */
export function seenLuma(r: Float32Array, g: Float32Array, b: Float32Array): Float32Array {
  const out = new Float32Array(r.length);
  const [kr, kg, kb] = LUMA;
  for (let i = 0; i < out.length; i++) out[i] = 255 * seen(kr * r[i]! + kg * g[i]! + kb * b[i]!);
  return out;
}

/** Motion one way, by what is seen. Takes two planes, which are the caller's. */
export function flowOf(kernels: Kernels, from: Float32Array, to: Float32Array, w: number, h: number, poll: () => void): Flow {
  return kernels.guard(() => {
    const [a, b] = [levelsOf(kernels, from, w, h), levelsOf(kernels, to, w, h)];
    const flow = denseFlow(kernels, a, b, { finest: usualFinest(w, h) }, poll);
    [a, b].forEach((l) => giveLevels(kernels, l));
    return flow;
  });
}

/** Motion between two pictures both ways, and where each is hidden on the other: `consistency`. */
export interface FlowPair {
  readonly there: Flow;
  readonly back: Flow;
  readonly apart: Plane;
  readonly apartBack: Plane;
}

/** Of two pictures of one size, by what is seen of them. Give it back by `givePair`. */
export function flowPair(
  kernels: Kernels,
  from: Float32Array,
  to: Float32Array,
  w: number,
  h: number,
  poll: () => void,
  finest = usualFinest(w, h),
): FlowPair {
  return kernels.guard(() => {
    const levels: Level[][] = [from, to].map((g) => levelsOf(kernels, g, w, h));
    const [a, b] = levels as [Level[], Level[]];
    const there = denseFlow(kernels, a, b, { finest }, poll);
    const back = denseFlow(kernels, b, a, { finest }, poll);
    levels.forEach((l) => giveLevels(kernels, l));
    return knownPair(kernels, there, back, w, h);
  });
}

/** The same of motion that is known already; both planes of each stay the caller's to give by `givePair`. */
export const knownPair = (kernels: Kernels, there: Flow, back: Flow, w: number, h: number): FlowPair => ({
  there,
  back,
  apart: consistency(kernels, there, back, w, h),
  apartBack: consistency(kernels, back, there, w, h),
});

export const givePair = (kernels: Kernels, { there, back, apart, apartBack }: FlowPair): void =>
  [there.u, there.v, back.u, back.v, apart, apartBack].forEach((p) => kernels.give(p));
