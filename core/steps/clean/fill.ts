import { fillMembrane, holeOf } from '../../cleaning/membrane';
import { fillByPatches } from '../../cleaning/patch-fill';
import type { Plane } from '@/kernels';
import { copyInto, copyShared } from '../../filters/copy';
import { growGrey, morphologyPad } from '../../filters/morphology';
import type { Rect } from '../../geometry/rect';
import { area, grow, height, intersect, isEmpty, rect, union, width } from '../../geometry/rect';
import { choice, integer, number, shapes } from '../../param';
import { COLOUR, RGBA } from '../../picture';
import { reachOfShapes, shapeMatte } from '../../shape/coverage';
import type { ShapesValue } from '../../shape/pose';
import type { RenderContext, StepIo } from '../../step';
import { defineStep } from '../../step';

/** Coverage from which a pixel is part of the hole. */
const PART = 0.004;
/** Pixels around a hole that a smooth filling looks at. */
const RIM = 2;

interface Values {
  within: 'shapes' | 'matte' | 'alpha';
  shapes: ShapesValue;
  method: 'patches' | 'smooth';
  spread: number;
  reach: number;
  patch: number;
}

/** How far around the hole is looked at. */
const aroundOf = (p: Values): number => Math.ceil(p.method === 'patches' ? p.reach + p.patch : RIM);

/** What is read for a region: where the hole may lie in it, all of the hole and of what it is filled from. */
function workOf(p: Values, want: Rect, io: StepIo<unknown>): Rect {
  const { bounds } = io.inputs.main!;
  const reach = p.within === 'shapes' ? reachOfShapes(p.shapes.list) : null;
  const hole = reach ? intersect(grow(reach, Math.ceil(p.spread) + 1), bounds) : bounds;
  return isEmpty(intersect(want, hole)) ? want : intersect(union(want, grow(hole, aroundOf(p))), bounds);
}

export const fill = defineStep({
  type: 'fill',
  title: 'Fill',
  family: 'Shape & touch-up',
  summary: 'Closes a hole: smoothly from its edge, or with patches of what lies around it.',
  params: {
    within: choice('Hole from', 'shapes', [
      { value: 'shapes', title: 'In shapes' },
      { value: 'matte', title: 'In a matte' },
      { value: 'alpha', title: 'Where the picture is clear', help: 'Where alpha is 0, as a clean plate leaves it.' },
    ]),
    shapes: shapes('Shapes', { when: { within: ['shapes'] } }),
    method: choice('Filled', 'patches', [
      { value: 'patches', title: 'By patches', help: 'Texture from elsewhere in the picture.' },
      { value: 'smooth', title: 'Smoothly', help: 'The light of its edge, spread inward.' },
    ]),
    spread: number('Grow the hole', 2, [0, 20], {
      unit: 'px',
      min: 0,
      max: 200,
      pixels: true,
      help: 'Keeps a soft edge of what goes out of the filling.',
    }),
    patch: integer('Patch', 7, [3, 15], {
      unit: 'px',
      min: 3,
      max: 25,
      animatable: false,
      when: { method: ['patches'] },
      help: 'Larger ones keep larger structure.',
    }),
    reach: number('Look within', 160, [20, 400], {
      unit: 'px',
      min: 8,
      max: 4096,
      pixels: true,
      animatable: false,
      when: { method: ['patches'] },
      help: 'How far from the hole its texture may be taken.',
    }),
    seed: integer('Variant', 1, [1, 20], {
      min: 0,
      max: 1e6,
      animatable: false,
      when: { method: ['patches'] },
      help: 'Another number, another filling.',
    }),
  },
  feeds: [
    { name: 'matte', title: 'Matte', help: 'Its alpha is the hole.', matte: true },
    { name: 'avoid', title: 'Not from', help: 'Nothing is taken from where its alpha is.', matte: true },
  ],
  neutral: (p, io) => (p.within === 'shapes' && p.shapes.list.length === 0) || (p.within === 'matte' && !io.inputs.matte),
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, 'A'])],
  writes: (_, channels) => channels.filter((c) => (RGBA as readonly string[]).includes(c)),
  // What any pixel of the hole becomes depends on all of it, and on what lies around.
  locality: 'region',
  needs: (p, want, io) => {
    const region = workOf(p as Values, want.region, io as never);
    return [
      { input: 'main', region, channels: RGBA },
      ...(p.within === 'matte' ? [{ input: 'matte', region, channels: ['A'] }] : []),
      ...(io.inputs.avoid && p.method === 'patches' ? [{ input: 'avoid', region, channels: ['A'] }] : []),
    ];
  },
  render(ctx, p, out) {
    const main = ctx.tile('main')!;
    const { region } = main;
    for (const [c, plane] of Object.entries(out.planes)) copyShared(ctx.kernels, main.planes[c]!, region, plane, out.region);
    if (isEmpty(region)) return;
    const matte = ctx.scratch(area(region));
    if (p.within === 'shapes') shapeMatte(ctx.kernels, [p.shapes.list], region, matte);
    else if (p.within === 'matte') matte.set(ctx.tile('matte')!.planes.A!);
    else for (let i = 0; i < matte.length; i++) matte[i] = main.planes.A![i]! > 0 ? 0 : 1;
    const w = width(region);
    const hole = grown(ctx, matte, region, p.spread);
    const around = boxOf(hole, w);
    if (!around) return;
    ctx.poll();
    const part = intersect(grow(around, aroundOf(p as Values)), rect(0, 0, w, height(region)));
    const [pw, ph] = [width(part), height(part)];
    const own = cut(hole, w, part, new Uint8Array(area(part)));
    const planes = COLOUR.map((c) => cut(main.planes[c]!, w, part, new Float32Array(area(part))));
    const patched = p.method === 'patches' && byPatches();
    if (!patched) {
      const open = holeOf(own, pw, ph);
      for (const plane of planes) fillMembrane(plane, open, undefined, () => ctx.poll());
    }
    function byPatches(): boolean {
      const off = ctx.tile('avoid')?.planes.A;
      const barred = new Uint8Array(own.length);
      // Nothing is taken from where the picture itself is clear.
      const alpha = cut(main.planes.A!, w, part, new Float32Array(area(part)));
      for (let i = 0; i < barred.length; i++) barred[i] = alpha[i]! < 0.5 ? 1 : 0;
      if (off) {
        const cutOff = cut(off, w, part, new Float32Array(area(part)));
        for (let i = 0; i < barred.length; i++) if (cutOff[i]! > PART) barred[i] = 1;
      }
      return fillByPatches(planes, own, pw, ph, {
        radius: Math.max(1, Math.floor((p.patch * Math.max(0.5, ctx.scale)) / 2)),
        reach: p.reach,
        avoid: barred,
        seed: p.seed,
        poll: () => ctx.poll(),
      });
    }
    const ow = width(out.region);
    for (const [c, plane] of Object.entries(out.planes)) {
      const k = (COLOUR as readonly string[]).indexOf(c);
      for (let y = 0, i = 0; y < ph; y++) {
        const v = region.y0 + part.y0 + y - out.region.y0;
        for (let x = 0; x < pw; x++, i++) {
          const u = region.x0 + part.x0 + x - out.region.x0;
          if (own[i] && u >= 0 && v >= 0 && u < ow && v < height(out.region)) plane[v * ow + u] = k < 0 ? 1 : planes[k]![i]!;
        }
      }
    }
  },
});

/** Pixels whose coverage, or that of one within a radius, makes them part of the hole. */
function grown(ctx: Pick<RenderContext<unknown>, 'kernels' | 'poll'>, matte: Plane, region: Rect, radius: number): Uint8Array {
  const wide = grow(region, morphologyPad(radius));
  const around = copyInto(ctx.kernels, matte, region, wide);
  const out = growGrey(ctx.kernels, around, wide, region, radius, region, () => ctx.poll());
  const hole = Uint8Array.from(out, (v) => (v > PART ? 1 : 0));
  ctx.kernels.give(around);
  ctx.kernels.give(out);
  return hole;
}

function boxOf(hole: Uint8Array, w: number): Rect | null {
  let [x0, y0, x1, y1] = [w, Infinity, 0, 0];
  hole.forEach((v, i) => {
    if (!v) return;
    const [x, y] = [i % w, (i / w) | 0];
    if (x < x0) x0 = x;
    if (x >= x1) x1 = x + 1;
    if (y < y0) y0 = y;
    y1 = y + 1;
  });
  return y1 > 0 ? rect(x0, y0, x1, y1) : null;
}

function cut<T extends Uint8Array | Float32Array>(from: ArrayLike<number>, w: number, { x0, y0, x1, y1 }: Rect, to: T): T {
  for (let y = y0, i = 0; y < y1; y++) for (let x = x0; x < x1; x++, i++) to[i] = from[y * w + x]!;
  return to;
}
