import type { Kernels, Plane } from '@/kernels';
import type { Rect } from '../geometry/rect';
import { area, height, intersect, isEmpty, sameRect, width } from '../geometry/rect';

/** Where a place of a rectangle lies in a plane that holds it, as a pointer. */
export const placeIn = (plane: Plane, region: Rect, x: number, y: number): number =>
  plane.byteOffset + 4 * ((y - region.y0) * width(region) + x - region.x0);

/** Copies what both rectangles share from a plane that holds `have` to one that holds `want`. */
export function copyShared({ fn }: Kernels, from: Plane, have: Rect, to: Plane, want: Rect): void {
  const both = intersect(have, want);
  if (isEmpty(both)) return;
  const place = (plane: Plane, r: Rect): number => placeIn(plane, r, both.x0, both.y0);
  fn.copyPart(place(from, have), width(have), place(to, want), width(want), width(both), height(both));
}

/** A new plane over `want`, zero where the given one has nothing. */
export function copyInto(kernels: Kernels, from: Plane, have: Rect, want: Rect): Plane {
  const out = kernels.take(area(want));
  const both = intersect(have, want);
  if (isEmpty(both)) return out.fill(0);
  const w = width(want);
  const [top, end] = [(both.y0 - want.y0) * w, (both.y1 - want.y0) * w];
  out.fill(0, 0, top);
  const first = placeIn(from, have, both.x0, both.y0);
  const to = out.byteOffset + 4 * top;
  kernels.fn.copyRows(first, width(have), to, width(both), height(both), both.x0 - want.x0, want.x1 - both.x1);
  return out.fill(0, end);
}

/** A plane over another rectangle, zero where it has nothing: the plane itself where the two are one, to be read only, else a copy. */
export function copyOver(kernels: Kernels, from: Plane, have: Rect, want: Rect, take: (n: number) => Plane): Plane {
  if (sameRect(have, want)) return from;
  const out = take(area(want)).fill(0);
  copyShared(kernels, from, have, out, want);
  return out;
}
