import type { Kernels, Plane } from '@/kernels';
import type { Rect } from '../geometry/rect';
import { copyInto } from './copy';
import { repeatEdges } from './reduce';
import { area, grow, height, intersect, sameRect, width } from '../geometry/rect';

/**
 * Grey-scale dilation by a disc of a whole radius; `have` must be `want` grown by the radius. Each row of the disc is a
 * running maximum, had from maxima of power-of-two lengths.
 */
function dilate(kernels: Kernels, plane: Plane, have: Rect, want: Rect, radius: number, poll: () => void): Plane {
  const w = width(have);
  const n = area(have);
  const pyramid: Plane[] = [plane];
  for (let length = 1; 2 * length <= 2 * radius + 1; length *= 2) {
    const next = kernels.take(n + w);
    const from = pyramid[pyramid.length - 1]!;
    kernels.fn.doubleMaximum(from.byteOffset, next.byteOffset, n - length, length);
    next.fill(-Infinity, n - length);
    pyramid.push(next);
  }
  const out = kernels.take(area(want)).fill(-Infinity);
  const edge = radius ** 2;
  for (let dy = -radius; dy <= radius; dy++) {
    poll();
    const half = Math.min(radius, Math.floor(Math.sqrt(edge - dy * dy)));
    const length = 2 * half + 1;
    const level = Math.floor(Math.log2(length));
    const start = (radius + dy) * w + radius - half;
    kernels.fn.accumulateChord(
      pyramid[level]!.byteOffset + 4 * start,
      out.byteOffset,
      width(want),
      height(want),
      w,
      width(want),
      length - 2 ** level,
    );
  }
  pyramid.slice(1).forEach((p) => kernels.give(p));
  return out;
}

/** How many pixels beyond the output growing or shrinking reads. */
export const morphologyPad = (radius: number): number => Math.ceil(Math.abs(radius));

/**
 * Grey-scale growing (radius > 0) or shrinking by a disc of real radius: the two whole radii around it are mixed. Pixels
 * outside `domain` count as missing, so that a matte is not eaten from the frame's edge. `plane` holds `have`, which must be
 * `want` grown by morphologyPad. Returns a pool plane.
 */
export function growGrey(
  kernels: Kernels,
  plane: Plane,
  have: Rect,
  want: Rect,
  radius: number,
  domain: Rect,
  poll = (): void => undefined,
): Plane {
  return kernels.guard(() => growOrShrink(kernels, plane, have, want, radius, domain, poll));
}

function growOrShrink(kernels: Kernels, plane: Plane, have: Rect, want: Rect, radius: number, domain: Rect, poll: () => void): Plane {
  const sign = radius < 0 ? -1 : 1;
  const r = Math.abs(radius);
  const low = Math.floor(r);
  const { fn } = kernels;
  const ready = kernels.take(plane.length);
  fn.affine(plane.byteOffset, ready.byteOffset, plane.length, sign, 0);
  fillOutside(ready, have, domain, -Infinity);
  const at = (whole: number): Plane => {
    const pad = grow(want, whole);
    const part = sameRect(pad, have) ? ready : copyInto(kernels, ready, have, pad);
    const out = dilate(kernels, part, pad, want, whole, poll);
    if (part !== ready) kernels.give(part);
    return out;
  };
  const a = at(low);
  if (r > low) {
    const b = at(low + 1);
    fn.mixPlane(a.byteOffset, b.byteOffset, a.byteOffset, a.length, r - low);
    kernels.give(b);
  }
  kernels.give(ready);
  fn.affine(a.byteOffset, a.byteOffset, a.length, sign, 0);
  return a;
}

function fillOutside(plane: Plane, have: Rect, domain: Rect, value: number): void {
  const w = width(have);
  for (let y = have.y0; y < have.y1; y++) {
    const row = (y - have.y0) * w;
    if (y < domain.y0 || y >= domain.y1) {
      plane.fill(value, row, row + w);
      continue;
    }
    if (have.x0 < domain.x0) plane.fill(value, row, row + domain.x0 - have.x0);
    if (have.x1 > domain.x1) plane.fill(value, row + Math.max(0, domain.x1 - have.x0), row + w);
  }
}

/**
 * A hard matte whose ½ level is moved outward by a real radius, by the exact Euclidean distance to the level's crossings
 * (Felzenszwalb & Huttenlocher 2012). The new edge is one pixel of coverage wide; beyond `domain` the matte is taken to go
 * on. The plane holds `have`, and so does the
 * result (a pool plane).
 */
export function offsetByDistance(
  kernels: Kernels,
  given: Plane,
  have: Rect,
  radius: number,
  domain: Rect,
  poll = (): void => undefined,
): Plane {
  return kernels.guard(() => offsetEdge(kernels, given, have, radius, domain, poll));
}

function offsetEdge(kernels: Kernels, given: Plane, have: Rect, radius: number, domain: Rect, poll: () => void): Plane {
  const { fn } = kernels;
  // What lies outside the domain repeats its nearest pixel, so that a matte does not end at the frame's edge.
  const known = intersect(have, domain);
  const inside = copyInto(kernels, given, have, known);
  const plane = repeatEdges(kernels, inside, known, have);
  if (plane !== inside) kernels.give(inside);
  const [w, h, n] = [width(have), height(have), area(have)];
  const turned = kernels.take(n);
  const across = kernels.take(n);
  const down = kernels.take(n);
  const scratch = kernels.take(3 * Math.max(w, h) + 8);
  fn.columnCrossings(plane.byteOffset, down.byteOffset, w, h, 0.5);
  poll();
  fn.rowEnvelope(down.byteOffset, w, h, scratch.byteOffset);
  poll();
  fn.transpose(plane.byteOffset, turned.byteOffset, w, h);
  poll();
  fn.columnCrossings(turned.byteOffset, across.byteOffset, h, w, 0.5);
  poll();
  fn.rowEnvelope(across.byteOffset, h, w, scratch.byteOffset);
  poll();
  fn.transpose(across.byteOffset, turned.byteOffset, h, w);
  fn.minPlane(down.byteOffset, turned.byteOffset, down.byteOffset, n);
  fn.offsetLevel(plane.byteOffset, down.byteOffset, across.byteOffset, n, 0.5, radius);
  [plane, turned, down, scratch].forEach((p) => kernels.give(p));
  return across;
}
