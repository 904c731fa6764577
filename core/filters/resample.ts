import type { Kernels, Plane } from '@/kernels';
import type { Affine } from '../geometry/affine';
import type { Rect } from '../geometry/rect';
import { area, grow, height, rect, width } from '../geometry/rect';
import { copyInto } from './copy';
import { boundsOfImage } from '../geometry/affine';
import type { Taps } from './sample';
import { Packed, sampleThrough } from './sample';

export type ResampleFilter = 'nearest' | 'bilinear' | 'mitchell' | 'catmullRom' | 'lanczos3';

export const FILTERS: readonly { value: ResampleFilter; title: string; help: string }[] = [
  { value: 'nearest', title: 'Nearest', help: 'The nearest pixel: for IDs and data.' },
  { value: 'bilinear', title: 'Bilinear', help: 'Soft, never rings.' },
  { value: 'mitchell', title: 'Mitchell', help: 'A little soft, hardly rings.' },
  { value: 'catmullRom', title: 'Catmull–Rom', help: 'Sharp; pixels that do not move stay exact.' },
  { value: 'lanczos3', title: 'Lanczos 3', help: 'Sharpest; rings at hard edges.' },
];

const SAMPLES = 512; // per unit of a widened kernel, as kernels/assembly/resample.ts reads it

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

/** Resamples planes that hold `have` (zero outside) into `outs` over `want`. `kept` gives the planes packed, by whoever looks at them again and gives them back. */
export function resample(
  kernels: Kernels,
  planes: readonly Plane[],
  have: Rect,
  outs: readonly Plane[],
  want: Rect,
  toSource: Affine,
  filter: ResampleFilter,
  poll = (): void => undefined,
  kept?: () => Packed,
): void {
  if (area(have) === 0) outs.forEach((o) => o.fill(0));
  else if (shiftOnly(toSource) && filter !== 'mitchell') {
    shift(planes, have, outs, want, Math.round(toSource[2]), Math.round(toSource[5]));
  } else if (filter !== 'nearest' && toSource[1] === 0 && toSource[3] === 0) {
    kernels.guard(() => alongAxes(kernels, planes, have, outs, want, toSource, filter, poll));
  } else if (filter === 'nearest' || shrinks(toSource, filter)) byPoints(kernels, planes, have, outs, want, toSource, filter, poll);
  else {
    const packed = kept?.() ?? Packed.of(kernels, planes, have);
    try {
      sampleThrough(kernels, packed, outs, want, [...toSource, 0, 0, 1], tapsOf(filter), { poll });
    } finally {
      if (!kept) packed.give();
    }
  }
}

function shrinks(toSource: Affine, filter: ResampleFilter): boolean {
  const { scaleX, scaleY } = reach(toSource, filter);
  return scaleX > 1 + 1e-9 || scaleY > 1 + 1e-9;
}

/** Any affine map that makes the picture smaller, and the nearest pixel: every output pixel has its own weights. */
function byPoints(
  kernels: Kernels,
  planes: readonly Plane[],
  have: Rect,
  outs: readonly Plane[],
  want: Rect,
  toSource: Affine,
  filter: ResampleFilter,
  poll: () => void,
): void {
  const { scaleX, scaleY } = reach(toSource, filter);
  const list = kernels.take(planes.length + outs.length);
  const scratch = kernels.take(512);
  const table = kernels.copy(tableOf(filter));
  const wide = [table.byteOffset, KERNELS[filter].support, scaleX, scaleY, scratch.byteOffset] as const;
  const w = width(want);
  try {
    const pointers = new Uint32Array(list.buffer, list.byteOffset, planes.length + outs.length);
    planes.forEach((p, i) => (pointers[i] = p.byteOffset));
    for (let y = want.y0; y < want.y1; y += BAND) {
      poll();
      outs.forEach((o, i) => (pointers[planes.length + i] = o.byteOffset + 4 * w * (y - want.y0)));
      const source = [have.x0, have.y0, width(have), height(have)] as const;
      const place = [want.x0, y, w, Math.min(BAND, want.y1 - y)] as const;
      const [from, to] = [list.byteOffset, list.byteOffset + 4 * planes.length];
      kernels.fn.resampleWide(from, to, planes.length, ...source, ...place, ...toSource, ...wide);
    }
  } finally {
    [table, scratch, list].forEach((p) => kernels.give(p));
  }
}

/** Rows between two looks at whether the work is still wanted. */
const BAND = 64;

const kinds = new Map<ResampleFilter, Taps>();
/** A filter's weights between pixels, as the sampler reads them: a cubic's as polynomials, Lanczos's by a table. */
export function tapsOf(filter: ResampleFilter): Taps {
  let known = kinds.get(filter);
  if (known) return known;
  const { support, at } = KERNELS[filter];
  if (support === 0) known = { taps: 1, weights: new Float32Array(4) };
  else if (support === 1) known = { taps: 2, weights: new Float32Array(4) };
  else if (support === 3) known = { taps: 6, weights: placesOf(filter) };
  else known = { taps: 4, weights: polynomials(at) };
  kinds.set(filter, known);
  return known;
}

/** Of four samples around a place t past the second one, each weight's polynomial in t: constants of all four, then their slopes, and so on. */
function polynomials(at: (t: number) => number): Float32Array {
  const out = new Float32Array(16);
  for (let tap = 0; tap < 4; tap++) {
    // Through four places of the piece: divided differences, then powers.
    const f = [0, 1 / 3, 2 / 3, 1].map((t) => at(Math.abs(tap - 1 - t)));
    const [a, b, c, d] = f as [number, number, number, number];
    const third = (d - 3 * c + 3 * b - a) * 4.5;
    const second = (c - 2 * b + a) * 4.5 - third;
    const first = 3 * (b - a) - second / 3 - third / 9;
    [a, first, second, third].forEach((v, power) => (out[4 * power + tap] = v));
  }
  return out;
}

const PLACES = 256; // between two pixels, as kernels/assembly/sample.ts reads them

const places = new Map<ResampleFilter, Float32Array>();
/** Weights that sum to 1 for each place between two pixels, eight floats a place. */
function placesOf(filter: ResampleFilter): Float32Array {
  let table = places.get(filter);
  if (table) return table;
  const { support, at } = KERNELS[filter];
  table = new Float32Array(8 * (PLACES + 2));
  for (let k = 0; k <= PLACES + 1; k++) {
    const weights = Array.from({ length: 2 * support }, (_, i) => {
      const t = Math.abs(i - support + 1 - k / PLACES);
      return t < support ? at(t) : 0;
    });
    const sum = weights.reduce((s, v) => s + v, 0);
    weights.forEach((v, i) => (table![8 * k + i] = v / sum));
  }
  places.set(filter, table);
  return table;
}

/** Where each output sample reads along an axis, and with which weights. */
interface AxisWeights {
  /** First sample, from the start of what is had. */
  starts: Int32Array;
  weights: Float32Array;
  taps: number;
}

/** Weights for output samples lo..hi that lie at gain·(i + ½) + offset of a line of `n` samples from `first`; zero outside it. */
function axisWeights(
  filter: ResampleFilter,
  gain: number,
  offset: number,
  lo: number,
  hi: number,
  first: number,
  n: number,
  multiple: number,
): AxisWeights {
  const { support, at } = KERNELS[filter];
  const scale = Math.max(1, Math.abs(gain));
  const radius = support * scale;
  const taps = Math.ceil((Math.floor(2 * radius) + 1) / multiple) * multiple;
  const starts = new Int32Array(hi - lo);
  const weights = new Float32Array(taps * (hi - lo));
  for (let i = lo; i < hi; i++) {
    const centre = gain * (i + 0.5) + offset - 0.5 - first;
    const from = Math.ceil(centre - radius);
    const to = Math.floor(centre + radius);
    const start = Math.max(0, Math.min(from, n - taps));
    starts[i - lo] = start;
    let sum = 0;
    for (let k = from; k <= to; k++) {
      const t = Math.abs(k - centre) / scale;
      const w = t < support ? at(t) : 0;
      sum += w;
      if (k >= 0 && k < n && k - start < taps) weights[(i - lo) * taps + k - start] = w;
    }
    for (let k = 0; k < taps; k++) weights[(i - lo) * taps + k]! /= sum || 1;
  }
  return { starts, weights, taps };
}

/** Scaling and moving without a turn: first down the columns, then along the rows. */
function alongAxes(
  kernels: Kernels,
  planes: readonly Plane[],
  have: Rect,
  outs: readonly Plane[],
  want: Rect,
  m: Affine,
  filter: ResampleFilter,
  poll: () => void,
): void {
  const y = axisWeights(filter, m[4], m[5], want.y0, want.y1, have.y0, height(have), 1);
  const x = axisWeights(filter, m[0], m[2], want.x0, want.x1, have.x0, width(have), 4);
  // A line shorter than its taps is padded, so that every read lies inside it.
  const [w, h] = [Math.max(width(have), x.taps), Math.max(height(have), y.taps)];
  const padded = w > width(have) || h > height(have);
  const wide = rect(have.x0, have.y0, have.x0 + w, have.y0 + h);
  const between = kernels.take(w * height(want));
  const own = [
    kernels.bytes(y.starts.byteLength),
    kernels.bytes(x.starts.byteLength),
    kernels.copy(y.weights),
    kernels.copy(x.weights),
  ] as const;
  const [ys, xs, yw, xw] = own;
  new Int32Array(ys.buffer, ys.byteOffset, y.starts.length).set(y.starts);
  new Int32Array(xs.buffer, xs.byteOffset, x.starts.length).set(x.starts);
  planes.forEach((plane, i) => {
    poll();
    const from = padded ? copyInto(kernels, plane, have, wide) : plane;
    kernels.fn.resampleColumns(from.byteOffset, between.byteOffset, w, height(want), w, w, ys.byteOffset, yw.byteOffset, y.taps);
    kernels.fn.resampleRows(
      between.byteOffset,
      outs[i]!.byteOffset,
      width(want),
      height(want),
      w,
      width(want),
      xs.byteOffset,
      xw.byteOffset,
      x.taps,
    );
    if (padded) kernels.give(from);
  });
  [between, ...own].forEach((p) => kernels.give(p));
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
