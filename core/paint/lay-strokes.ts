import type { Rect } from '../geometry/rect';
import { area, intersect, isEmpty, rect, width } from '../geometry/rect';
import type { LaidStroke } from './pose';

/** Coverage of a stroke over the pixels that it reaches. */
export interface Covered {
  readonly box: Rect;
  readonly data: Float32Array;
}

/**
 * Coverage of one stroke at a proxy scale, in 0..flow: full within its hard core, easing to none at its radius; an edge is never sharper than a pixel.
 * A stroke does not add to itself. Null where it does not reach the region.
 */
export function strokeCoverage({ stroke, points, size }: LaidStroke, scale: number, region: Rect): Covered | null {
  const { pressure, hardness, flow } = stroke;
  const half = 0.5;
  const most = Math.max(half, (size * scale) / 2) + half;
  const n = points.length / 2;
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k < points.length; k += 2) {
    x0 = Math.min(x0, points[k]!);
    x1 = Math.max(x1, points[k]!);
    y0 = Math.min(y0, points[k + 1]!);
    y1 = Math.max(y1, points[k + 1]!);
  }
  const reach = rect(
    Math.floor(x0 * scale - most),
    Math.floor(y0 * scale - most),
    Math.ceil(x1 * scale + most),
    Math.ceil(y1 * scale + most),
  );
  const box = intersect(reach, region);
  if (isEmpty(box)) return null;
  const w = width(box);
  const data = new Float32Array(area(box));
  const radius = (k: number): number => Math.max(half, ((size * scale) / 2) * (pressure ? pressure[k]! : 1));
  for (let k = 0; k < Math.max(1, n - 1); k++) {
    const [ax, ay] = [points[2 * k]! * scale, points[2 * k + 1]! * scale];
    const last = Math.min(n - 1, k + 1);
    const [bx, by] = [points[2 * last]! * scale, points[2 * last + 1]! * scale];
    const [ra, rb] = [radius(k), radius(last)];
    const r = Math.max(ra, rb) + half;
    const [dx, dy] = [bx - ax, by - ay];
    const length = dx * dx + dy * dy;
    const part = intersect(
      box,
      rect(
        Math.floor(Math.min(ax, bx) - r),
        Math.floor(Math.min(ay, by) - r),
        Math.ceil(Math.max(ax, bx) + r),
        Math.ceil(Math.max(ay, by) + r),
      ),
    );
    for (let y = part.y0; y < part.y1; y++) {
      const py = y + half - ay;
      for (let x = part.x0, i = (y - box.y0) * w + part.x0 - box.x0; x < part.x1; x++, i++) {
        const px = x + half - ax;
        const t = length > 0 ? Math.min(1, Math.max(0, (px * dx + py * dy) / length)) : 0;
        const own = ra + t * (rb - ra);
        const outer = own + half;
        const d2 = (px - t * dx) ** 2 + (py - t * dy) ** 2;
        if (d2 >= outer * outer) continue;
        const core = Math.min(hardness * own, own - half);
        const s = (outer - Math.sqrt(d2)) / (outer - core);
        if (s > data[i]!) data[i] = s;
      }
    }
  }
  for (let i = 0; i < data.length; i++) {
    const t = data[i]!;
    if (t > 0) data[i] = flow * (t >= 1 ? 1 : t * t * (3 - 2 * t));
  }
  return { box, data };
}

/** A region as strokes say it: those that paint add to it, in their order, those that erase take away. 0..1. */
export function layRegion(strokes: readonly LaidStroke[], scale: number, region: Rect, coverage: Float32Array): void {
  coverage.fill(0);
  const w = width(region);
  for (const one of strokes) {
    const made = strokeCoverage(one, scale, region);
    if (!made) continue;
    const add = one.stroke.tool === 'erase' ? 0 : 1;
    const { box, data } = made;
    for (let y = box.y0, i = 0; y < box.y1; y++) {
      for (let x = box.x0, o = (y - region.y0) * w + box.x0 - region.x0; x < box.x1; x++, i++, o++) {
        coverage[o] = coverage[o]! * (1 - data[i]!) + data[i]! * add;
      }
    }
  }
}
