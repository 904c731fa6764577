import type { Plane } from '@/kernels';
import { spansOf, spansOfPicture } from '../../filters/aperture';
import type { Aperture, Spans } from '../../filters/aperture';
import { area, grow, height, intersect, isEmpty, rect, width } from '../../geometry/rect';
import type { Rect } from '../../geometry/rect';
import { focusByDepth } from '../../passes/depth-of-field';
import { choice, integer, number, place, placeIn, toggle } from '../../param';
import type { Format } from '../../picture';
import { RGBA, domainOf } from '../../picture';
import type { RenderContext } from '../../step';
import { defineStep } from '../../step';
import type { DriverChannel } from '../over-frame';
import { DRIVER_CHANNELS, overFrame } from '../over-frame';
import { around, bySpans } from './spread';

interface Values {
  radius: number;
  by: 'even' | 'ramp' | 'map';
  from: readonly [number, number];
  to: readonly [number, number];
  channel: DriverChannel;
  invert: boolean;
  blades: number;
  turn: number;
  squeeze: number;
  roundness: number;
  rim: number;
  swirl: number;
}

const apertureOf = (p: Values): Aperture => ({
  blades: p.blades,
  turn: p.turn,
  squeeze: p.squeeze,
  roundness: p.roundness,
  rim: p.rim,
});

/** The radius that counts: one as large as the picture is wide leaves nothing to be seen in it. */
const radiusOf = (p: Values, { width: w, height: h }: Format): number => Math.min(p.radius, Math.max(w, h) / Math.max(1, p.squeeze));
/** Pixels that light is spread over to each side. */
const reachOf = (p: Values, format: Format): number => Math.ceil(1.4 * radiusOf(p, format) * Math.max(1, p.squeeze)) + 3;

/** Of the barrel's cut a piece has one shape: pieces across half of the frame's diagonal. */
const PIECES = 24;

export const defocus = defineStep({
  type: 'defocus',
  title: 'Defocus',
  family: 'Filter',
  summary: 'Spreads each point over the shape of an aperture, as a lens out of focus does: evenly, along a ramp or by a picture.',
  params: {
    radius: number('Radius', 8, [0, 60], { unit: 'px', min: 0, max: 400, pixels: true }),
    by: choice('Varies', 'even', [
      { value: 'even', title: 'Not: the same everywhere' },
      { value: 'ramp', title: 'Along a ramp', help: 'From none at one place to the radius at another.' },
      { value: 'map', title: 'By a picture', help: 'Sharp where it is black, the radius where it is white.' },
    ]),
    from: place('Sharp at', [0, 0], { when: { by: ['ramp'] } }),
    to: place('Radius at', [0, 200], { when: { by: ['ramp'] } }),
    channel: choice('Channel', 'luma', DRIVER_CHANNELS, { when: { by: ['map'] } }),
    invert: toggle('Invert map', false, { animatable: false, when: { by: ['map'] } }),
    order: choice(
      'Blurred part lies',
      'behind',
      [
        { value: 'behind', title: 'Behind', help: 'What is sharp does not leak into it, and is not covered by it.' },
        { value: 'front', title: 'In front', help: 'It spreads over what is sharp.' },
      ],
      { when: { by: ['ramp', 'map'] } },
    ),
    blades: integer('Blades', 0, [0, 11], { min: 0, max: 16, group: 'Aperture', animatable: false, help: 'Below 3 it is round.' }),
    roundness: number('Roundness', 0, [0, 1], { min: 0, max: 1, group: 'Aperture', help: 'Of the blades.' }),
    turn: number('Turn', 0, [-90, 90], { unit: '°', group: 'Aperture' }),
    squeeze: number('Squeeze', 1, [0.3, 2], {
      min: 0.1,
      max: 4,
      group: 'Aperture',
      help: 'Width over height: 0.5 of a 2× anamorphic lens.',
    }),
    rim: number('Rim', 0, [-0.5, 2], { min: -0.9, max: 10, group: 'Aperture', help: 'How much brighter the rim is than the middle.' }),
    swirl: number("Barrel's cut", 0, [0, 1], {
      min: 0,
      max: 1,
      group: 'Aperture',
      when: { by: ['even'] },
      help: 'Towards the corners the barrel cuts the aperture off: discs become cat’s eyes.',
    }),
  },
  feeds: [
    { name: 'map', title: 'Map', help: 'Says how much is blurred where; it lies on the frame as it is.' },
    {
      name: 'shape',
      title: 'Aperture',
      help: 'A picture of the aperture, in place of blades: its brightness counts. Where it is the same everywhere.',
    },
  ],
  remark: (p, io) => (p.by === 'map' && !io.inputs.map ? 'connect the picture that says how much is blurred' : null),
  neutral: (p, io) => p.radius < 0.2 || (p.by === 'map' && !io.inputs.map),
  bounds: (p, io) => {
    const { bounds, format } = io.inputs.main!;
    return intersect(grow(bounds, reachOf(p as Values, format)), domainOf({ bounds, format }));
  },
  writes: (_, channels) => channels.filter((c) => (RGBA as readonly string[]).includes(c)),
  locality: (p) => (p.by === 'even' ? 'region' : 'whole'),
  needs(p, { region }, io) {
    const main = io.inputs.main!;
    const needs = [
      {
        input: 'main',
        region: intersect(grow(region, reachOf(p as Values, io.inputs.main!.format)), main.bounds),
        channels: RGBA as readonly string[],
      },
    ];
    if (p.by === 'map') needs.push({ input: 'map', region: io.inputs.map!.bounds, channels: RGBA });
    else if (p.by === 'even' && io.inputs.shape) needs.push({ input: 'shape', region: io.inputs.shape.bounds, channels: RGBA });
    return needs;
  },
  render(ctx, p, out) {
    const from = ctx.tile('main')!;
    if (isEmpty(out.region)) return;
    if (isEmpty(from.region)) return void Object.values(out.planes).forEach((plane) => plane.fill(0));
    const { format } = ctx.inputs.main!;
    const v = { ...(p as Values), radius: radiusOf(p as Values, format) };
    const want = grow(out.region, reachOf(v, format));
    const planes = around(ctx, RGBA, want) as [Plane, Plane, Plane, Plane];
    ctx.poll();
    if (p.by === 'even') even(ctx, v, planes, want, out);
    else varying(ctx, v, p.order === 'front', planes, want, out);
  },
});

type Context = RenderContext<unknown>;
type Out = Parameters<typeof defocus.render>[2];

function even(ctx: Context, p: Values, planes: readonly Plane[], want: Rect, out: Out): void {
  const reach = reachOf(p, ctx.inputs.main!.format);
  const shape = ctx.tile('shape');
  const round: Spans = shape ? ofPicture(shape, p) : spansOf(p.radius, apertureOf(p));
  const { width: fw, height: fh } = ctx.inputs.main!.format;
  const half = Math.hypot(fw, fh) / 2;
  const cuts = p.swirl > 0 && !shape;
  // Pieces lie on a grid of the frame's own, so that any part of it is made as the whole.
  const side = Math.max(4, Math.round(half / PIECES));
  const outs = RGBA.map((c) => out.planes[c] ?? ctx.scratch(area(out.region)));
  const { x0, y0, x1, y1 } = out.region;
  const poll = (): void => ctx.poll();
  bySpans(ctx, planes, want, outs, out.region, reach, (sums, to, stride) => {
    if (!cuts) return sums.blur(round.list, x0 - want.x0, y0 - want.y0, stride, height(out.region), to, stride, poll);
    for (let y = Math.floor(y0 / side) * side; y < y1; y += side) {
      for (let x = Math.floor(x0 / side) * side; x < x1; x += side) {
        const piece = intersect(out.region, rect(x, y, x + side, y + side));
        if (isEmpty(piece)) continue;
        const cut = [(-1.2 * p.swirl * (x + side / 2 - fw / 2)) / half, (-1.2 * p.swirl * (y + side / 2 - fh / 2)) / half] as const;
        const { list } = spansOf(p.radius, { ...apertureOf(p), cut });
        const there = to + 16 * ((piece.y0 - y0) * stride + piece.x0 - x0);
        sums.blur(list, piece.x0 - want.x0, piece.y0 - want.y0, width(piece), height(piece), there, stride, poll);
      }
    }
  });
}

function ofPicture({ region, planes }: NonNullable<ReturnType<Context['tile']>>, p: Values): Spans {
  const grey = planes.R!.map((r, i) => Math.max(0, (r + planes.G![i]! + planes.B![i]!) / 3));
  return spansOfPicture(grey, width(region), height(region), p.radius, p.squeeze);
}

function varying(ctx: Context, p: Values, front: boolean, planes: [Plane, Plane, Plane, Plane], want: Rect, out: Out): void {
  const ramp = rampShare(p, ctx.inputs.main!.format);
  const map = p.by === 'map' ? overFrame(ctx, 'map', p.channel, want)! : null;
  const w = width(want);
  // Radii as distances that a lens would blur so, what is sharp at 1.
  const infinity = p.radius * 1.001;
  const distance = ctx.scratch(area(want));
  for (let y = want.y0, i = 0; y < want.y1; y++) {
    for (let x = want.x0; x < want.x0 + w; x++, i++) {
      const share = !map ? ramp(x + 0.5, y + 0.5) : p.invert ? 1 - map[i]! : map[i]!;
      const k = Math.max(0, Math.min(1, share)) / 1.001;
      distance[i] = 1 / (front ? 1 + k : 1 - k);
    }
  }
  const aperture = apertureOf(p);
  const made = focusByDepth(
    ctx.kernels,
    planes,
    distance,
    want,
    out.region,
    { focus: 1, infinity, most: p.radius, aperture, growth: 0.3 },
    () => ctx.poll(),
  );
  RGBA.forEach((c, i) => {
    out.planes[c]?.set(made[i]!);
    ctx.kernels.give(made[i]!);
  });
}

function rampShare(p: Values, format: Format): (x: number, y: number) => number {
  const [from, to] = [placeIn(p.from, format), placeIn(p.to, format)];
  const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
  const squared = Math.max(1e-9, dx * dx + dy * dy);
  return (x, y) => ((x - from[0]) * dx + (y - from[1]) * dy) / squared;
}
