import { IDENTITY_H, invert } from '../../geometry/fit';
import type { Affine } from '../../geometry/affine';
import type { Homography } from '../../geometry/homography';
import { applyHomography } from '../../geometry/homography';
import type { Rect } from '../../geometry/rect';
import { EMPTY, grow, height, intersect, isEmpty, rect, union, width } from '../../geometry/rect';
import { choice, integer, number } from '../../param';
import type { Format, Tile } from '../../picture';
import { formatRect } from '../../picture';
import type { Need, RenderContext, StepIo, Want } from '../../step';
import { resample, resampleRegion } from '../../filters/resample';

/** What every step that maps a plane onto a plane has. */
export const warpFilter = choice('Filter', 'cubic', [
  { value: 'cubic', title: 'Catmull–Rom' },
  { value: 'linear', title: 'Bilinear' },
]);
export const shutterParams = {
  shutter: number('Shutter', 0, [0, 360], {
    unit: '°',
    min: 0,
    max: 720,
    group: 'Motion blur',
    help: '180° is half of the frame’s time; 0 is none.',
  }),
  shutterSamples: integer('Samples', 8, [2, 32], { min: 1, max: 64, group: 'Motion blur', animatable: false }),
};

/** Times at which a shutter looks, around a frame. */
export function shutterTimes(frame: number, { shutter, shutterSamples }: { shutter: number; shutterSamples: number }): number[] {
  if (shutter <= 0 || shutterSamples < 2) return [frame];
  return Array.from({ length: shutterSamples }, (_, i) => frame + (shutter / 360) * ((i + 0.5) / shutterSamples - 0.5));
}

/** Samples across a pixel, at most: more than that much reduction is rare, and shimmers little. */
const MOST = 4;
/** Pixels that edges are repeated outward where a picture shall have no soft rim. */
const HOLD = 3;

export interface Warp {
  /** From positions of the step's picture to those of the picture it is given, one a shutter sample. */
  backward: readonly Homography[];
  cubic: boolean;
  /** Edges are repeated instead of going to nothing within the filter's reach. */
  hold?: boolean;
}

const isAffine = (m: Homography): boolean => Math.abs(m[6]) < 1e-12 && Math.abs(m[7]) < 1e-12;
const isIdentity = (m: Homography): boolean => m.every((v, i) => Math.abs(v - IDENTITY_H[i]!) < 1e-12);

export const warpNeutral = (w: Warp): boolean => w.backward.every(isIdentity);

/** Where a warped picture can have pixels. */
export function warpBounds({ backward }: Warp, io: StepIo<unknown>): Rect {
  const { format, bounds } = io.inputs.main!;
  return backward.reduce<Rect>((all, m) => union(all, imageBounds(m, format, bounds)), EMPTY);
}

function imageBounds(m: Homography, format: Format, { x0, y0, x1, y1 }: Rect): Rect {
  const frame = formatRect(format);
  const forward = invert(m);
  if (!forward) return frame;
  const all = (
    [
      [x0, y0],
      [x1, y0],
      [x1, y1],
      [x0, y1],
    ] as const
  ).map(([x, y]) => applyHomography(forward, x, y));
  // What reaches over the horizon has no end; the frame is enough of it.
  if (all.some(([, , w]) => w <= 1e-6)) return frame;
  const [xs, ys] = [all.map(([x]) => x), all.map(([, y]) => y)];
  const limit = (v: number, size: number): number => Math.min(3 * size, Math.max(-2 * size, v));
  return rect(
    Math.floor(limit(Math.min(...xs), format.width)) - 1,
    Math.floor(limit(Math.min(...ys), format.height)) - 1,
    Math.ceil(limit(Math.max(...xs), format.width)) + 1,
    Math.ceil(limit(Math.max(...ys), format.height)) + 1,
  );
}

/** What of the picture is read for a region. */
export function warpNeeds({ backward, cubic, hold }: Warp, want: Want, io: StepIo<unknown>): readonly Need[] {
  const { bounds } = io.inputs.main!;
  if (!backward.every(isAffine)) return [{ input: 'main', region: bounds, channels: want.channels }];
  const filter = cubic ? 'catmullRom' : 'bilinear';
  const region = backward.reduce<Rect>((all, m) => union(all, resampleRegion(want.region, affinePart(m), filter)), EMPTY);
  return [{ input: 'main', region: intersect(region, hold ? bounds : grow(bounds, 1)), channels: want.channels }];
}

const affinePart = (m: Homography): Affine => m.slice(0, 6) as unknown as Affine;

/** Fills every plane of `out`; the mean over the shutter's samples. */
export function renderWarp(ctx: RenderContext<unknown>, warp: Warp, out: Tile): void {
  const given = ctx.tile('main')!;
  const outs = Object.values(out.planes);
  if (isEmpty(given.region)) return outs.forEach((plane) => void plane.fill(0));
  const names = Object.keys(out.planes);
  const region = warp.hold ? grow(given.region, HOLD) : given.region;
  const planes = names.map((c) => (warp.hold ? held(ctx, given.planes[c]!, given.region, region) : given.planes[c]!));
  const n = width(out.region) * height(out.region);
  const once = warp.backward.length === 1;
  const to = once ? outs : outs.map(() => ctx.scratch(n));
  if (!once) outs.forEach((o) => void o.fill(0));
  for (const map of warp.backward) {
    if (isAffine(map)) {
      ctx.poll();
      resample(ctx.kernels, planes, region, to, out.region, affinePart(map), warp.cubic ? 'catmullRom' : 'bilinear');
    } else warpOnce(ctx, planes, region, to, out.region, map, warp.cubic);
    if (!once) outs.forEach((o, i) => ctx.kernels.fn.addScaled(o.byteOffset, to[i]!.byteOffset, o.byteOffset, n, 1 / warp.backward.length));
  }
}

/** A plane with its edges repeated outward. */
function held(ctx: RenderContext<unknown>, plane: Float32Array, have: Rect, wide: Rect): Float32Array {
  const to = ctx.scratch(width(wide) * height(wide));
  const [w, h, W] = [width(have), height(have), width(wide)];
  for (let y = 0; y < height(wide); y++) {
    const row = Math.min(h - 1, Math.max(0, y + wide.y0 - have.y0)) * w;
    for (let x = 0; x < W; x++) to[y * W + x] = plane[row + Math.min(w - 1, Math.max(0, x + wide.x0 - have.x0))]!;
  }
  return to;
}

function warpOnce(
  ctx: RenderContext<unknown>,
  from: readonly Float32Array[],
  have: Rect,
  to: readonly Float32Array[],
  region: Rect,
  map: Homography,
  cubic: boolean,
): void {
  const planes = from.map((f, i) => [f, to[i]!] as const);
  const w = width(region);
  const values = new Float64Array(planes.length);
  for (let y = region.y0, o = 0; y < region.y1; y++) {
    if (y % 16 === 0) ctx.poll();
    for (let x = region.x0; x < region.x0 + w; x++, o++) {
      values.fill(0);
      const n = samplesAt(map, x, y);
      for (let j = 0; j < n; j++) {
        for (let i = 0; i < n; i++) {
          const [u, v, horizon] = applyHomography(map, x + (i + 0.5) / n, y + (j + 0.5) / n);
          if (horizon > 1e-9) sample(planes, have, u, v, cubic, values);
        }
      }
      for (let k = 0; k < planes.length; k++) planes[k]![1][o] = values[k]! / (n * n);
    }
  }
}

/** How many samples across a pixel its share of the picture asks for. */
function samplesAt(map: Homography, x: number, y: number): number {
  const [u, v] = applyHomography(map, x, y);
  const [a, b] = applyHomography(map, x + 1, y);
  const [c, d] = applyHomography(map, x, y + 1);
  const stretch = Math.max(Math.hypot(a - u, b - v), Math.hypot(c - u, d - v));
  return Math.min(MOST, Math.max(1, Math.round(stretch)));
}

/** Weights of four neighbours for a fraction: Catmull and Rom's cubic, or a straight line between the inner two. */
function weightsOf(t: number, cubic: boolean, to: Float64Array): void {
  if (cubic) {
    to[0] = t * (-0.5 + t * (1 - 0.5 * t));
    to[1] = 1 + t * t * (-2.5 + 1.5 * t);
    to[2] = t * (0.5 + t * (2 - 1.5 * t));
    to[3] = t * t * (-0.5 + 0.5 * t);
  } else {
    to[0] = to[3] = 0;
    to[1] = 1 - t;
    to[2] = t;
  }
}

const WX = new Float64Array(4);
const WY = new Float64Array(4);

/** Adds the planes' values at a position; there is nothing beyond the picture. */
function sample(
  planes: readonly (readonly [Float32Array, Float32Array])[],
  region: Rect,
  u: number,
  v: number,
  cubic: boolean,
  to: Float64Array,
): void {
  const [w, h] = [width(region), height(region)];
  const [x, y] = [u - 0.5 - region.x0, v - 0.5 - region.y0];
  const [x0, y0] = [Math.floor(x) - 1, Math.floor(y) - 1];
  if (x0 + 3 < 0 || y0 + 3 < 0 || x0 >= w || y0 >= h) return;
  weightsOf(x - Math.floor(x), cubic, WX);
  weightsOf(y - Math.floor(y), cubic, WY);
  for (let j = 0; j < 4; j++) {
    const row = y0 + j;
    if (row < 0 || row >= h || WY[j] === 0) continue;
    for (let i = 0; i < 4; i++) {
      const column = x0 + i;
      if (column < 0 || column >= w || WX[i] === 0) continue;
      const weight = WX[i]! * WY[j]!;
      const at = row * w + column;
      for (let k = 0; k < planes.length; k++) to[k]! += weight * planes[k]![0][at]!;
    }
  }
}
