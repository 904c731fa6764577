import { fillFlat } from '../../filters/blocks';
import { gaussianBlur, gaussianPad, gaussianRegion } from '../../filters/gaussian';
import { area, grow, intersect, isEmpty, union } from '../../geometry/rect';
import { choice, number } from '../../param';
import { COLOUR, formatRect } from '../../picture';
import { defineStep, pixelsOf } from '../../step';
import { carryColour, followAlpha, matteWrites } from './follow-alpha';
import { copyOver, copyShared } from '../../filters/copy';

const ROUNDING = 1e-5;

export const softenMatte = defineStep({
  type: 'softenMatte',
  title: 'Soften matte',
  family: 'Matte',
  summary: "Softens a matte's edge: into it, out of it, or both ways.",
  params: {
    size: number('Size', 2, [0, 30], { unit: 'px', min: 0, max: 500, pixels: true, help: 'Standard deviation of the Gaussian.' }),
    direction: choice('Direction', 'both', [
      { value: 'inward', title: 'Inward', help: 'What was empty stays empty.' },
      { value: 'both', title: 'Both ways' },
      { value: 'outward', title: 'Outward', help: 'What was solid stays solid.' },
    ]),
    follow: followAlpha,
  },
  feeds: [],
  neutral: (p) => p.size === 0,
  bounds: (p, io) => {
    const { bounds, format } = io.inputs.main!;
    if (p.direction === 'inward') return bounds;
    return intersect(grow(bounds, Math.ceil(3 * p.size)), union(bounds, formatRect(format)));
  },
  writes: (p, channels) => matteWrites(p.follow, channels),
  needs: (p, want, io) => [
    {
      input: 'main',
      region: intersect(gaussianRegion(want.region, p.size, p.size), union(io.inputs.main!.bounds, want.region)),
      channels: p.follow ? [...COLOUR, 'A'] : ['A'],
    },
  ],
  render(ctx, p, out) {
    const { fn } = ctx.kernels;
    const from = ctx.tile('main')!;
    if (isEmpty(from.region)) return Object.values(out.planes).forEach((plane) => void plane.fill(0));
    const { format, bounds } = ctx.inputs.main!;
    const soft = out.planes.A ?? ctx.scratch(pixelsOf(out));
    const domain = union(formatRect(format), bounds);
    const wide = from.planes.A!;
    const pad = gaussianPad(p.size);
    // What is solid or empty all around stays so, whatever the direction.
    const whole = (v: number): number | undefined => (v === 0 || v === 1 ? v : undefined);
    const inward = p.direction === 'inward';
    for (const block of fillFlat(ctx.kernels, wide, from.region, soft, out.region, pad, domain, whole)) {
      const part = ctx.scratch(area(block));
      gaussianBlur(ctx.kernels, wide, from.region, part, block, p.size, p.size, domain);
      const a = part.byteOffset;
      // Sums of weights end a rounding away from 1: what is solid or empty all around is so exactly.
      fn.affineClamped(a, a, part.length, 1 + 2 * ROUNDING, -ROUNDING, 0, 1);
      if (p.direction !== 'both') {
        // The blurred edge is ½ where the hard one was: the half of the ramp on one side is stretched to the whole.
        fn.affineClamped(a, a, part.length, 2, inward ? -1 : 0, 0, 1);
        const before = copyOver(ctx.kernels, wide, from.region, block, ctx.scratch);
        (inward ? fn.minPlane : fn.maxPlane)(a, before.byteOffset, a, part.length);
      }
      copyShared(ctx.kernels, part, block, soft, out.region);
    }
    if (p.follow) carryColour(ctx, from, soft.byteOffset, out);
  },
});
