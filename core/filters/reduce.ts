import type { Kernels, Plane } from '@/kernels';
import type { Rect } from '../geometry/rect';
import { area, height, rect, sameRect, width } from '../geometry/rect';

/** The rectangle at 1/factor that holds all of another. */
export const reducedRect = (r: Rect, factor: number): Rect =>
  rect(Math.floor(r.x0 / factor), Math.floor(r.y0 / factor), Math.ceil(r.x1 / factor), Math.ceil(r.y1 / factor));

export const enlargedRect = (r: Rect, factor: number): Rect => rect(r.x0 * factor, r.y0 * factor, r.x1 * factor, r.y1 * factor);

/** A plane over a larger rectangle, its edges repeated outward; the plane itself where nothing is added. */
export function repeatEdges(kernels: Kernels, plane: Plane, have: Rect, want: Rect): Plane {
  if (sameRect(have, want)) return plane;
  const [hw, ww] = [width(have), width(want)];
  const out = kernels.take(area(want));
  const [left, right] = [have.x0 - want.x0, want.x1 - have.x1];
  for (let y = 0; y < height(want); y++) {
    const from = Math.min(height(have) - 1, Math.max(0, y + want.y0 - have.y0)) * hw;
    out.set(plane.subarray(from, from + hw), y * ww + left);
    if (left > 0) out.fill(plane[from]!, y * ww, y * ww + left);
    if (right > 0) out.fill(plane[from + hw - 1]!, (y + 1) * ww - right, (y + 1) * ww);
  }
  return out;
}

/** The means of blocks of factor × factor pixels, over reducedRect: a pool plane. Blocks at the edge repeat it. */
export function boxReduced(kernels: Kernels, plane: Plane, have: Rect, factor: number): Plane {
  const to = reducedRect(have, factor);
  const wide = enlargedRect(to, factor);
  const padded = repeatEdges(kernels, plane, have, wide);
  const out = kernels.take(area(to));
  kernels.fn.boxReduce(padded.byteOffset, out.byteOffset, width(to), height(to), width(wide), factor);
  if (padded !== plane) kernels.give(padded);
  return out;
}
