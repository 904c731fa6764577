import type { Rect } from '../geometry/rect';
import { height, width } from '../geometry/rect';

/**
 * Copies a rectangle of a picture, rows of `stride` floats: beyond the picture's domain its edge is repeated, inside the domain where it holds nothing
 * there is 0.
 */
export function padTo(from: Float32Array, have: Rect, to: Float32Array, want: Rect, domain: Rect, stride = width(want)): void {
  const [fw, w] = [width(have), width(want)];
  // Of each row what lies before the domain, in it before what is held, held, after that, and beyond the domain.
  const clampX = (x: number): number => Math.min(want.x1, Math.max(want.x0, x)) - want.x0;
  const [inLeft, inRight] = [clampX(domain.x0), clampX(domain.x1)];
  const [heldLeft, heldRight] = [clampX(Math.max(have.x0, domain.x0)), clampX(Math.min(have.x1, domain.x1))];
  const value = (row: number, x: number): number => (x >= have.x0 && x < have.x1 ? from[row + x - have.x0]! : 0);
  for (let y = 0; y < height(want); y++) {
    const v = Math.min(domain.y1 - 1, Math.max(domain.y0, want.y0 + y));
    const at = y * stride;
    if (v < have.y0 || v >= have.y1) {
      to.fill(0, at, at + w);
      continue;
    }
    const row = (v - have.y0) * fw;
    to.fill(value(row, domain.x0), at, at + inLeft);
    to.fill(value(row, domain.x1 - 1), at + inRight, at + w);
    if (heldRight <= heldLeft) {
      to.fill(0, at + inLeft, at + inRight);
      continue;
    }
    to.fill(0, at + inLeft, at + heldLeft);
    const first = row + want.x0 + heldLeft - have.x0;
    to.set(from.subarray(first, first + heldRight - heldLeft), at + heldLeft);
    to.fill(0, at + heldRight, at + inRight);
  }
}
