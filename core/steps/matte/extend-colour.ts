import { pushPull } from '../../filters/push-pull';
import { copyShared } from '../../filters/copy';
import type { Rect } from '../../geometry/rect';
import { EMPTY, grow, height, intersect, union, width } from '../../geometry/rect';
import { number } from '../../param';
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
    const down = (v: number): number => Math.floor(v / step) * step;
    const anchored = { x0: down(r.x0), y0: down(r.y0), x1: down(r.x1) + step, y1: down(r.y1) + step };
    return [
      { input: 'main', region: union(intersect(anchored, snap(io.inputs.main!.bounds, step)), want.region), channels: [...COLOUR, 'A'] },
    ];
  },
  render(ctx, p, out) {
    const from = ctx.tile('main')!;
    const { region } = from;
    const w = width(region);
    const alpha = from.planes.A!;
    const own = COLOUR.map((c) => from.planes[c]!);
    // Far from anything covered there is nothing to carry.
    const busy = coveredRect(alpha, region, 2 ** levelsFor(p.distance));
    const [bw, bh] = [width(busy), height(busy)];
    const at = (y: number): number => (busy.y0 + y - region.y0) * w + busy.x0 - region.x0;
    const weight = new Float32Array(bw * bh);
    const carried = own.map(() => new Float32Array(bw * bh));
    for (let y = 0, o = 0; y < bh; y++) {
      for (let i = at(y), end = i + bw; i < end; i++, o++) {
        const a = alpha[i]!;
        if (a < p.solid) continue;
        weight[o] = 1;
        for (let k = 0; k < own.length; k++) carried[k]![o] = own[k]![i]! / a;
      }
    }
    ctx.poll();
    pushPull(carried, weight, bw, bh, levelsFor(p.distance));
    ctx.poll();
    const ow = width(out.region);
    COLOUR.forEach((c, k) => {
      const to = out.planes[c];
      if (!to) return;
      const [mine, theirs] = [own[k]!, carried[k]!];
      copyShared(mine, region, to, out.region);
      const inside = intersect(busy, out.region);
      for (let y = inside.y0; y < inside.y1; y++) {
        let i = (y - region.y0) * w + inside.x0 - region.x0;
        let b = (y - busy.y0) * bw + inside.x0 - busy.x0;
        let o = (y - out.region.y0) * ow + inside.x0 - out.region.x0;
        for (let x = inside.x0; x < inside.x1; x++, i++, b++, o++) {
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
  },
});

const snap = (r: { x0: number; y0: number; x1: number; y1: number }, step: number) => ({
  x0: Math.floor(r.x0 / step) * step,
  y0: Math.floor(r.y0 / step) * step,
  x1: Math.ceil(r.x1 / step) * step,
  y1: Math.ceil(r.y1 / step) * step,
});

/** The least rectangle, in whole steps from the region's corner, that holds all that is covered. */
function coveredRect(alpha: Float32Array, region: Rect, step: number): Rect {
  const w = width(region);
  let [x0, y0, x1, y1] = [Infinity, Infinity, 0, 0];
  for (let y = 0, i = 0; y < height(region); y++) {
    for (let x = 0; x < w; x++, i++) {
      if (alpha[i]! <= 0) continue;
      if (x < x0) x0 = x;
      if (x >= x1) x1 = x + 1;
      if (y < y0) y0 = y;
      y1 = y + 1;
    }
  }
  if (x1 === 0) return EMPTY;
  const down = (v: number): number => Math.floor(v / step) * step;
  return intersect(
    { x0: region.x0 + down(x0), y0: region.y0 + down(y0), x1: region.x0 + down(x1) + step, y1: region.y0 + down(y1) + step },
    region,
  );
}
