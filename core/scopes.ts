import { LUMA } from './colour/transfer';
import { intersect, rect } from './geometry/rect';
import type { Rect } from './geometry/rect';

/** Interleaved RGBA pixels of a region, as the viewer has them. */
export interface ScopePicture {
  pixels: Float32Array;
  region: Rect;
}

/** Levels of a scope's axis of values. */
export const LEVELS = 256;

/** How a value becomes a place on the axis: 0 is its foot, 1 its top. */
export type Axis = (v: number) => number;

export interface Histogram {
  /** Counts by level, of red, green, blue and luma. */
  counts: readonly [Uint32Array, Uint32Array, Uint32Array, Uint32Array];
  /** Values below 0 and above 1 on the axis, of red, green, blue and luma. */
  below: readonly number[];
  above: readonly number[];
  /** Pixels of which some value is NaN or infinite: they are in no other count. */
  notFinite: number;
  pixels: number;
}

/** Calls `take` with each finite pixel of a box (the whole picture without one) and how far right it begins and ends, 0..1. Gives the count of the others. */
function eachPixel(
  p: ScopePicture,
  box: Rect | null,
  take: (r: number, g: number, b: number, x: number, next: number) => void,
): { pixels: number; notFinite: number } {
  const { region, pixels } = p;
  const area = box ? intersect(box, region) : region;
  const [w, width] = [region.x1 - region.x0, Math.max(1, area.x1 - area.x0)];
  let notFinite = 0;
  for (let y = area.y0; y < area.y1; y++) {
    let i = 4 * ((y - region.y0) * w + area.x0 - region.x0);
    for (let x = area.x0; x < area.x1; x++, i += 4) {
      const [r, g, b] = [pixels[i]!, pixels[i + 1]!, pixels[i + 2]!];
      if (Number.isFinite(r + g + b)) take(r, g, b, (x - area.x0) / width, (x + 1 - area.x0) / width);
      else notFinite++;
    }
  }
  return { pixels: width * Math.max(0, area.y1 - area.y0), notFinite };
}

const luma = (r: number, g: number, b: number): number => LUMA[0]! * r + LUMA[1]! * g + LUMA[2]! * b;

/** How often each level occurs. */
export function histogramOf(picture: ScopePicture, axis: Axis, box: Rect | null = null): Histogram {
  const counts = [0, 1, 2, 3].map(() => new Uint32Array(LEVELS)) as unknown as Histogram['counts'];
  const [below, above] = [
    [0, 0, 0, 0],
    [0, 0, 0, 0],
  ];
  const put = (k: number, v: number): void => {
    const t = axis(v);
    if (t < 0) below[k]!++;
    if (t > 1) above[k]!++;
    counts[k]![Math.min(LEVELS - 1, Math.max(0, Math.floor(t * LEVELS)))]!++;
  };
  const told = eachPixel(picture, box, (r, g, b) => {
    put(0, r);
    put(1, g);
    put(2, b);
    put(3, luma(r, g, b));
  });
  return { counts, below, above, ...told };
}

/** Columns of a waveform. */
export const COLUMNS = 256;

/** How often each level occurs in each column of the picture, level by level from the foot: one trace, luma's, or three. */
export function waveformOf(picture: ScopePicture, axis: Axis, parade: boolean, box: Rect | null = null): Uint32Array[] {
  const traces = Array.from({ length: parade ? 3 : 1 }, () => new Uint32Array(COLUMNS * LEVELS));
  const put = (k: number, v: number, from: number, to: number): void => {
    const level = Math.min(LEVELS - 1, Math.max(0, Math.floor(axis(v) * LEVELS)));
    const row = level * COLUMNS;
    // Of a narrow box a pixel is as wide as several columns: the trace has no gaps.
    for (let column = from; column < to; column++) traces[k]![row + column]!++;
  };
  eachPixel(picture, box, (r, g, b, x, next) => {
    const from = Math.floor(x * COLUMNS);
    const to = Math.max(from + 1, Math.floor(next * COLUMNS));
    if (!parade) return put(0, luma(r, g, b), from, to);
    put(0, r, from, to);
    put(1, g, from, to);
    put(2, b, from, to);
  });
  return traces;
}

/** Cells of a vectorscope's side. */
export const SIDE = 256;

/** Where the colour differences of Rec.709 lie: Cb to the right, Cr up, −½ to ½ each over the side. Values go through the axis first. */
export function vectorscopeOf(picture: ScopePicture, axis: Axis, box: Rect | null = null): Uint32Array {
  const cells = new Uint32Array(SIDE * SIDE);
  eachPixel(picture, box, (r, g, b) => {
    const [x, y] = chromaOf(axis(r), axis(g), axis(b));
    const [i, j] = [Math.floor((x + 0.5) * SIDE), Math.floor((0.5 - y) * SIDE)];
    if (i >= 0 && j >= 0 && i < SIDE && j < SIDE) cells[j * SIDE + i]!++;
  });
  return cells;
}

/** Cb and Cr (BT.709-6) of code values. */
export function chromaOf(r: number, g: number, b: number): [number, number] {
  const y = luma(r, g, b);
  return [(b - y) / (2 * (1 - LUMA[2]!)), (r - y) / (2 * (1 - LUMA[0]!))];
}

/** What a box of the picture holds: least, greatest and mean of each channel. */
export interface BoxStatistics {
  min: number[];
  max: number[];
  mean: number[];
  pixels: number;
}

export function boxStatistics({ pixels, region }: ScopePicture, box: Rect): BoxStatistics | null {
  const area = intersect(box, region);
  const count = Math.max(0, area.x1 - area.x0) * Math.max(0, area.y1 - area.y0);
  if (count === 0) return null;
  const w = region.x1 - region.x0;
  const out: BoxStatistics = { min: Array(4).fill(Infinity), max: Array(4).fill(-Infinity), mean: Array(4).fill(0), pixels: count };
  for (let y = area.y0; y < area.y1; y++) {
    for (let x = area.x0; x < area.x1; x++) {
      const i = 4 * ((y - region.y0) * w + x - region.x0);
      for (let c = 0; c < 4; c++) {
        const v = pixels[i + c]!;
        if (v < out.min[c]!) out.min[c] = v;
        if (v > out.max[c]!) out.max[c] = v;
        out.mean[c]! += v / count;
      }
    }
  }
  return out;
}

/** Pixels that somebody should look at, and the rectangle around them. */
export interface Finding {
  count: number;
  around: Rect;
}

export const FINDINGS = ['notFinite', 'negative', 'alphaBelow', 'alphaAbove', 'lightWithoutAlpha'] as const;
export type FindingKind = (typeof FINDINGS)[number];

/** Looks a picture through for what is seldom meant. Premultiplied light where alpha is 0 adds: it is told, not condemned. */
export function findTrouble({ pixels, region }: ScopePicture): Record<FindingKind, Finding> {
  const w = region.x1 - region.x0;
  const found = Object.fromEntries(FINDINGS.map((k) => [k, { count: 0, box: [Infinity, Infinity, -Infinity, -Infinity] }])) as Record<
    FindingKind,
    { count: number; box: number[] }
  >;
  const put = (kind: FindingKind, at: number): void => {
    const f = found[kind];
    const [x, y] = [at % w, Math.floor(at / w)];
    f.count++;
    f.box = [Math.min(f.box[0]!, x), Math.min(f.box[1]!, y), Math.max(f.box[2]!, x + 1), Math.max(f.box[3]!, y + 1)];
  };
  for (let i = 0, at = 0; i < pixels.length; i += 4, at++) {
    const [r, g, b, a] = [pixels[i]!, pixels[i + 1]!, pixels[i + 2]!, pixels[i + 3]!];
    if (!Number.isFinite(r + g + b + a)) {
      put('notFinite', at);
      continue;
    }
    // What rounding leaves under 0 is nobody's trouble.
    if (r < -1e-5 || g < -1e-5 || b < -1e-5) put('negative', at);
    if (a < -1e-5) put('alphaBelow', at);
    else if (a > 1 + 1e-5) put('alphaAbove', at);
    if (a <= 0 && (r > 1e-5 || g > 1e-5 || b > 1e-5)) put('lightWithoutAlpha', at);
  }
  return Object.fromEntries(
    FINDINGS.map((k) => {
      const { count, box } = found[k];
      const [x0, y0, x1, y1] = box as [number, number, number, number];
      return [k, { count, around: count ? rect(region.x0 + x0, region.y0 + y0, region.x0 + x1, region.y0 + y1) : rect(0, 0, 0, 0) }];
    }),
  ) as Record<FindingKind, Finding>;
}

/** Pixels by what their alpha is, as the matte audit tells them apart. */
export interface AlphaCounts {
  below: number;
  empty: number;
  partial: number;
  solid: number;
  above: number;
}

export function alphaCounts({ pixels }: ScopePicture): AlphaCounts {
  const counts = { below: 0, empty: 0, partial: 0, solid: 0, above: 0 };
  for (let i = 3; i < pixels.length; i += 4) {
    const a = pixels[i]!;
    if (a < 0) counts.below++;
    else if (a === 0) counts.empty++;
    else if (a < 1) counts.partial++;
    else if (a === 1) counts.solid++;
    else if (a > 1) counts.above++;
  }
  return counts;
}
