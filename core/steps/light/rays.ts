import type { Plane } from '@/kernels';
import { copyShared } from '../../filters/copy';
import { tapsOf } from '../../filters/resample';
import { Packed, sampleThrough } from '../../filters/sample';
import { addTo, brightParts, stops } from '../../light/bright';
import { area } from '../../geometry/rect';
import type { Rect } from '../../geometry/rect';
import { choice, colour, number, place, placeIn, reading } from '../../param';
import { COLOUR, domainOf } from '../../picture';
import type { RenderContext } from '../../step';
import { defineStep } from '../../step';
import { copyMain, matteOver } from './halo';

/** Samples along a ray: 2 to this. */
const DOUBLINGS = 8;

/** Where light comes from, in a format. */
export function sourceAt(
  p: { at: readonly [number, number]; follow: { positionAt(time: number): readonly [number, number]; reference: number } | null },
  format: { width: number; height: number },
  frame: number,
): [number, number] {
  const own = placeIn(p.at, format);
  if (!p.follow) return own;
  // A place that was set on the reference frame moves with the reading.
  const [then, now] = [p.follow.positionAt(p.follow.reference), p.follow.positionAt(frame)];
  return [own[0] + now[0] - then[0], own[1] + now[1] - then[1]];
}

/**
 * Light scattered towards the eye by air, after Mitchell 2007: what is seen at a pixel is the mean, falling off, of the light that lies between it and the source in
 * the picture; what stands in front of the light casts its shadow through the air. Sums of 256 samples by doubling: each pass adds the sum so far,
 * seen farther along.
 */
export const rays = defineStep({
  type: 'rays',
  title: 'Rays',
  family: 'Light & air',
  summary: 'Lets light from a place stream through air, cut by what stands before it.',
  params: {
    amount: number('Amount', 1, [0, 4], { min: 0, max: 1000 }),
    at: place('From', [0, -100]),
    follow: reading('Moves with', 'any'),
    light: choice('Light', 'bright', [
      { value: 'bright', title: 'Bright parts of the picture' },
      { value: 'disc', title: 'A disc there' },
      { value: 'feed', title: 'Another picture' },
    ]),
    threshold: number('Above', 0, [-4, 4], { unit: 'stops', min: -12, max: 12, when: { light: ['bright'] }, help: 'Over white.' }),
    radius: number('Radius', 30, [2, 200], { unit: 'px', min: 0.5, max: 2000, pixels: true, when: { light: ['disc'] } }),
    length: number('Length', 0.8, [0.1, 1], { min: 0.01, max: 0.999, help: 'Part of the way to the source over which light is gathered.' }),
    decay: number('Falls to', 0.2, [0.01, 1], { min: 0.001, max: 1, help: 'What is left of light at that length.' }),
    tint: colour('Colour', [1, 0.95, 0.85]),
  },
  feeds: [
    { name: 'light', title: 'Light', help: 'What shines, in place of bright parts.' },
    { name: 'before', title: 'In front', help: 'Its alpha cuts the light: what stands before it.', matte: true },
  ],
  remark: (p, io) => (p.light === 'feed' && !io.inputs.light ? 'connect the picture that shines' : null),
  neutral: (p, io) => p.amount === 0 || (p.light === 'feed' && !io.inputs.light),
  bounds: (_, io) => domainOf(io.inputs.main!),
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  locality: 'whole',
  needs: (p, _, io) => [
    { input: 'main', region: io.inputs.main!.bounds, channels: COLOUR },
    ...(p.light === 'feed' && io.inputs.light ? [{ input: 'light', region: io.inputs.light.bounds, channels: COLOUR }] : []),
    ...(io.inputs.before ? [{ input: 'before', region: io.inputs.before.bounds, channels: ['A'] as readonly string[] }] : []),
  ],
  render(ctx, p, out) {
    const { region } = out;
    const from = sourceAt(p, ctx.inputs.main!.format, ctx.frame);
    const light = shining(ctx, p, from, region);
    const matte = matteOver(ctx, 'before', region);
    if (matte) for (const plane of light) for (let i = 0; i < plane.length; i++) plane[i]! *= Math.max(0, 1 - matte[i]!);
    stream(ctx, light, region, from, p.length, p.decay);
    COLOUR.forEach((c, k) => {
      const plane = out.planes[c];
      if (!plane) return;
      copyMain(ctx, c, plane, region);
      addTo(ctx.kernels, plane, light[k]!, p.amount * p.tint[k]!);
    });
  },
});

interface Shining {
  light: 'bright' | 'disc' | 'feed';
  threshold: number;
  radius: number;
}

/** The light itself, over a region. */
function shining(ctx: RenderContext<unknown>, p: Shining, [x0, y0]: readonly [number, number], region: Rect): [Plane, Plane, Plane] {
  const planes = COLOUR.map(() => ctx.scratch(area(region)).fill(0)) as [Plane, Plane, Plane];
  if (p.light === 'disc') {
    const w = region.x1 - region.x0;
    for (let i = 0; i < planes[0].length; i++) {
      const d = Math.hypot(region.x0 + (i % w) + 0.5 - x0, region.y0 + Math.floor(i / w) + 0.5 - y0);
      const v = Math.max(0, Math.min(1, p.radius - d + 0.5));
      for (const plane of planes) plane[i] = v;
    }
    return planes;
  }
  const tile = ctx.tile(p.light === 'feed' ? 'light' : 'main')!;
  COLOUR.forEach((c, k) => copyShared(ctx.kernels, tile.planes[c]!, tile.region, planes[k]!, region));
  if (p.light === 'bright') brightParts(planes, planes, stops(p.threshold));
  return planes;
}

/** Gathers light along the way to the source, in place. */
function stream(
  ctx: RenderContext<unknown>,
  planes: readonly Plane[],
  region: Rect,
  [x, y]: readonly [number, number],
  length: number,
  decay: number,
): void {
  const { kernels } = ctx;
  const n = 2 ** DOUBLINGS;
  const scale = (1 - length) ** (1 / n);
  const fall = decay ** (1 / n);
  for (let k = 0; k < DOUBLINGS; k++) {
    const [s, share] = [scale ** (2 ** k), fall ** (2 ** k)];
    const packed = Packed.of(kernels, planes, region);
    try {
      sampleThrough(kernels, packed, planes, region, [s, 0, x - s * x, 0, s, y - s * y, 0, 0, 1], tapsOf('bilinear'), {
        gain: share,
        lays: 'add',
        poll: () => ctx.poll(),
      });
    } finally {
      packed.give();
    }
  }
  const sum = (1 - fall ** n) / Math.max(1e-9, 1 - fall);
  for (const plane of planes) kernels.fn.affine(plane.byteOffset, plane.byteOffset, plane.length, 1 / (decay < 1 ? sum : n), 0);
}
