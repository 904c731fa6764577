import { EMPTY, union } from '../../geometry/rect';
import { choice } from '../../param';
import { COLOUR } from '../../picture';
import { defineStep, pixelsOf } from '../../step';
import { carryColour, followAlpha, matteWrites } from './follow-alpha';

export const combineMattes = defineStep({
  type: 'combineMattes',
  title: 'Combine mattes',
  family: 'Matte',
  summary: 'Makes one matte of several: union, intersection, subtraction, or a core and a garbage matte around an edge.',
  params: {
    operation: choice('Operation', 'union', [
      { value: 'union', title: 'Union: the greater' },
      { value: 'intersection', title: 'Intersection: the lesser' },
      { value: 'subtraction', title: 'Subtraction: this without the other' },
      { value: 'insideOutside', title: 'Inside and outside: max(inside, this)·(1 − outside)' },
    ]),
    follow: followAlpha,
  },
  feeds: [
    { name: 'other', title: 'Other', help: 'The second matte of a union, intersection or subtraction.', matte: true },
    { name: 'inside', title: 'Inside', help: 'Solid where this is.', matte: true },
    { name: 'outside', title: 'Outside', help: 'Empty where this is.', matte: true },
  ],
  neutral: (p, { inputs }) => (p.operation === 'insideOutside' ? !inputs.inside && !inputs.outside : !inputs.other),
  bounds: (p, { inputs }) => {
    const extra = p.operation === 'insideOutside' ? inputs.inside : p.operation === 'union' ? inputs.other : undefined;
    return union(inputs.main!.bounds, extra?.bounds ?? EMPTY);
  },
  writes: (p, channels) => matteWrites(p.follow, channels),
  locality: 'pixel',
  needs: (p, { region }) => {
    const feeds = p.operation === 'insideOutside' ? ['inside', 'outside'] : ['other'];
    return [
      { input: 'main', region, channels: p.follow ? [...COLOUR, 'A'] : ['A'] },
      ...feeds.map((input) => ({ input, region, channels: ['A'] })),
    ];
  },
  render(ctx, p, out) {
    const { fn } = ctx.kernels;
    const n = pixelsOf(out);
    const main = ctx.tile('main')!;
    const a = (out.planes.A ?? ctx.scratch(n)).byteOffset;
    const own = main.planes.A!.byteOffset;
    const feed = (name: string): number | undefined => ctx.tile(name)?.planes.A?.byteOffset;
    const without = (matte: number): void => {
      const keep = ctx.scratch(n).byteOffset;
      fn.affine(matte, keep, n, -1, 1);
      fn.multiply(a, keep, a, n);
    };
    fn.affine(own, a, n, 1, 0);
    const other = feed('other');
    if (p.operation === 'insideOutside') {
      const inside = feed('inside');
      const outside = feed('outside');
      if (inside !== undefined) fn.maxPlane(a, inside, a, n);
      if (outside !== undefined) without(outside);
    } else if (other !== undefined) {
      if (p.operation === 'union') fn.maxPlane(a, other, a, n);
      else if (p.operation === 'intersection') fn.minPlane(a, other, a, n);
      else without(other);
    }
    if (p.follow) carryColour(ctx, main, a, out);
  },
});
