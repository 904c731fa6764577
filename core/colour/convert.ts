import type { Kernels, Plane } from '@/kernels';
import type { ColourSpace } from '../document/types';
import type { Matrix3 } from './primaries';
import { SPACES, matricesOf } from './spaces';
import { LINEAR } from './transfer';

/** Red, green and blue planes of the same length. */
export type Planes3 = readonly [Plane, Plane, Plane];

/** Code values of a space to linear Rec.709, in place. */
export function toWorking(planes: Planes3, space: ColourSpace, kernels: Kernels): void {
  through(planes, space, SPACES[space].transfer.decode);
  turn(planes, matricesOf(space)?.toWorking, kernels);
}

/** Linear Rec.709 to code values of a space, in place. */
export function fromWorking(planes: Planes3, space: ColourSpace, kernels: Kernels): void {
  turn(planes, matricesOf(space)?.toSpace, kernels);
  through(planes, space, SPACES[space].transfer.encode);
}

function through(planes: Planes3, space: ColourSpace, curve: (v: number) => number): void {
  if (SPACES[space].transfer === LINEAR) return;
  for (const plane of planes) for (let i = 0; i < plane.length; i++) plane[i] = curve(plane[i]!);
}

/** Multiplies colours by a matrix, in place; nothing without one. */
export function turn([r, g, b]: Planes3, matrix: Matrix3 | undefined, kernels: Kernels): void {
  if (!matrix) return;
  const [x, y, z] = [r.byteOffset, g.byteOffset, b.byteOffset];
  kernels.fn.matrix3(x, y, z, x, y, z, r.length, ...matrix);
}
