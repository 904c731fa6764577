import { colour, integer, number, toggle, triple } from '../../param';
import { copyOver } from '../../filters/copy';
import { addTo } from '../../light/bright';
import { COLOUR } from '../../picture';
import { defineStep } from '../../step';
import { copyMain, haloBounds, haloNeeds, haloOf, onlyFeed } from './halo';

const spreadOf = (p: { size: number; octaves: number; tail: number }) => ({ size: p.size, octaves: p.octaves, fall: p.tail });

const widest = (p: { size: number; spread: readonly [number, number, number] }): number => p.size * Math.max(...p.spread);

/**
 * Veiling glare: light above a threshold is scattered by a sum of Gaussians, whose tail falls as that of glass and film does. Where light is kept, what is
 * scattered is missing at its source, so that the sum of the picture stays.
 */
export const glow = defineStep({
  type: 'glow',
  title: 'Glow',
  family: 'Light & air',
  summary: 'Lets bright parts shine over what is around them.',
  params: {
    amount: number('Amount', 0.3, [0, 1], { min: 0, max: 100 }),
    threshold: number('Above', 0, [-4, 4], { unit: 'stops', min: -12, max: 12, help: 'Over white.' }),
    size: number('Size', 40, [2, 200], { unit: 'px', min: 0.5, max: 1000, pixels: true, help: 'Of the widest part.' }),
    octaves: integer('Parts', 4, [1, 7], { min: 1, max: 8, animatable: false, help: 'Each is half as wide as the next.' }),
    tail: number('Tail', 0.7, [0.2, 1.5], { min: 0.01, max: 10, help: 'How strong each part is beside the one half as wide.' }),
    spread: triple('Size by channel', 1, [0.5, 2], { min: 0.05, max: 4, help: 'Beside the size; on film red spreads the farthest.' }),
    tint: colour('Colour', [1, 1, 1]),
    keep: toggle('Conserve light', false, { help: 'What shines elsewhere is missing at its source.' }),
  },
  feeds: [onlyFeed('shines')],
  neutral: (p) => p.amount === 0,
  bounds: (p, io) => haloBounds(io.inputs.main!, widest(p)),
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  locality: 'region',
  needs: (p, { region }, io) => haloNeeds(region, widest(p), io),
  render(ctx, p, out) {
    const { halo, bright } = haloOf(ctx, out.region, p.threshold, spreadOf(p), p.spread);
    const { region } = ctx.tile('main')!;
    COLOUR.forEach((c, k) => {
      const plane = out.planes[c];
      if (!plane) return;
      copyMain(ctx, c, plane, out.region);
      addTo(ctx.kernels, plane, halo[k]!, p.amount * p.tint[k]!);
      if (!p.keep) return;
      const source = copyOver(ctx.kernels, bright[k]!, region, out.region, (n) => ctx.scratch(n));
      addTo(ctx.kernels, plane, source, -Math.min(1, p.amount) * p.tint[k]!);
    });
  },
});
