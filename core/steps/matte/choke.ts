import { copyShared } from '../../filters/copy';
import { fillFlat } from '../../filters/blocks';
import { growGrey, morphologyPad, offsetByDistance } from '../../filters/morphology';
import { area, grow, intersect, union } from '../../geometry/rect';
import { choice, number } from '../../param';
import { COLOUR, formatRect } from '../../picture';
import { defineStep, pixelsOf } from '../../step';
import { carryColour, followAlpha, matteWrites } from './follow-alpha';

const pad = (radius: number): number => morphologyPad(radius) + 2;

export const choke = defineStep({
  type: 'choke',
  title: 'Choke',
  family: 'Matte',
  summary: 'Grows or shrinks a matte by any radius, also by parts of a pixel.',
  params: {
    radius: number('Radius', -1, [-50, 50], { unit: 'px', min: -500, max: 500, pixels: true, help: 'Positive grows, negative shrinks.' }),
    edge: choice('Edge', 'soft', [
      { value: 'soft', title: 'Soft: grey-scale, keeps ramps' },
      { value: 'hard', title: 'Hard: by exact distance from the half level' },
    ]),
    follow: followAlpha,
  },
  feeds: [],
  neutral: (p) => p.radius === 0,
  bounds: (p, io) => {
    const { bounds, format } = io.inputs.main!;
    // A matte that ends at the frame's edge is taken to go on beyond it: growing does not add an end there.
    return p.radius > 0 ? intersect(grow(bounds, Math.ceil(p.radius) + 1), union(bounds, formatRect(format))) : bounds;
  },
  writes: (p, channels) => matteWrites(p.follow, channels),
  needs: (p, want, io) => {
    const { bounds, format } = io.inputs.main!;
    const there = union(union(formatRect(format), bounds), want.region);
    return [{ input: 'main', region: intersect(grow(want.region, pad(p.radius)), there), channels: p.follow ? [...COLOUR, 'A'] : ['A'] }];
  },
  render(ctx, p, out) {
    const { kernels } = ctx;
    const from = ctx.tile('main')!;
    const wide = from.planes.A!;
    const { format, bounds } = ctx.inputs.main!;
    const domain = union(formatRect(format), bounds);
    const alpha = out.planes.A ?? ctx.scratch(pixelsOf(out));
    if (p.edge === 'hard') {
      const all = offsetByDistance(kernels, wide, from.region, p.radius, domain, () => ctx.poll());
      copyShared(kernels, all, from.region, alpha, out.region);
      kernels.give(all);
    } else {
      const reach = morphologyPad(p.radius);
      for (const block of fillFlat(kernels, wide, from.region, alpha, out.region, reach, domain, (v) => v)) {
        const near = grow(block, reach);
        const around = ctx.scratch(area(near)).fill(0);
        copyShared(kernels, wide, from.region, around, near);
        const grown = growGrey(kernels, around, near, block, p.radius, domain, () => ctx.poll());
        copyShared(kernels, grown, block, alpha, out.region);
        kernels.give(grown);
      }
    }
    if (p.follow) carryColour(ctx, from, alpha.byteOffset, out);
  },
});
