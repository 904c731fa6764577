import { IDENTITY_H, invert, multiply } from '../../geometry/fit';
import type { Affine } from '../../geometry/affine';
import type { Homography } from '../../geometry/homography';
import { applyHomography } from '../../geometry/homography';
import type { Rect } from '../../geometry/rect';
import { EMPTY, grow, height, intersect, isEmpty, rect, union, width } from '../../geometry/rect';
import { choice, integer, number } from '../../param';
import type { Format, Tile } from '../../picture';
import { formatRect } from '../../picture';
import type { Need, RenderContext, StepIo, Want } from '../../step';
import { resample, resampleRegion, tapsOf } from '../../filters/resample';
import { Packed, sampleThrough } from '../../filters/sample';

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

/** Of a shutter's maps as many as their motion asks for: neighbours lie no more than two thirds of a pixel apart. */
function sparing(maps: readonly Homography[], { width: w, height: h }: Format): readonly Homography[] {
  if (maps.length < 3) return maps;
  const [first, last] = [invert(maps[0]!), invert(maps[maps.length - 1]!)];
  if (!first || !last) return maps;
  const moved = [0, 1, 2, 3].map((i) => {
    const [x, y] = [i % 2 ? w : 0, i > 1 ? h : 0];
    const [a, b] = [applyHomography(first, x, y), applyHomography(last, x, y)];
    return Math.hypot(a[0] - b[0], a[1] - b[1]);
  });
  const count = Math.min(maps.length, Math.max(1, Math.ceil(1.5 * Math.max(...moved)) + 1));
  return Array.from({ length: count }, (_, i) => maps[Math.floor(((i + 0.5) / count) * maps.length)]!);
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

/** The map at the middle of its shutter. */
export const warpMiddle = ({ backward }: Warp): Homography => backward[backward.length >> 1] ?? IDENTITY_H;

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
export function renderWarp(ctx: RenderContext<unknown>, asked: Warp, out: Tile): void {
  const warp = { ...asked, backward: sparing(asked.backward, ctx.inputs.main!.format) };
  const given = ctx.tile('main')!;
  const outs = Object.values(out.planes);
  if (isEmpty(given.region)) return outs.forEach((plane) => void plane.fill(0));
  const names = Object.keys(out.planes);
  const region = warp.hold ? grow(given.region, HOLD) : given.region;
  const planes = names.map((c) => (warp.hold ? held(ctx, given.planes[c]!, given.region, region) : given.planes[c]!));
  const [only] = warp.backward;
  if (warp.backward.length === 1 && isAffine(only!)) {
    ctx.poll();
    return resample(ctx.kernels, planes, region, outs, out.region, affinePart(only!), warp.cubic ? 'catmullRom' : 'bilinear', () =>
      ctx.poll(),
    );
  }
  outs.forEach((o) => void o.fill(0));
  // Four shutter samples and more look at places of their own in the pixel, so that each needs fewer.
  const apart = warp.backward.length >= 4;
  const taps = tapsOf(warp.cubic ? 'catmullRom' : 'bilinear');
  const packed = new Packed(ctx.kernels, planes, region);
  try {
    warp.backward.forEach((map, i) => {
      const look = apart ? multiply(map, [1, 0, i % 2 ? 0.125 : -0.125, 0, 1, (i >> 1) % 2 ? 0.125 : -0.125, 0, 0, 1]) : map;
      const options = { most: apart ? MOST / 2 : MOST, share: 1 / warp.backward.length, poll: () => ctx.poll() };
      sampleThrough(ctx.kernels, packed, outs, out.region, look, taps, options);
    });
  } finally {
    packed.give();
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
