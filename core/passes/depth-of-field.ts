import type { Kernels, Plane } from '@/kernels';
import type { Aperture } from '../filters/aperture';
import { apertureBlur, spansOf } from '../filters/aperture';
import { pushPull } from '../filters/push-pull';
import { grow, height, intersect, rect, width } from '../geometry/rect';
import type { Rect } from '../geometry/rect';

export interface FocusOptions {
  /** Distance in focus. */
  readonly focus: number;
  /** Radius of the blur of what is endlessly far, in pixels. */
  readonly infinity: number;
  /** Radius that none is greater than, in pixels. */
  readonly most: number;
  readonly aperture: Aperture;
  /** How much larger each slice's radius is than the one before; 0.18 unless said: finer is truer, and slower. */
  readonly growth?: number;
}

/** The signed radius of the blur at a distance along the view, in pixels: nearer than the focus below 0. */
export function blurRadius(distance: number, { focus, infinity, most }: FocusOptions): number {
  const r = distance === Infinity ? infinity : infinity * (1 - focus / distance);
  return r < -most ? -most : r > most ? most : r;
}

/** Radii of the slices that one side is cut into. */
function radiiUpTo(most: number, growth: number): number[] {
  const radii = [0];
  for (let r = 0; r < most;) {
    r = Math.min(most, r + Math.max(1, growth * r));
    radii.push(r);
  }
  return radii;
}

/** Slices from near to far, by signed radius. */
function slicesOf(o: FocusOptions): number[] {
  const radii = radiiUpTo(o.most, o.growth ?? 0.18);
  return [
    ...radii
      .slice(1)
      .map((r) => -r)
      .reverse(),
    ...radii,
  ];
}

/** Where a signed radius lies among the slices: 3.25 is a quarter of the way from the fourth to the fifth. */
function levelOf(radius: number, slices: readonly number[]): number {
  let [low, high] = [0, slices.length - 1];
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (slices[middle]! <= radius) low = middle;
    else high = middle;
  }
  return low + (radius - slices[low]!) / (slices[high]! - slices[low]! || 1);
}

/** Radii below which nothing is blurred. */
const SHARP = 0.3;

/**
 * Blurs a picture as a lens does, by distance. It is cut into slices of depth; what each hides of those behind it is filled from around;
 * each is blurred by its own aperture and laid over the farther ones (after the layered scheme of Kraus and Strengert 2007). R, G, B, A premultiplied
 * over `region`; the planes given are the caller's, those returned lie over `want`.
 */
export function focusByDepth(
  kernels: Kernels,
  planes: readonly [Plane, Plane, Plane, Plane],
  distance: Float32Array,
  region: Rect,
  want: Rect,
  o: FocusOptions,
  poll: () => void,
): [Plane, Plane, Plane, Plane] {
  const slices = slicesOf(o);
  const w = width(region);
  const levels = kernels.take(distance.length);
  const alpha = planes[3];
  const boxes: (Rect | null)[] = slices.map(() => null);
  const empty = slices.length + 1;
  // One row of a slice's box at a time is enough.
  for (let y = 0, i = 0; y < height(region); y++) {
    const [from, to] = [new Int32Array(slices.length).fill(w), new Int32Array(slices.length).fill(-1)];
    for (let x = 0; x < w; x++, i++) {
      if (alpha[i] === 0) {
        levels[i] = empty;
        continue;
      }
      const level = levelOf(blurRadius(distance[i]!, o), slices);
      levels[i] = level;
      const k = Math.floor(level);
      if (x < from[k]!) from[k] = x;
      if (x > to[k]!) to[k] = x;
      if (level > k) {
        if (x < from[k + 1]!) from[k + 1] = x;
        if (x > to[k + 1]!) to[k + 1] = x;
      }
    }
    for (let k = 0; k < slices.length; k++) {
      if (to[k]! < 0) continue;
      const box = boxes[k];
      boxes[k] = rect(Math.min(box?.x0 ?? w, from[k]!), box?.y0 ?? y, Math.max(box?.x1 ?? 0, to[k]! + 1), y + 1);
    }
  }
  const out = kernels.zeros(4 * width(want) * height(want) + 16);
  let nearer = 0;
  const blurOfNearer = slices.map((r, k) => {
    const before = nearer;
    if (boxes[k]) nearer = Math.max(nearer, Math.abs(r));
    return before;
  });
  for (let k = slices.length - 1; k >= 0; k--) {
    const box = boxes[k];
    if (!box) continue;
    poll();
    laySlice(kernels, planes, levels, region, want, out, {
      box,
      slice: k,
      radius: Math.abs(slices[k]!),
      nearer: blurOfNearer[k]!,
      aperture: o.aperture,
    });
  }
  kernels.give(levels);
  const made = [0, 1, 2, 3].map(() => kernels.take(width(want) * height(want))) as [Plane, Plane, Plane, Plane];
  const [a, b, c, d] = made.map((p) => p.byteOffset) as [number, number, number, number];
  kernels.fn.unpackFour(out.byteOffset, a, b, c, d, made[0].length);
  kernels.give(out);
  return made;
}

interface Slice {
  box: Rect;
  slice: number;
  radius: number;
  /** The greatest blur of what lies in front of it. */
  nearer: number;
  aperture: Aperture;
}

function laySlice(
  kernels: Kernels,
  planes: readonly Plane[],
  levels: Plane,
  region: Rect,
  want: Rect,
  out: Plane,
  { box, slice, radius, nearer, aperture }: Slice,
): void {
  const { fn } = kernels;
  const whole = rect(0, 0, width(region), height(region));
  const hides = Math.max(radius, nearer) > SHARP;
  // What is hidden farther in than this is never seen.
  const reach = hides ? Math.ceil(Math.max(radius, nearer)) + 2 : 0;
  const part = intersect(grow(box, reach), whole);
  const [w, h] = [width(part), height(part)];
  const n = w * h;
  const stride = width(region);
  const cut = (plane: Plane): Plane => {
    const to = kernels.take(n);
    fn.copyPart(plane.byteOffset + 4 * (part.y0 * stride + part.x0), stride, to.byteOffset, w, w, h);
    return to;
  };
  const level = cut(levels);
  const [member, known] = [kernels.take(n), kernels.take(n)];
  fn.sliceWeights(level.byteOffset, member.byteOffset, known.byteOffset, n, slice);
  kernels.give(level);
  const own = planes.map((plane) => {
    const to = cut(plane);
    fn.multiply(to.byteOffset, member.byteOffset, to.byteOffset, n);
    return to;
  });
  if (hides && !fn.allEqual(known.byteOffset, n, 1)) pushPull(kernels, own, known, w, h, Math.ceil(Math.log2(reach + 1)) + 1);
  kernels.give(member);
  kernels.give(known);
  const packed = kernels.take(4 * n + 16);
  const [a, b, c, d] = own.map((p) => p.byteOffset) as [number, number, number, number];
  fn.packFour(a, b, c, d, packed.byteOffset, n);
  own.forEach((plane) => kernels.give(plane));
  const [x, y] = [region.x0 + part.x0 - want.x0, region.y0 + part.y0 - want.y0];
  if (radius <= SHARP) fn.overPacked(packed.byteOffset, w, h, out.byteOffset, width(want), height(want), x, y);
  else {
    const spans = spansOf(radius, aperture);
    const blurred = apertureBlur(kernels, packed, w, h, spans);
    fn.overPacked(
      blurred.packed.byteOffset,
      blurred.w,
      blurred.h,
      out.byteOffset,
      width(want),
      height(want),
      x - spans.reach,
      y - spans.reach,
    );
    kernels.give(blurred.packed);
  }
  kernels.give(packed);
}
