import { pushPull } from '../../filters/push-pull';
import { copyShared } from '../../filters/copy';
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
      if (to) copyShared(from.planes[c]!, from.region, to, out.region);
    }
    // Block by block, each with what can reach it, and only where an edge is: blocks lie on the pyramid's grid.
    const side = Math.max(BLOCK, 2 * step);
    const first = (v: number): number => Math.floor(v / side) * side;
    for (let y = first(out.region.y0); y < out.region.y1; y += side) {
      ctx.poll();
      for (let x = first(out.region.x0); x < out.region.x1; x += side) {
        const block = intersect(rect(x, y, x + side, y + side), out.region);
        if (hasEdge(from, block, p.solid)) extendIn(from, out, block, intersect(snap(grow(block, 2 * step), step), from.region), p);
      }
    }
  },
});

/** Pixels of a block's side. */
const BLOCK = 64;

/** Whether a part of a tile has partial coverage that takes colour. */
function hasEdge({ planes, region }: Tile, block: Rect, solid: number): boolean {
  const w = width(region);
  for (let y = block.y0; y < block.y1; y++) {
    for (let i = (y - region.y0) * w + block.x0 - region.x0, end = i + width(block); i < end; i++) {
      if (planes.A![i]! > 0 && planes.A![i]! < solid) return true;
    }
  }
  return false;
}

/** Carries colour out within one block, from what lies in `around` it. */
function extendIn(from: Tile, out: Tile, block: Rect, around: Rect, p: { distance: number; solid: number; keep: number }): void {
  const { region } = from;
  const [w, aw, ow] = [width(region), width(around), width(out.region)];
  const alpha = from.planes.A!;
  const own = COLOUR.map((c) => from.planes[c]!);
  const weight = new Float32Array(area(around));
  const carried = own.map(() => new Float32Array(area(around)));
  for (let y = around.y0, o = 0; y < around.y1; y++) {
    for (let i = (y - region.y0) * w + around.x0 - region.x0, end = i + aw; i < end; i++, o++) {
      const a = alpha[i]!;
      if (a < p.solid) continue;
      weight[o] = 1;
      for (let k = 0; k < own.length; k++) carried[k]![o] = own[k]![i]! / a;
    }
  }
  pushPull(carried, weight, aw, height(around), levelsFor(p.distance));
  COLOUR.forEach((c, k) => {
    const to = out.planes[c];
    if (!to) return;
    const [mine, theirs] = [own[k]!, carried[k]!];
    for (let y = block.y0; y < block.y1; y++) {
      let i = (y - region.y0) * w + block.x0 - region.x0;
      let b = (y - around.y0) * aw + block.x0 - around.x0;
      let o = (y - out.region.y0) * ow + block.x0 - out.region.x0;
      for (let x = block.x0; x < block.x1; x++, i++, b++, o++) {
        const a = alpha[i]!;
        const known = weight[b]!;
        if (a <= 0 || a >= p.solid || known <= 0) continue;
        const was = mine[i]!;
        // Only the last of its reach fades out.
        const share = Math.min(1, 4 * known) * (1 - p.keep * a);
        to[o] = was + share * ((a * theirs[b]!) / known - was);
      }
    }
  });
}

const snap = (r: Rect, step: number): Rect =>
  rect(Math.floor(r.x0 / step) * step, Math.floor(r.y0 / step) * step, Math.ceil(r.x1 / step) * step, Math.ceil(r.y1 / step) * step);
