import { number } from '../../param';
import { COLOUR } from '../../picture';
import { defineStep, pixelsOf } from '../../step';

export const exposure = defineStep({
  type: 'exposure',
  title: 'Exposure',
  family: 'Colour',
  summary: 'Makes the picture brighter or darker by whole or part stops, as light would.',
  params: { stops: number('Exposure', 0, [-6, 6], { unit: 'stops', min: -64, max: 64 }) },
  feeds: [],
  neutral: (p) => p.stops === 0,
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  render(ctx, p, out) {
    const from = ctx.tile('main')!;
    for (const [c, plane] of Object.entries(out.planes)) {
      ctx.kernels.fn.affine(from.planes[c]!.byteOffset, plane.byteOffset, pixelsOf(out), 2 ** p.stops, 0);
    }
  },
});
