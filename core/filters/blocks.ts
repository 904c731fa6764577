import type { Kernels, Plane } from '@/kernels';
import type { Rect } from '../geometry/rect';
import { grow, height, intersect, isEmpty, rect, sameRect, width } from '../geometry/rect';

/** Pixels of a block's side. */
const SIDE = 128;

/** The one value that a plane holds all over a part of it; undefined where there are several, or the part reaches outside. */
function onlyValue(kernels: Kernels, plane: Plane, have: Rect, part: Rect): number | undefined {
  if (isEmpty(part) || !sameRect(intersect(part, have), part)) return undefined;
  const w = width(have);
  const first = (part.y0 - have.y0) * w + part.x0 - have.x0;
  const value = plane[first]!;
  return kernels.fn.allEqualIn(plane.byteOffset + 4 * first, w, width(part), height(part), value) ? value : undefined;
}

/**
 * For filters that leave a flat picture flat, which mattes mostly are: fills `out` over `want` where the plane, which holds
 * `have`, has one value within `pad` pixels, and returns the rectangles that are left to be worked out. Pixels outside `domain`
 * count as missing. `flat` says what such a value becomes; undefined where that is not known.
 */
export function fillFlat(
  kernels: Kernels,
  plane: Plane,
  have: Rect,
  out: Plane,
  want: Rect,
  pad: number,
  domain: Rect,
  flat: (value: number) => number | undefined,
): Rect[] {
  const busy: Rect[] = [];
  const w = width(want);
  for (let y = want.y0; y < want.y1; y += SIDE) {
    // Neighbours that are all busy are worked out in one go.
    let from = NaN;
    const close = (to: number): void => {
      if (!Number.isNaN(from)) busy.push(rect(from, y, to, Math.min(y + SIDE, want.y1)));
      from = NaN;
    };
    for (let x = want.x0; x < want.x1; x += SIDE) {
      const block = intersect(rect(x, y, x + SIDE, y + SIDE), want);
      const value = onlyValue(kernels, plane, have, intersect(grow(block, pad), domain));
      const made = value === undefined ? undefined : flat(value);
      if (made === undefined) {
        if (Number.isNaN(from)) from = x;
        continue;
      }
      close(x);
      for (let row = block.y0; row < block.y1; row++) {
        const at = (row - want.y0) * w + block.x0 - want.x0;
        out.fill(made, at, at + width(block));
      }
    }
    close(want.x1);
  }
  return busy;
}
