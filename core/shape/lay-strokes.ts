import type { Rect } from '../geometry/rect';
import { area, height, width } from '../geometry/rect';
import type { Stroke } from './strokes';
import { squaredDistance } from './strokes';

/** What strokes laid one after the other come to: coverage in 0..1, and colour multiplied by it. */
export interface Laid {
  coverage: Float32Array;
  colour: readonly [Float32Array, Float32Array, Float32Array];
}

/** The pixels of a region that a stroke can reach, as x0, y0, x1, y1 from the region's corner; null where there are none. */
function reach(x0: number, y0: number, x1: number, y1: number, r: number, region: Rect): readonly [number, number, number, number] | null {
  const box = [
    Math.max(0, Math.floor(Math.min(x0, x1) - r) - region.x0),
    Math.max(0, Math.floor(Math.min(y0, y1) - r) - region.y0),
    Math.min(width(region), Math.ceil(Math.max(x0, x1) + r) - region.x0),
    Math.min(height(region), Math.ceil(Math.max(y0, y1) + r) - region.y0),
  ] as const;
  return box[0] < box[2] && box[1] < box[3] ? box : null;
}

/**
 * Coverage of one stroke at a proxy scale, in 0..flow: full within its hard core, easing to none at its radius; an edge is never
 * sharper than a pixel. Returns false where the stroke does not reach the region.
 */
export function strokeCoverage(stroke: Stroke, scale: number, region: Rect, to: Float32Array): boolean {
  const w = width(region);
  const half = 0.5;
  const r = Math.max(half, (stroke.size * scale) / 2);
  const outer = r + half;
  const core = Math.min(stroke.hardness * r, r - half);
  const { points } = stroke;
  const at = (k: number): number => points[k]! * scale;
  // A plane is gone through only for a stroke that reaches it.
  let any = false;
  for (let k = 0; k < Math.max(1, points.length / 2 - 1); k++) {
    const [x0, y0] = [at(2 * k), at(2 * k + 1)];
    const [x1, y1] = 2 * k + 3 < points.length ? [at(2 * k + 2), at(2 * k + 3)] : [x0, y0];
    const box = reach(x0, y0, x1, y1, outer, region);
    if (!box) continue;
    if (!any) to.fill(Infinity);
    any = true;
    for (let y = box[1]; y < box[3]; y++) {
      for (let x = box[0]; x < box[2]; x++) {
        const d = squaredDistance(region.x0 + x + half, region.y0 + y + half, x0, y0, x1, y1);
        if (d < to[y * w + x]!) to[y * w + x] = d;
      }
    }
  }
  if (!any) return false;
  for (let i = 0; i < to.length; i++) {
    const d2 = to[i]!;
    if (d2 >= outer * outer) {
      to[i] = 0;
      continue;
    }
    const t = (outer - Math.sqrt(d2)) / (outer - core);
    to[i] = stroke.flow * (t >= 1 ? 1 : t * t * (3 - 2 * t));
  }
  return true;
}

/** Strokes over each other in their order; erasing ones take away from those before them. */
export function layStrokes(strokes: readonly Stroke[], scale: number, region: Rect): Laid {
  const n = area(region);
  const coverage = new Float32Array(n);
  const colour = [new Float32Array(n), new Float32Array(n), new Float32Array(n)] as const;
  const one = new Float32Array(n);
  for (const stroke of strokes) {
    if (!strokeCoverage(stroke, scale, region, one)) continue;
    const add = stroke.tool === 'paint' ? 1 : 0;
    const [r, g, b] = stroke.colour as [number, number, number];
    for (let i = 0; i < n; i++) {
      const c = one[i]!;
      if (c === 0) continue;
      const [keep, put] = [1 - c, c * add];
      coverage[i] = coverage[i]! * keep + put;
      colour[0][i] = colour[0][i]! * keep + put * r;
      colour[1][i] = colour[1][i]! * keep + put * g;
      colour[2][i] = colour[2][i]! * keep + put * b;
    }
  }
  return { coverage, colour };
}
