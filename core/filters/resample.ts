import type { Kernels, Plane } from '@/kernels';
import type { Affine } from '../geometry/affine';
import type { Rect } from '../geometry/rect';
import { area, grow, height, width } from '../geometry/rect';
import { boundsOfImage } from '../geometry/affine';

export type ResampleFilter = 'nearest' | 'bilinear' | 'mitchell' | 'catmullRom' | 'lanczos3';

export const FILTERS: readonly { value: ResampleFilter; title: string; help: string }[] = [
  { value: 'nearest', title: 'Nearest', help: 'The nearest pixel: for IDs and data.' },
  { value: 'bilinear', title: 'Bilinear', help: 'Soft, never rings.' },
  { value: 'mitchell', title: 'Mitchell', help: 'A little soft, hardly rings.' },
  { value: 'catmullRom', title: 'Catmull–Rom', help: 'Sharp; pixels that do not move stay exact.' },
  { value: 'lanczos3', title: 'Lanczos 3', help: 'Sharpest; rings at hard edges.' },
];

const SAMPLES = 512; // per unit, as kernels/assembly/resample.ts reads it

/** Mitchell & Netravali 1988 with parameters B and C. */
const cubic = (b: number, c: number) => (t: number) =>
  t < 1
    ? ((12 - 9 * b - 6 * c) * t ** 3 + (-18 + 12 * b + 6 * c) * t ** 2 + 6 - 2 * b) / 6
    : ((-b - 6 * c) * t ** 3 + (6 * b + 30 * c) * t ** 2 + (-12 * b - 48 * c) * t + 8 * b + 24 * c) / 6;

const sinc = (t: number): number => (t === 0 ? 1 : Math.sin(Math.PI * t) / (Math.PI * t));

const KERNELS: Record<ResampleFilter, { support: number; at: (t: number) => number }> = {
  nearest: { support: 0, at: () => 1 },
  bilinear: { support: 1, at: (t) => 1 - t },
  mitchell: { support: 2, at: cubic(1 / 3, 1 / 3) },
  catmullRom: { support: 2, at: cubic(0, 0.5) },
  lanczos3: { support: 3, at: (t) => sinc(t) * sinc(t / 3) },
};

const tables = new Map<ResampleFilter, Float32Array>();
function tableOf(filter: ResampleFilter): Float32Array {
  let table = tables.get(filter);
  if (!table) {
    const { support, at } = KERNELS[filter];
    table = Float32Array.from({ length: support * SAMPLES + 1 }, (_, i) => (i < support * SAMPLES ? at(i / SAMPLES) : 0));
    tables.set(filter, table);
  }
  return table;
}

/** How far a resample reads around each source position, with the kernel widened where the picture gets smaller. */
function reach(toSource: Affine, filter: ResampleFilter): { x: number; y: number; scaleX: number; scaleY: number } {
  const scaleX = Math.max(1, Math.hypot(toSource[0], toSource[1]));
  const scaleY = Math.max(1, Math.hypot(toSource[3], toSource[4]));
  const { support } = KERNELS[filter];
  return { x: support * scaleX, y: support * scaleY, scaleX, scaleY };
}

/** The source pixels that are read to give `want`; toSource maps output positions to source positions. */
export function resampleRegion(want: Rect, toSource: Affine, filter: ResampleFilter): Rect {
  const { x, y } = reach(toSource, filter);
  return grow(boundsOfImage(toSource, want), Math.ceil(x) + 1, Math.ceil(y) + 1);
}

/** How far pixels may land outside the image of the source's rectangle, in output pixels. */
export function resampleSpread(toSource: Affine, filter: ResampleFilter, image: Rect): Rect {
  const { support } = KERNELS[filter];
  const det = Math.abs(toSource[0] * toSource[4] - toSource[1] * toSource[3]);
  const enlarged = det > 1e-12 ? Math.max(1, Math.hypot(toSource[0], toSource[3]) / det, Math.hypot(toSource[1], toSource[4]) / det) : 1;
  return grow(image, Math.ceil(support * enlarged));
}

/** Resamples planes that hold `have` (zero outside) into `outs` over `want`. */
export function resample(
  kernels: Kernels,
  planes: readonly Plane[],
  have: Rect,
  outs: readonly Plane[],
  want: Rect,
  toSource: Affine,
  filter: ResampleFilter,
): void {
  if (shiftOnly(toSource) && filter !== 'mitchell') {
    shift(planes, have, outs, want, Math.round(toSource[2]), Math.round(toSource[5]));
    return;
  }
  const { scaleX, scaleY } = reach(toSource, filter);
  const table = kernels.copy(tableOf(filter));
  const weights = kernels.take(512);
  const pointers = kernels.take(2 * planes.length);
  const list = new Uint32Array(pointers.buffer, pointers.byteOffset, 2 * planes.length);
  planes.forEach((p, i) => (list[i] = p.byteOffset));
  outs.forEach((p, i) => (list[planes.length + i] = p.byteOffset));
  if (area(have) === 0) outs.forEach((o) => o.fill(0));
  else {
    kernels.fn.resampleAffine(
      pointers.byteOffset,
      pointers.byteOffset + 4 * planes.length,
      planes.length,
      have.x0,
      have.y0,
      width(have),
      height(have),
      want.x0,
      want.y0,
      width(want),
      height(want),
      ...toSource,
      table.byteOffset,
      KERNELS[filter].support,
      scaleX,
      scaleY,
      weights.byteOffset,
    );
  }
  [table, weights, pointers].forEach((p) => kernels.give(p));
}

/** A move by whole pixels, which every filter here but the smoothing one passes unchanged. */
const shiftOnly = (m: Affine): boolean =>
  m[0] === 1 &&
  m[1] === 0 &&
  m[3] === 0 &&
  m[4] === 1 &&
  Math.abs(m[2] - Math.round(m[2])) < 1e-9 &&
  Math.abs(m[5] - Math.round(m[5])) < 1e-9;

function shift(planes: readonly Plane[], have: Rect, outs: readonly Plane[], want: Rect, dx: number, dy: number): void {
  const w = width(want);
  const x0 = Math.max(want.x0, have.x0 - dx);
  const n = Math.min(want.x1, have.x1 - dx) - x0;
  planes.forEach((plane, i) => {
    const out = outs[i]!.fill(0);
    for (let y = Math.max(want.y0, have.y0 - dy); n > 0 && y < Math.min(want.y1, have.y1 - dy); y++) {
      const at = (y + dy - have.y0) * width(have) + x0 + dx - have.x0;
      out.set(plane.subarray(at, at + n), (y - want.y0) * w + x0 - want.x0);
    }
  });
}
