import type { Kernels, Plane } from '@/kernels';
import { pushPull } from '../../filters/push-pull';
import { copyShared, placeIn } from '../../filters/copy';
import type { Rect } from '../../geometry/rect';
import { area, grow, height, intersect, rect, union, width } from '../../geometry/rect';
import { number } from '../../param';
import type { Tile } from '../../picture';
import { COLOUR } from '../../picture';
import { defineStep } from '../../step';

/** The pyramid's levels that reach so many pixels. */
const levelsFor = (distance: number): number => Math.max(1, Math.ceil(Math.log2(Math.max(1, distance))) + 1);

export const extendColour = defineStep({
  type: 'extendColour',
  title: 'Extend colour',
  family: 'Matte',
  summary: 'Carries the colour of solid pixels outward under the partial edge, and leaves the matte as it is.',
  params: {
    distance: number('Distance', 12, [1, 100], { unit: 'px', min: 1, max: 1000, pixels: true }),
    solid: number('Solid from', 0.95, [0.5, 1], {
      min: 0.01,
      max: 1,
      decimals: 3,
      help: 'Pixels of at least this coverage give their colour; those under it take it.',
    }),
    keep: number('Keep own colour', 0, [0, 1], {
      min: 0,
      max: 1,
      help: 'Share of its own colour that a pixel keeps, by its coverage: 1 keeps as much as it is covered.',
    }),
  },
  feeds: [],
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  needs: (p, want, io) => {
    // The pyramid's grid is anchored, so that any region gives the same pixels as the whole.
    const step = 2 ** levelsFor(p.distance);
    const r = grow(want.region, 2 * step);
    const anchored = intersect(snap(r, step), snap(io.inputs.main!.bounds, step));
    return [{ input: 'main', region: union(anchored, want.region), channels: [...COLOUR, 'A'] }];
  },
  render(ctx, p, out) {
    const from = ctx.tile('main')!;
    const levels = levelsFor(p.distance);
    const step = 2 ** levels;
    for (const c of COLOUR) {
      const to = out.planes[c];
      if (to) copyShared(ctx.kernels, from.planes[c]!, from.region, to, out.region);
    }
    // Block by block, each with what can reach it, and only where an edge is: blocks lie on the pyramid's grid.
    const side = Math.max(BLOCK, 2 * step);
    const first = (v: number): number => Math.floor(v / side) * side;
    for (let y = first(out.region.y0); y < out.region.y1; y += side) {
      ctx.poll();
      for (let x = first(out.region.x0); x < out.region.x1; x += side) {
        const block = intersect(rect(x, y, x + side, y + side), out.region);
        if (hasEdge(ctx.kernels, from, block, p.solid)) {
          const around = intersect(snap(grow(block, 2 * step), step), from.region);
          ctx.kernels.guard(() => extendIn(ctx.kernels, from, out, block, around, p));
        }
      }
    }
  },
});

/** Pixels of a block's side. */
const BLOCK = 64;

/** Whether a part of a tile has partial coverage that takes colour. */
function hasEdge({ fn }: Kernels, { planes, region }: Tile, block: Rect, solid: number): boolean {
  const first = placeIn(planes.A!, region, block.x0, block.y0);
  return fn.anyBetween(first, width(block), height(block), width(region), 0, solid) === 1;
}

/** Carries colour out within one block, from what lies in `around` it. */
function extendIn(
  kernels: Kernels,
  { planes, region }: Tile,
  out: Tile,
  block: Rect,
  around: Rect,
  p: { distance: number; solid: number; keep: number },
): void {
  const { fn } = kernels;
  const [aw, ah] = [width(around), height(around)];
  const alpha = planes.A!;
  const solidOf = (plane: Plane): Plane => {
    const to = kernels.take(area(around));
    const [c, a] = [plane, alpha].map((q) => placeIn(q, region, around.x0, around.y0)) as [number, number];
    fn.solidOnly(c, a, width(region), to.byteOffset, aw, ah, p.solid);
    return to;
  };
  // What is solid divided by itself is 1.
  const weight = solidOf(alpha);
  const wanted = COLOUR.filter((c) => out.planes[c]);
  const carried = wanted.map((c) => solidOf(planes[c]!));
  pushPull(kernels, carried, weight, aw, ah, levelsFor(p.distance));
  wanted.forEach((c, k) => {
    fn.takeCarried(
      placeIn(planes[c]!, region, block.x0, block.y0),
      placeIn(alpha, region, block.x0, block.y0),
      width(region),
      placeIn(carried[k]!, around, block.x0, block.y0),
      placeIn(weight, around, block.x0, block.y0),
      aw,
      placeIn(out.planes[c]!, out.region, block.x0, block.y0),
      width(out.region),
      width(block),
      height(block),
      p.solid,
      p.keep,
    );
  });
  [weight, ...carried].forEach((plane) => kernels.give(plane));
}

const snap = (r: Rect, step: number): Rect =>
  rect(Math.floor(r.x0 / step) * step, Math.floor(r.y0 / step) * step, Math.ceil(r.x1 / step) * step, Math.ceil(r.y1 / step) * step);
