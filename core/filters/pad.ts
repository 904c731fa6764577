import type { Rect } from '../geometry/rect';
import { height, width } from '../geometry/rect';

/**
 * Copies a rectangle of a picture, rows of `stride` floats: beyond the picture's domain its edge is repeated, inside the domain where it holds nothing
 * there is 0.
 */
export function padTo(from: Float32Array, have: Rect, to: Float32Array, want: Rect, domain: Rect, stride = width(want)): void {
  const [fw, w] = [width(have), width(want)];
  for (let y = 0; y < height(want); y++) {
    const v = Math.min(domain.y1 - 1, Math.max(domain.y0, want.y0 + y));
    const row = v >= have.y0 && v < have.y1;
    for (let x = 0; x < w; x++) {
      const u = Math.min(domain.x1 - 1, Math.max(domain.x0, want.x0 + x));
      to[y * stride + x] = row && u >= have.x0 && u < have.x1 ? from[(v - have.y0) * fw + u - have.x0]! : 0;
    }
  }
}
