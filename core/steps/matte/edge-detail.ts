import type { Plane } from '@/kernels';
import { guidedFilter, padded } from '../../filters/guided';
import { pushPull } from '../../filters/push-pull';
import { closedFormMatting } from '../../keying/closed-form';
import type { Rect } from '../../geometry/rect';
import { area, height, sameRect, union, width } from '../../geometry/rect';
import { choice, integer, number, strokes, toggle } from '../../param';
import { COLOUR } from '../../picture';
import type { RenderContext } from '../../step';
import { defineStep } from '../../step';
import { layRegion } from '../../paint/lay-strokes';
import type { StrokesValue } from '../../paint/pose';
import { copyShared } from '../../filters/copy';

/** Coverage from which a matte counts as solid, and under 1 less which as empty. */
const SURE = 0.995;

export const edgeDetail = defineStep({
  type: 'edgeDetail',
  title: 'Edge detail',
  family: 'Matte',
  summary: 'Finds coverage again where it is in doubt, from the colours on both sides: hair, fur and thin cloth.',
  params: {
    method: choice('Method', 'closedForm', [
      { value: 'closedForm', title: 'Closed form: the finest, seconds a frame' },
      { value: 'guided', title: 'Guided filter: quick' },
    ]),
    band: integer('Band', 4, [0, 40], {
      unit: 'px',
      min: 0,
      max: 200,
      pixels: true,
      help: 'Without the feeds, doubt is where the matte is partial, grown by this.',
    }),
    noise: number('Noise', 0.01, [0.001, 0.05], {
      min: 1e-5,
      max: 1,
      decimals: 4,
      help: 'Differences of colour smaller than this are no edge.',
    }),
    brush: strokes('Brush', { group: 'Where', help: 'Coverage is found again where this is brushed on the stage.' }),
    brushed: choice(
      'Brushed',
      'only',
      [
        { value: 'only', title: 'Only there' },
        { value: 'too', title: 'There, and at the edge' },
      ],
      { group: 'Where' },
    ),
    radius: integer('Radius', 6, [1, 30], { unit: 'px', min: 1, max: 100, pixels: true, group: 'Guided filter' }),
    iterations: integer('Iterations', 60, [10, 300], { min: 1, max: 2000, animatable: false, group: 'Closed form' }),
    recolour: toggle('Own colour', true, {
      animatable: false,
      help: 'What the background adds to a partial pixel is taken off, so that its colour is the subject’s own.',
    }),
  },
  feeds: [
    { name: 'plate', title: 'Plate', help: 'The picture whose colours decide; this one’s own without it.' },
    { name: 'background', title: 'Background', help: 'What lies behind, a screen plate for instance; worked out from around without it.' },
    { name: 'inside', title: 'Inside', help: 'Solid for sure where this is.', matte: true },
    { name: 'outside', title: 'Outside', help: 'Empty for sure where this is.', matte: true },
    { name: 'where', title: 'Where', help: 'Coverage is found again only where this matte is.', matte: true },
  ],
  writes: (p, channels) => channels.filter((c) => c === 'A' || (p.recolour && (COLOUR as readonly string[]).includes(c))),
  locality: 'whole',
  needs: (p, want, io) => {
    const region = union(io.inputs.main!.bounds, want.region);
    return [
      { input: 'main', region, channels: [...COLOUR, 'A'] },
      { input: 'plate', region, channels: COLOUR },
      { input: 'background', region, channels: p.recolour ? COLOUR : [] },
      ...['inside', 'outside', 'where'].map((input) => ({ input, region, channels: ['A'] })),
    ];
  },
  render(ctx, p, out) {
    const main = ctx.tile('main')!;
    const { region } = main;
    const [w, h] = [width(region), height(region)];
    const plate = ctx.tile('plate');
    const colour = COLOUR.map((c) => (plate ?? main).planes[c]!) as unknown as [Float32Array, Float32Array, Float32Array];
    const before = main.planes.A!;
    // What is found may be worked on where it goes to.
    const alpha = (sameRect(region, out.region) && out.planes.A) || ctx.scratch(area(region));
    const doubted = inDoubt(ctx, p, before, alpha, region);
    if (p.method === 'guided') {
      guided(ctx, colour, before, doubted, alpha, w, h, Math.max(1, Math.round(p.radius)), p.noise * p.noise);
    } else {
      const unknown = new Uint8Array(area(region));
      for (let k = 0; k < doubted.length; k++) unknown[doubted[k]!] = 1;
      closedFormMatting(
        { width: w, height: h, colour, unknown, alpha },
        { epsilon: 9 * p.noise * p.noise, iterations: p.iterations, tolerance: 1e-4, poll: () => ctx.poll() },
      );
      for (let k = 0; k < doubted.length; k++) alpha[doubted[k]!] = Math.min(1, Math.max(0, alpha[doubted[k]!]!));
    }
    if (out.planes.A && out.planes.A !== alpha) copyShared(ctx.kernels, alpha, region, out.planes.A, out.region);
    const wanted = p.recolour ? COLOUR.filter((c) => out.planes[c]) : [];
    if (wanted.length === 0) return;
    const given = ctx.tile('background');
    const behind = given ? COLOUR.map((c) => given.planes[c]!) : around(ctx, colour, alpha, w, h);
    const places = placesIn(doubted, region, out.region);
    for (const c of wanted) {
      const k = COLOUR.indexOf(c);
      const to = out.planes[c]!;
      copyShared(ctx.kernels, main.planes[c]!, region, to, out.region);
      ownColour(colour[k]!, behind[k]!, alpha, doubted, places, to);
    }
  },
});

/** Pixels in doubt lose what the background adds to them. */
function ownColour(seen: Plane, back: Plane, alpha: Plane, pixels: Int32Array, places: Int32Array, to: Plane): void {
  for (let j = 0; j < pixels.length; j++) {
    const [i, o] = [pixels[j]!, places[j]!];
    if (o < 0) continue;
    const a = alpha[i]!;
    const own = a <= 0 ? 0 : seen[i]! - (1 - a) * back[i]!;
    to[o] = own > 0 ? own : 0;
  }
}

/** Where the flags are set. */
function indicesOf(flags: Uint8Array): Int32Array {
  const list: number[] = [];
  for (let i = flags.indexOf(1); i >= 0; i = flags.indexOf(1, i)) for (; flags[i]; i++) list.push(i);
  return Int32Array.from(list);
}

/** Where pixels of a region lie in another; −1 for those outside it. */
function placesIn(pixels: Int32Array, region: Rect, other: Rect): Int32Array {
  if (sameRect(region, other)) return pixels;
  const [w, ow, oh] = [width(region), width(other), height(other)];
  return pixels.map((i) => {
    const row = Math.floor(i / w);
    const x = i - row * w + region.x0 - other.x0;
    const y = row + region.y0 - other.y0;
    return x < 0 || y < 0 || x >= ow || y >= oh ? -1 : y * ow + x;
  });
}

/** The pixels in doubt, in order; sets `alpha` to coverage where it is not in doubt, to what it was where it is. */
function inDoubt<P>(
  ctx: RenderContext<P>,
  p: { band: number; brush: StrokesValue; brushed: 'only' | 'too' },
  matte: Plane,
  alpha: Plane,
  region: Rect,
): Int32Array {
  alpha.set(matte);
  const brushed = p.brush.list.length === 0 ? null : new Float32Array(area(region));
  if (brushed) layRegion(p.brush.list, ctx.scale, region, brushed);
  const where = ctx.tile('where')?.planes.A;
  const fed = ctx.tile('inside') ?? ctx.tile('outside');
  const band = Math.round(p.band);
  if (!brushed && !where && !fed && band === 0) return partialPixels(ctx, matte, region);
  let unknown: Uint8Array = new Uint8Array(area(region));
  if (!brushed || p.brushed === 'too') {
    if (fed) unknown = doubtBetween(ctx, matte, alpha);
    else {
      for (const i of partialPixels(ctx, matte, region)) unknown[i] = 1;
      unknown = widen(unknown, width(region), height(region), band);
    }
  }
  if (where) for (let i = 0; i < alpha.length; i++) if (where[i]! < 0.5) [unknown[i], alpha[i]] = [0, matte[i]!];
  if (brushed) for (let i = 0; i < alpha.length; i++) if (brushed[i]! >= 0.5) [unknown[i], alpha[i]] = [1, matte[i]!];
  return indicesOf(unknown);
}

/** Where a matte is neither solid nor empty. */
function partialPixels<P>(ctx: RenderContext<P>, matte: Plane, region: Rect): Int32Array {
  const { fn } = ctx.kernels;
  const list = ctx.scratch(matte.length + height(region));
  const count = fn.runsBetween(matte.byteOffset, list.byteOffset, width(region), height(region), 1 - SURE, SURE);
  const pairs = new Int32Array(list.buffer, list.byteOffset, 2 * count);
  let total = 0;
  for (let k = 0; k < pairs.length; k += 2) total += pairs[k + 1]! - pairs[k]!;
  const pixels = new Int32Array(total);
  for (let k = 0, n = 0; k < pairs.length; k += 2) for (let i = pairs[k]!; i < pairs[k + 1]!; i++) pixels[n++] = i;
  return pixels;
}

/**
 * Doubt between what the feeds say is sure, flag by flag; what is sure is set in `alpha`. Where one of the two is not fed the matte
 * itself says what is sure on that side.
 */
function doubtBetween<P>(ctx: RenderContext<P>, matte: Plane, alpha: Plane): Uint8Array {
  const inside = ctx.tile('inside')?.planes.A;
  const outside = ctx.tile('outside')?.planes.A;
  const unknown = new Uint8Array(alpha.length);
  for (let i = 0; i < alpha.length; i++) {
    if (inside ? inside[i]! >= SURE : matte[i]! >= SURE) alpha[i] = 1;
    else if (outside ? outside[i]! >= SURE : matte[i]! <= 1 - SURE) alpha[i] = 0;
    else unknown[i] = 1;
  }
  return unknown;
}

/** Pixels of a block's side: with a radius of 3 each way a block's planes are 64 × 64. */
const BLOCK = 52;

/** The guided filter where something is in doubt: block by block, each with what it reads around it. */
function guided<P>(
  ctx: RenderContext<P>,
  colour: readonly Plane[],
  matte: Plane,
  doubted: Int32Array,
  alpha: Plane,
  w: number,
  h: number,
  radius: number,
  epsilon: number,
): void {
  const { kernels } = ctx;
  const pad = 2 * radius;
  for (const [block, pixels] of byBlock(doubted, w)) {
    ctx.poll();
    const [x0, y0] = [(block % Math.ceil(w / BLOCK)) * BLOCK, Math.floor(block / Math.ceil(w / BLOCK)) * BLOCK];
    const [left, top] = [Math.max(0, x0 - pad), Math.max(0, y0 - pad)];
    const [bw, bh] = [Math.min(w, x0 + BLOCK + pad) - left, Math.min(h, y0 + BLOCK + pad) - top];
    const stride = padded(bw);
    const [r, g, b, a] = [...colour, matte].map((plane) => {
      const to = kernels.take(stride * padded(bh));
      kernels.fn.copyRows(plane.byteOffset + 4 * (top * w + left), w, to.byteOffset, bw, bh, 0, stride - bw);
      return to;
    }) as [Plane, Plane, Plane, Plane];
    const found = guidedFilter(kernels, [r, g, b], a, bw, bh, radius, epsilon);
    kernels.fn.clampPlane(found.byteOffset, found.byteOffset, found.length, 0, 1);
    for (let k = 0; k < pixels.length; k++) {
      const i = pixels[k]!;
      const y = Math.floor(i / w);
      alpha[i] = found[(y - top) * stride + i - y * w - left]!;
    }
    [r, g, b, a, found].forEach((plane) => kernels.give(plane));
  }
}

/** Pixels of a plane by the block that they lie in: the blocks' numbers, row by row of blocks, and the pixels of each. */
function* byBlock(pixels: Int32Array, w: number): Generator<[number, Int32Array]> {
  const across = Math.ceil(w / BLOCK);
  const blocks = pixels.map((i) => Math.floor(i / w / BLOCK) * across + Math.floor((i % w) / BLOCK));
  // By counting: the pixels are in order, so the last one's row of blocks is the last.
  const ends = new Int32Array(pixels.length ? blocks[pixels.length - 1]! + across + 1 : 0);
  for (let k = 0; k < blocks.length; k++) ends[blocks[k]!]!++;
  for (let b = 1; b < ends.length; b++) ends[b]! += ends[b - 1]!;
  const sorted = new Int32Array(pixels.length);
  const next = ends.slice();
  for (let k = pixels.length - 1; k >= 0; k--) sorted[--next[blocks[k]!]!] = pixels[k]!;
  for (let b = 0; b < ends.length; b++) if (ends[b]! > next[b]!) yield [b, sorted.subarray(next[b], ends[b])];
}

/** Flags grown by a square of a radius, along rows and then columns. */
function widen(flags: Uint8Array, w: number, h: number, radius: number): Uint8Array {
  if (radius < 1) return flags;
  const along = (from: Uint8Array, lines: number, length: number, step: number, apart: number): Uint8Array => {
    const to = new Uint8Array(from.length);
    for (let l = 0; l < lines; l++) {
      let last = -Infinity;
      for (let k = 0, i = l * apart; k < length; k++, i += step) {
        if (from[i]) last = k;
        to[i] = +(k - last <= radius);
      }
      last = Infinity;
      for (let k = length - 1, i = l * apart + (length - 1) * step; k >= 0; k--, i -= step) {
        if (from[i]) last = k;
        if (last - k <= radius) to[i] = 1;
      }
    }
    return to;
  };
  return along(along(flags, h, w, 1, w), w, h, w, 1);
}

/** What the background would be everywhere, carried in from where nothing covers it. */
function around<P>(ctx: RenderContext<P>, colour: readonly Plane[], alpha: Plane, w: number, h: number): Plane[] {
  const weight = ctx.scratch(alpha.length);
  for (let i = 0; i < weight.length; i++) weight[i] = +(alpha[i]! <= 1 - SURE);
  const planes = colour.map((c) => {
    const plane = ctx.scratch(c.length);
    ctx.kernels.fn.multiply(c.byteOffset, weight.byteOffset, plane.byteOffset, c.length);
    return plane;
  });
  ctx.poll();
  pushPull(ctx.kernels, planes, weight, w, h);
  return planes;
}
