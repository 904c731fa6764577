import type { Plane } from '@/kernels';
import type { Rect } from '../geometry/rect';
import { EMPTY, area, grow, intersect, isEmpty, rect, union, width } from '../geometry/rect';
import { growGrey, morphologyPad } from '../filters/morphology';
import { box, choice, number, shapes, toggle } from '../param';
import { reachOfShapes, shapeMatte } from '../shape/coverage';
import type { Posed, ShapesValue } from '../shape/pose';
import { POINT_SIZE } from '../shape/shapes';
import type { RenderContext, StepIo } from '../step';
import { defineStep, pixelsOf } from '../step';

interface Place {
  within: 'all' | 'box' | 'shapes';
  box: readonly [number, number, number, number];
  shapes: ShapesValue;
  feather: number;
  choke: number;
  invert: boolean;
}

const inBox = { within: ['box'] } as const;
const inShapes = { within: ['shapes'] } as const;
const inPlace = { within: ['box', 'shapes'] } as const;

/** Left, top, right, bottom, whichever corners are given, moved outward by the choke. */
function sides({ box: [x0, y0, x1, y1], choke: c }: Place): [number, number, number, number] {
  return [Math.min(x0, x1) - c, Math.min(y0, y1) - c, Math.max(x0, x1) + c, Math.max(y0, y1) + c];
}

/** Where it can change anything; null where that is everywhere. */
function reachOf(p: Place): Rect | null {
  if (p.within === 'all' || p.invert) return null;
  if (p.within === 'shapes') {
    const reach = reachOfShapes(softened(p));
    return reach && grow(reach, Math.max(0, Math.ceil(p.choke)));
  }
  const [x0, y0, x1, y1] = sides(p);
  const f = Math.max(0, p.feather);
  return rect(Math.floor(x0 - f), Math.floor(y0 - f), Math.ceil(x1 + f), Math.ceil(y1 + f));
}

const soft = new WeakMap<ShapesValue, Map<number, readonly Posed[]>>();

/** The shapes with the zone's feather added to their own. */
function softened({ shapes: { list }, shapes: value, feather }: Place): readonly Posed[] {
  if (feather === 0) return list;
  let known = soft.get(value);
  if (!known) soft.set(value, (known = new Map()));
  let made = known.get(feather);
  if (!made) {
    made = list.map((s) => ({ ...s, points: s.points.map((v, i) => (i % POINT_SIZE === 6 ? v + feather : v)) }));
    known.set(feather, made);
  }
  return made;
}

/** Of the pixel whose low edge is at x: its share between two edges, or a smooth fall beyond them over `feather`. */
function coverage(x: number, low: number, high: number, feather: number): number {
  if (feather <= 0) return Math.max(0, Math.min(x + 1, high) - Math.max(x, low));
  const t = Math.min(1, Math.max(0, Math.min(x + 0.5 - low, high - x - 0.5) / feather + 1));
  return t * t * (3 - 2 * t);
}

function boxMatte(p: Place, region: Rect, mask: Float32Array): void {
  const [x0, y0, x1, y1] = sides(p);
  const w = width(region);
  const across = Float32Array.from({ length: w }, (_, x) => coverage(region.x0 + x, x0, x1, p.feather));
  for (let y = region.y0, i = 0; y < region.y1; y++) {
    const down = coverage(y, y0, y1, p.feather);
    for (let x = 0; x < w; x++, i++) {
      const m = down * across[x]!;
      mask[i] = p.invert ? 1 - m : m;
    }
  }
}

/** The matte of its shapes; grown or shrunk, worked out as far beyond the region as that reads. */
function shapesMatte(ctx: Pick<RenderContext<unknown>, 'kernels' | 'scratch' | 'poll'>, p: Place, region: Rect, mask: Plane): void {
  if (p.choke === 0) return shapeMatte(ctx.kernels, [softened(p)], region, mask);
  const wide = grow(region, morphologyPad(p.choke));
  const matte = ctx.scratch(area(wide));
  shapeMatte(ctx.kernels, [softened(p)], wide, matte);
  const grown = growGrey(ctx.kernels, matte, wide, region, p.choke, wide, () => ctx.poll());
  mask.set(grown.subarray(0, mask.length));
  ctx.kernels.give(grown);
}

/**
 * A zone: what its steps make of the picture, where it is. out = in + M·(steps(in) − in); mix and mask act as on any step. The planner
 * puts it after a zone's last step, with what stood before the first as its picture.
 */
export const zone = defineStep({
  type: 'zone',
  title: 'Zone',
  family: 'Join',
  summary: 'Lets a run of steps act in one place.',
  internal: true,
  params: {
    within: choice('Where', 'all', [
      { value: 'all', title: 'Everywhere' },
      { value: 'box', title: 'In a box' },
      { value: 'shapes', title: 'In shapes' },
    ]),
    box: box('Box', [240, 135, 720, 405], { when: inBox }),
    shapes: shapes('Shapes', { when: inShapes, help: 'Outlines on the stage, in which its steps act.' }),
    feather: number('Feather', 0, [0, 200], {
      unit: 'px',
      min: 0,
      max: 8192,
      pixels: true,
      when: inPlace,
      help: 'Falls off outside of it; added to what the shapes have of their own.',
    }),
    choke: number('Grow or shrink', 0, [-50, 50], {
      unit: 'px',
      min: -200,
      max: 200,
      pixels: true,
      when: inPlace,
      help: 'Positive grows where it acts, negative shrinks it; by parts of a pixel, too.',
    }),
    invert: toggle('Outside of it', false, { when: inPlace, animatable: false }),
  },
  feeds: [{ name: 'changed', title: 'Changed', help: 'What the steps make of the picture.', required: true }],
  bounds: (p, io) => {
    const [before, after] = [io.inputs.main!.bounds, io.inputs.changed!.bounds];
    const reach = reachOf(p);
    return union(before, reach ? intersect(after, reach) : after);
  },
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, ...io.inputs.changed!.channels])],
  locality: 'pixel',
  needs: (p, want, io: StepIo<unknown>) => {
    const reach = reachOf(p);
    const region = reach ? intersect(want.region, reach) : want.region;
    return [
      { input: 'main', ...want },
      { input: 'changed', channels: want.channels, region: isEmpty(region) ? EMPTY : intersect(region, io.inputs.changed!.bounds) },
    ];
  },
  render(ctx, p, out) {
    const [before, after] = [ctx.tile('main')!, ctx.tile('changed')!];
    const n = pixelsOf(out);
    const { fn } = ctx.kernels;
    if (p.within === 'all') {
      for (const [c, plane] of Object.entries(out.planes)) plane.set(after.planes[c]!);
      return;
    }
    const { region } = out;
    const mask = ctx.scratch(n);
    if (p.within === 'shapes') {
      shapesMatte(ctx, p, region, mask);
      if (p.invert) fn.affine(mask.byteOffset, mask.byteOffset, n, -1, 1);
    } else boxMatte(p, region, mask);
    for (const [c, plane] of Object.entries(out.planes)) {
      fn.mixMasked(before.planes[c]!.byteOffset, after.planes[c]!.byteOffset, mask.byteOffset, plane.byteOffset, n, 1);
    }
  },
});
