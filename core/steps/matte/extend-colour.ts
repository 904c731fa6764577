import { pushPull } from '../../filters/push-pull';
import { grow, height, intersect, union, width } from '../../geometry/rect';
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
    const [w, h] = [width(region), height(region)];
    const alpha = from.planes.A!;
    const weight = new Float32Array(w * h);
    for (let i = 0; i < weight.length; i++) weight[i] = +(alpha[i]! >= p.solid);
    const own = COLOUR.map((c) => from.planes[c]!);
    const carried = own.map((plane) => {
      const made = new Float32Array(w * h);
      for (let i = 0; i < made.length; i++) if (weight[i]) made[i] = plane[i]! / alpha[i]!;
      return made;
    });
    ctx.poll();
    pushPull(carried, weight, w, h, levelsFor(p.distance));
    ctx.poll();
    const ow = width(out.region);
    COLOUR.forEach((c, k) => {
      const to = out.planes[c];
      if (!to) return;
      const [mine, theirs] = [own[k]!, carried[k]!];
      for (let y = out.region.y0; y < out.region.y1; y++) {
        let i = (y - region.y0) * w + out.region.x0 - region.x0;
        let o = (y - out.region.y0) * ow;
        for (let x = 0; x < ow; x++, i++, o++) {
          const a = alpha[i]!;
          const was = mine[i]!;
          if (a <= 0 || a >= p.solid || weight[i]! <= 0) {
            to[o] = was;
            continue;
          }
          // Only the last of its reach fades out.
          const known = Math.min(1, 4 * weight[i]!);
          const share = known * (1 - p.keep * a);
          to[o] = was + share * ((a * theirs[i]!) / weight[i]! - was);
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
