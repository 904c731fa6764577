import type { Plane } from '@/kernels';
import { guidedFilter, padded } from '../../filters/guided';
import { pushPull } from '../../filters/push-pull';
import { closedFormMatting } from '../../keying/closed-form';
import type { Rect } from '../../geometry/rect';
import { area, height, union, width } from '../../geometry/rect';
import { choice, integer, number, strokes, toggle } from '../../param';
import { COLOUR } from '../../picture';
import type { RenderContext } from '../../step';
import { defineStep } from '../../step';
import { layStrokes } from '../../shape/lay-strokes';
import { parseStrokes } from '../../shape/strokes';
import { copyShared } from '../../filters/copy';

/** Coverage from which a matte counts as solid, and under 1 less which as empty. */
const SURE = 0.995;

export const edgeDetail = defineStep({
  type: 'edgeDetail',
  title: 'Edge detail',
  family: 'Matte',
  summary: 'Finds coverage anew where it is in doubt, from the colours on both sides: hair, fur and thin cloth.',
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
    brush: strokes('Brush', { group: 'Where', help: 'Coverage is found anew where this is brushed on the stage.' }),
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
    { name: 'inside', title: 'Inside', help: 'Solid for sure where this is.' },
    { name: 'outside', title: 'Outside', help: 'Empty for sure where this is.' },
    { name: 'where', title: 'Where', help: 'Coverage is found anew only where this matte is.' },
  ],
  writes: (p, channels) => channels.filter((c) => c === 'A' || (p.recolour && (COLOUR as readonly string[]).includes(c))),
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
    const { alpha, unknown } = trimap(ctx, p, main.planes.A!, region);
    const before = main.planes.A!;
    if (p.method === 'guided') {
      guided(ctx, colour, before, unknown, alpha, w, h, Math.max(1, Math.round(p.radius)), p.noise * p.noise);
    } else {
      closedFormMatting(
        { width: w, height: h, colour, unknown, alpha },
        { epsilon: 9 * p.noise * p.noise, iterations: p.iterations, tolerance: 1e-4, poll: () => ctx.poll() },
      );
    }
    const doubted = indicesOf(unknown);
    for (const i of doubted) alpha[i] = Math.min(1, Math.max(0, alpha[i]!));
    if (out.planes.A) copyShared(alpha, region, out.planes.A, out.region);
    const wanted = p.recolour ? COLOUR.filter((c) => out.planes[c]) : [];
    if (wanted.length === 0) return;
    const given = ctx.tile('background');
    const behind = given ? COLOUR.map((c) => given.planes[c]!) : around(colour, alpha, w, h, () => ctx.poll());
    const places = placesIn(doubted, region, out.region);
    for (const c of wanted) {
      const k = COLOUR.indexOf(c);
      const to = out.planes[c]!;
      const [seen, back] = [colour[k]!, behind[k]!];
      copyShared(main.planes[c]!, region, to, out.region);
      for (let j = 0; j < doubted.length; j++) {
        const [i, o] = [doubted[j]!, places[j]!];
        if (o < 0) continue;
        const a = alpha[i]!;
        to[o] = a <= 0 ? 0 : Math.max(0, seen[i]! - (1 - a) * back[i]!);
      }
    }
  },
});

/** Where the flags are set. */
function indicesOf(flags: Uint8Array): Int32Array {
  let count = 0;
  for (let i = 0; i < flags.length; i++) count += flags[i]!;
  const list = new Int32Array(count);
  for (let i = 0, k = 0; k < count; i++) if (flags[i]) list[k++] = i;
  return list;
}

/** Where pixels of a region lie in another; −1 for those outside it. */
function placesIn(pixels: Int32Array, region: Rect, other: Rect): Int32Array {
  const [w, ow, oh] = [width(region), width(other), height(other)];
  return pixels.map((i) => {
    const row = Math.floor(i / w);
    const x = i - row * w + region.x0 - other.x0;
    const y = row + region.y0 - other.y0;
    return x < 0 || y < 0 || x >= ow || y >= oh ? -1 : y * ow + x;
  });
}

/** Which pixels are in doubt, and coverage where it is not; in doubt, what it was. */
function trimap<P>(
  ctx: RenderContext<P>,
  p: { band: number; brush: string; brushed: 'only' | 'too' },
  matte: Float32Array,
  region: Rect,
): { alpha: Plane; unknown: Uint8Array } {
  const alpha = ctx.scratch(matte.length);
  alpha.set(matte);
  const brushed = p.brush === '' ? null : layStrokes(parseStrokes(p.brush), ctx.scale, region).coverage;
  const unknown = brushed && p.brushed === 'only' ? new Uint8Array(area(region)) : bandOfDoubt(ctx, p.band, matte, alpha, region);
  const where = ctx.tile('where')?.planes.A;
  if (where) for (let i = 0; i < alpha.length; i++) if (where[i]! < 0.5) [unknown[i], alpha[i]] = [0, matte[i]!];
  if (brushed) for (let i = 0; i < alpha.length; i++) if (brushed[i]! >= 0.5) [unknown[i], alpha[i]] = [1, matte[i]!];
  return { alpha, unknown };
}

/** Doubt at the edge, from the feeds or from the matte; what is sure of `alpha` is set. */
function bandOfDoubt<P>(ctx: RenderContext<P>, band: number, matte: Float32Array, alpha: Float32Array, region: Rect): Uint8Array {
  const inside = ctx.tile('inside')?.planes.A;
  const outside = ctx.tile('outside')?.planes.A;
  const unknown = new Uint8Array(area(region));
  if (!inside && !outside) {
    const { fn } = ctx.kernels;
    // Runs of coverage that is neither: min(A, 1 − A) says how far it is from both.
    const [apart, list] = [ctx.scratch(matte.length), ctx.scratch(matte.length + height(region))];
    fn.affine(matte.byteOffset, apart.byteOffset, matte.length, -1, 1);
    fn.minPlane(matte.byteOffset, apart.byteOffset, apart.byteOffset, matte.length);
    const count = fn.runsAbove(apart.byteOffset, list.byteOffset, width(region), height(region), 1, 1 - SURE);
    const pairs = new Int32Array(list.buffer, list.byteOffset, 2 * count);
    for (let i = 0; i < pairs.length; i += 2) unknown.fill(1, pairs[i], pairs[i + 1]);
    return widen(unknown, width(region), height(region), Math.round(band));
  }
  // Where one of the two is not fed the matte itself says what is sure on that side.
  for (let i = 0; i < alpha.length; i++) {
    if (inside ? inside[i]! >= SURE : matte[i]! >= SURE) alpha[i] = 1;
    else if (outside ? outside[i]! >= SURE : matte[i]! <= 1 - SURE) alpha[i] = 0;
    else unknown[i] = 1;
  }
  return unknown;
}

/** Pixels of a block's side. */
const BLOCK = 96;

/** The guided filter where something is in doubt: block by block, each with what it reads around it. */
function guided<P>(
  ctx: RenderContext<P>,
  colour: readonly Plane[],
  matte: Plane,
  unknown: Uint8Array,
  alpha: Float32Array,
  w: number,
  h: number,
  radius: number,
  epsilon: number,
): void {
  const { kernels } = ctx;
  for (let y0 = 0; y0 < h; y0 += BLOCK) {
    ctx.poll();
    for (let x0 = 0; x0 < w; x0 += BLOCK) {
      const [x1, y1] = [Math.min(w, x0 + BLOCK), Math.min(h, y0 + BLOCK)];
      let any = false;
      for (let y = y0; y < y1 && !any; y++) any = unknown.subarray(y * w + x0, y * w + x1).includes(1);
      if (!any) continue;
      const pad = 2 * radius;
      const [left, top] = [Math.max(0, x0 - pad), Math.max(0, y0 - pad)];
      const [bw, bh] = [Math.min(w, x1 + pad) - left, Math.min(h, y1 + pad) - top];
      const stride = padded(bw);
      const [r, g, b, a] = [...colour, matte].map((plane) => {
        const to = kernels.take(stride * padded(bh));
        for (let y = 0; y < bh; y++) to.set(plane.subarray((top + y) * w + left, (top + y) * w + left + bw), y * stride);
        return to;
      }) as [Plane, Plane, Plane, Plane];
      const found = guidedFilter(kernels, [r, g, b], a, bw, bh, radius, epsilon);
      for (let y = y0; y < y1; y++) {
        for (let x = x0; x < x1; x++) if (unknown[y * w + x]) alpha[y * w + x] = found[(y - top) * stride + x - left]!;
      }
      [r, g, b, a, found].forEach((plane) => kernels.give(plane));
    }
  }
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
function around(colour: readonly Float32Array[], alpha: Float32Array, w: number, h: number, poll: () => void): Float32Array[] {
  const weight = Float32Array.from(alpha, (a) => +(a <= 1 - SURE));
  const planes = colour.map((c) => {
    const plane = new Float32Array(c.length);
    for (let i = 0; i < plane.length; i++) plane[i] = c[i]! * weight[i]!;
    return plane;
  });
  poll();
  pushPull(planes, weight, w, h);
  return planes;
}
