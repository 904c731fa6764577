import { padTo } from '../../filters/pad';
import { positionPlanes } from '../../filters/position-planes';
import type { ResampleFilter } from '../../filters/resample';
import { resample, resampleRegion, resampleSpread, tapsOf } from '../../filters/resample';
import { Packed, mapRegion, sampleThrough } from '../../filters/sample';
import { Sizes } from '../../filters/sizes';
import { boundsOfImage } from '../../geometry/affine';
import { IDENTITY_H } from '../../geometry/fit';
import { Mapping } from '../../geometry/mapping';
import { keepsValues } from '../../layers';
import type { Rect } from '../../geometry/rect';
import { EMPTY, area, grow, intersect, isEmpty, rect, union } from '../../geometry/rect';
import { integer, number } from '../../param';
import type { Format, Tile } from '../../picture';
import type { Need, RenderContext, StepIo, Want } from '../../step';
import { pixelsOf } from '../../step';

type Filtered = { filter: ResampleFilter };

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
/** Places along each side at which the image of a rectangle is looked at. */
const PLACES = 24;

/** The rectangle that the image of another has; the frame where that is beyond the horizon, and no more than three frames wide. */
function imageBounds(m: Mapping, format: Format, { x0, y0, x1, y1 }: Rect): Rect {
  const to = new Float64Array(2);
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  // Of a matrix the corners tell it all; a curve may bulge between them, and may have no place for some.
  const places = m.forward ? 1 : PLACES;
  let beyond = false;
  for (let j = 0; j <= places; j++) {
    for (let i = 0; i <= places; i++) {
      m.forth(x0 + (i / places) * (x1 - x0), y0 + (j / places) * (y1 - y0), to);
      if (!Number.isFinite(to[0]) || !Number.isFinite(to[1])) {
        beyond = true;
        continue;
      }
      [left, right] = [Math.min(left, to[0]!), Math.max(right, to[0]!)];
      [top, bottom] = [Math.min(top, to[1]!), Math.max(bottom, to[1]!)];
    }
  }
  const frame = rect(0, 0, format.width, format.height);
  if (left > right || (beyond && m.forward)) return frame;
  const limit = (v: number, size: number): number => Math.min(3 * size, Math.max(-2 * size, v));
  const found = rect(
    Math.floor(limit(left, format.width)) - 1,
    Math.floor(limit(top, format.height)) - 1,
    Math.ceil(limit(right, format.width)) + 1,
    Math.ceil(limit(bottom, format.height)) + 1,
  );
  return beyond ? union(found, frame) : found;
}

/** Of a shutter's maps as many as their motion asks for: neighbours lie no more than two thirds of a pixel apart. */
function sparing(maps: readonly Mapping[], { width: w, height: h }: Format): readonly Mapping[] {
  if (maps.length < 3) return maps;
  const [first, last] = [maps[0]!, maps[maps.length - 1]!];
  const moved = [0, 1, 2, 3].map((i) => {
    const [x, y] = [i % 2 ? w : 0, i > 1 ? h : 0];
    const [a, b] = [first.place(x, y), last.place(x, y)];
    return Math.hypot(a[0] - b[0], a[1] - b[1]);
  });
  if (moved.some((d) => !Number.isFinite(d))) return maps;
  const count = Math.min(maps.length, Math.max(1, Math.ceil(1.5 * Math.max(...moved)) + 1));
  return Array.from({ length: count }, (_, i) => maps[Math.floor(((i + 0.5) / count) * maps.length)]!);
}

const visible = (placements: readonly Mapping[]): readonly Mapping[] => placements.filter((m) => !m.isFlat);

/** What every placing step does with its mappings, mixed over the shutter's samples. */
export const placing = {
  bounds: (p: Filtered, io: StepIo<unknown>): Rect => {
    const { format, bounds } = io.inputs.main!;
    return visible(io.placements).reduce<Rect>((all, m) => {
      const affine = m.affineBackward;
      const image = affine ? boundsOfImage(m.forward!.slice(0, 6) as never, bounds) : imageBounds(m, format, bounds);
      return union(all, affine ? resampleSpread(affine, p.filter, image) : image);
    }, EMPTY);
  },

  needs: (p: Filtered, want: Want, io: StepIo<unknown>): readonly Need[] => {
    const { bounds } = io.inputs.main!;
    const maps = visible(io.placements);
    const whole = { input: 'main', region: bounds, channels: want.channels };
    if (!maps.every((m) => m.affineBackward)) return [whole];
    const region = maps.reduce<Rect>((all, m) => union(all, resampleRegion(want.region, m.affineBackward!, p.filter)), EMPTY);
    // Beyond the picture there is nothing to read; one pixel more keeps a whole-pixel move from reading only its own place.
    return [{ ...whole, region: intersect(region, maps.some((m) => m.holds) ? bounds : grow(bounds, 1)) }];
  },

  spreads: (p: Filtered): boolean => p.filter !== 'nearest',

  /** Depth, vectors and ids are moved as they are, each from the pixel that lands there. */
  readsData: true,

  render(ctx: RenderContext<unknown>, p: Filtered, out: Tile): void {
    const data = Object.keys(out.planes).filter(keepsValues);
    if (data.length === 0 || p.filter === 'nearest') return renderPlaced(ctx, p, out);
    const some = (names: readonly string[]): Tile => ({
      region: out.region,
      planes: Object.fromEntries(names.map((c) => [c, out.planes[c]!])),
    });
    const light = Object.keys(out.planes).filter((c) => !data.includes(c));
    if (light.length > 0) renderPlaced(ctx, p, some(light));
    const { placements } = ctx;
    const middle = { ...ctx, inputsKey: ctx.inputsKey, placements: placements.slice(placements.length >> 1).slice(0, 1) };
    renderPlaced(middle, { filter: 'nearest' }, some(data));
  },
};

function renderPlaced(ctx: RenderContext<unknown>, p: Filtered, out: Tile): void {
  const given = ctx.tile('main')!;
  const maps = sparing(visible(ctx.placements), ctx.inputs.main!.format);
  const names = Object.keys(out.planes);
  const outs = names.map((c) => out.planes[c]!);
  if (isEmpty(given.region) || maps.length === 0) return outs.forEach((o) => void o.fill(0));
  const holds = maps.some((m) => m.holds);
  const region = holds ? grow(given.region, HOLD) : given.region;
  const planes = names.map((c) => (holds ? held(ctx, given.planes[c]!, given.region, region) : given.planes[c]!));
  // All shutter samples look at the same picture: it is packed once.
  let packed: Packed | undefined;
  let sizes: Sizes | undefined;
  const kept = (): Packed => (packed ??= Packed.of(ctx.kernels, planes, region));
  const poll = (): void => ctx.poll();
  try {
    if (maps.every((m) => m.affineBackward)) meanOfAffine(ctx, { maps, planes, region, kept }, p.filter, out);
    else {
      if (maps.length > 1) outs.forEach((o) => void o.fill(0));
      maps.forEach((map, i) => {
        // Four shutter samples and more look at places of their own in the pixel, so that each needs fewer.
        const apart = maps.length >= 4;
        const look = apart ? map.then(Mapping.by([1, 0, i % 2 ? -0.125 : 0.125, 0, 1, (i >> 1) % 2 ? -0.125 : 0.125])) : map;
        const options = { most: apart ? MOST / 2 : MOST, poll, ...(maps.length > 1 && { gain: 1 / maps.length, lays: 'add' as const }) };
        throughMapping(ctx, (sizes ??= new Sizes(kept())), look, outs, out.region, p.filter, options);
      });
    }
  } finally {
    if (sizes) sizes.give();
    else packed?.give();
  }
}

interface Given {
  maps: readonly Mapping[];
  planes: readonly Float32Array[];
  region: Rect;
  kept: () => Packed;
}

function meanOfAffine(ctx: RenderContext<unknown>, { maps, planes, region, kept }: Given, filter: ResampleFilter, out: Tile): void {
  const outs = Object.values(out.planes);
  const n = pixelsOf(out);
  const pass = maps.length > 1 ? outs.map(() => ctx.scratch(n)) : outs;
  if (pass !== outs) outs.forEach((o) => void o.fill(0));
  for (const m of maps) {
    resample(ctx.kernels, planes, region, pass, out.region, m.affineBackward!, filter, () => ctx.poll(), kept);
    if (pass === outs) return;
    outs.forEach((o, i) => ctx.kernels.fn.addScaled(o.byteOffset, pass[i]!.byteOffset, o.byteOffset, n, 1 / maps.length));
  }
}

/** One look through a mapping: by its matrix, or by planes of positions. */
export function throughMapping(
  ctx: RenderContext<unknown>,
  sizes: Sizes,
  mapping: Mapping,
  outs: readonly Float32Array[],
  region: Rect,
  filter: ResampleFilter,
  options: Parameters<typeof sampleThrough>[6],
): void {
  const matrix = mapping.backward;
  const { packed, back } = sizes.through(matrix ?? IDENTITY_H, filter);
  const planes = matrix ? null : positionPlanes(ctx.kernels, mapping, mapRegion(region), () => ctx.poll());
  try {
    sampleThrough(ctx.kernels, packed, outs, region, planes ?? back, tapsOf(filter), options);
  } finally {
    if (planes) [planes.xs, planes.ys].forEach((p) => ctx.kernels.give(p));
  }
}

/** A plane with its edges repeated outward. */
function held(ctx: RenderContext<unknown>, plane: Float32Array, have: Rect, wide: Rect): Float32Array {
  const to = ctx.scratch(area(wide));
  padTo(plane, have, to, wide, have);
  return to;
}
