import { gaussianBlur, gaussianRegion } from '../../filters/gaussian';
import { padTo } from '../../filters/pad';
import { pushPixels } from '../../filters/push';
import { mapRegion } from '../../filters/sample';
import { area, grow, intersect, union, width } from '../../geometry/rect';
import { integer, number } from '../../param';
import { domainOf, formatRect } from '../../picture';
import { defineStep } from '../../step';

/** What noise of several octaves seldom goes beyond. */
const MOST = 1.5;

/**
 * Air of uneven warmth bends light: each pixel is looked for beside its place, along x and along y by a cloud each that rises and comes and goes, and what is bent
 * is softened. Stronger towards the ground, where the air is hottest.
 */
export const heatShimmer = defineStep({
  type: 'heatShimmer',
  title: 'Heat shimmer',
  family: 'Light & air',
  summary: 'Lets hot air bend and soften what is seen through it.',
  params: {
    amount: number('Bends by', 3, [0, 20], { unit: 'px', min: 0, max: 200, pixels: true }),
    size: number('Size', 40, [5, 200], { unit: 'px', min: 2, max: 2000, pixels: true, help: 'Of the largest swirls.' }),
    soften: number('Softens by', 1, [0, 10], { unit: 'px', min: 0, max: 100, pixels: true }),
    rise: number('Rises', 60, [0, 300], { unit: 'px/s', min: -5000, max: 5000, pixels: true, animatable: false }),
    speed: number('Changes', 2, [0, 10], { unit: '/s', min: 0, max: 100, animatable: false }),
    ground: number('Ground', 1, [0, 1], {
      min: -1,
      max: 2,
      group: 'Height',
      help: 'Part of the height, from the top, at which it is strongest.',
    }),
    fade: number('Fades in', 1, [0.05, 2], {
      min: 0.001,
      max: 1000,
      group: 'Height',
      help: 'Parts of the height over the ground after which 37 % is left.',
    }),
    seed: integer('Variant', 1, [1, 20], { min: 0, max: 1e6, animatable: false }),
  },
  feeds: [{ name: 'where', title: 'Where', help: 'Its alpha says where the air is hot.', matte: true }],
  neutral: (p) => p.amount === 0 && p.soften === 0,
  identity: (p, io) => (p.rise === 0 && p.speed === 0 ? null : io.frame),
  locality: 'region',
  needs: (p, { region, channels }, io) => {
    const { bounds } = io.inputs.main!;
    const far = grow(mapRegion(region), Math.ceil(MOST * p.amount) + 4);
    return [
      { input: 'main', region: intersect(gaussianRegion(far, p.soften, p.soften), bounds), channels },
      ...(io.inputs.where
        ? [{ input: 'where', region: intersect(grow(far, 1), io.inputs.where.bounds), channels: ['A'] as readonly string[] }]
        : []),
    ];
  },
  render(ctx, p, out) {
    const { kernels } = ctx;
    const main = ctx.tile('main')!;
    const { bounds, format } = ctx.inputs.main!;
    const domain = domainOf({ bounds, format });
    const all = mapRegion(out.region);
    const far = grow(all, Math.ceil(MOST * p.amount) + 4);
    const w = width(all);
    const time = ctx.frame / ctx.frameRate;
    const where = ctx.tile('where');
    /** How hot the air is, over a region. */
    const heat = (region: typeof all): Float32Array => {
      const to = ctx.scratch(area(region));
      if (where) padTo(where.planes.A!, where.region, to.fill(0), region, union(where.region, formatRect(format)));
      else to.fill(1);
      const rw = width(region);
      for (let y = region.y0, i = 0; y < region.y1; y++) {
        const over = Math.max(0, p.ground - (y + 0.5) / format.height);
        const k = Math.exp(-over / p.fade);
        for (let x = 0; x < rw; x++, i++) to[i]! *= k;
      }
      return to;
    };
    const hot = heat(all);
    // Two clouds: how far along x, and along y. They rise with the air: the pattern is looked at farther down.
    const shift = Math.round(p.rise * time);
    const [dx, dy] = [0, 1].map((k) => {
      const plane = ctx.scratch(area(all));
      kernels.fn.gradientNoise(
        plane.byteOffset,
        w,
        area(all) / w,
        all.x0,
        all.y0 + shift,
        p.size,
        p.speed * time + 37 * k,
        3,
        3,
        0.5,
        p.seed + k,
      );
      for (let i = 0; i < plane.length; i++) plane[i] = Math.max(-MOST, Math.min(MOST, 2 * plane[i]!)) * p.amount * hot[i]!;
      return plane;
    }) as [Float32Array, Float32Array];
    ctx.poll();
    const names = Object.keys(out.planes);
    // Beyond the frame its softened edge goes on.
    const inner = intersect(far, domain);
    const wide = heat(inner);
    const planes = names.map((c) => {
      const own = ctx.scratch(area(inner));
      padTo(main.planes[c]!, main.region, own, inner, domain);
      if (p.soften >= 0.05) {
        const soft = ctx.scratch(area(inner));
        gaussianBlur(kernels, main.planes[c]!, main.region, soft, inner, p.soften, p.soften, domain);
        for (let i = 0; i < own.length; i++) own[i] = own[i]! + wide[i]! * (soft[i]! - own[i]!);
      }
      const all = ctx.scratch(area(far));
      padTo(own, inner, all, far, domain);
      return all;
    });
    pushPixels(
      kernels,
      planes,
      far,
      names.map((c) => out.planes[c]!),
      out.region,
      [dx, dy],
      { filter: 'catmullRom', edge: 'hold', domain, poll: () => ctx.poll() },
    );
  },
});
