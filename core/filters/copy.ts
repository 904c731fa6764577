import type { Kernels, Plane } from '@/kernels';
import type { Rect } from '../geometry/rect';
import { area, intersect, isEmpty, sameRect, width } from '../geometry/rect';

/** Copies what both rectangles share from a plane that holds `have` to one that holds `want`. */
export function copyShared(from: Plane, have: Rect, to: Plane, want: Rect): void {
  if (sameRect(have, want)) return to.set(from);
  const both = intersect(have, want);
  if (isEmpty(both)) return;
  const [hw, ww, n] = [width(have), width(want), width(both)];
  for (let y = both.y0; y < both.y1; y++) {
    const at = (y - have.y0) * hw + both.x0 - have.x0;
    to.set(from.subarray(at, at + n), (y - want.y0) * ww + both.x0 - want.x0);
  }
}

/** A new plane over `want`, zero where the given one has nothing. */
export function copyInto(kernels: Kernels, from: Plane, have: Rect, want: Rect): Plane {
  const out = kernels.take(area(want));
  if (!sameRect(have, want)) out.fill(0);
  copyShared(from, have, out, want);
  return out;
}
