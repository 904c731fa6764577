import { number } from '../../param';
import { stretchOver } from '../../filters/push';
import { COLOUR, RGBA } from '../../picture';
import { defineStep, pixelsOf } from '../../step';
import { copyMain, haloBounds, haloNeeds, haloOf, onlyFeed } from './halo';

/**
 * Dirt on the front of a lens is far out of focus: each speck scatters the light of bright parts around it towards the picture. out = main + amount · dirt ·
 * (bright parts spread widely).
 */
export const lensDirt = defineStep({
  type: 'lensDirt',
  title: 'Lens dirt',
  family: 'Light & air',
  summary: 'Shows the dirt on a lens where bright parts light it.',
  params: {
    amount: number('Amount', 0.6, [0, 4], { min: 0, max: 1000 }),
    threshold: number('Above', 0, [-4, 4], { unit: 'stops', min: -12, max: 12, help: 'Over white.' }),
    size: number('Reach', 160, [10, 400], { unit: 'px', min: 1, max: 1000, pixels: true, help: 'How far from bright parts dirt is lit.' }),
  },
  feeds: [
    { name: 'dirt', title: 'Dirt', help: 'A picture of it, bright where it lies; stretched over the frame.', required: true },
    onlyFeed('lights it'),
  ],
  neutral: (p) => p.amount === 0,
  bounds: (p, io) => haloBounds(io.inputs.main!, p.size),
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  locality: 'region',
  needs: (p, { region }, io) => [...haloNeeds(region, p.size, io), { input: 'dirt', region: io.inputs.dirt!.bounds, channels: RGBA }],
  render(ctx, p, out) {
    const { halo } = haloOf(ctx, out.region, p.threshold, { size: p.size, octaves: 3, fall: 1 });
    const dirt = ctx.tile('dirt')!;
    const specks = COLOUR.map(() => ctx.scratch(pixelsOf(out)));
    const planes = COLOUR.map((c) => dirt.planes[c]!);
    const [from, to] = [ctx.inputs.dirt!.format, ctx.inputs.main!.format];
    stretchOver(ctx.kernels, planes, dirt.region, from, specks, out.region, to, { edge: 'empty', poll: () => ctx.poll() });
    COLOUR.forEach((c, k) => {
      const plane = out.planes[c];
      if (!plane) return;
      copyMain(ctx, c, plane, out.region);
      for (let i = 0; i < plane.length; i++) plane[i]! += p.amount * specks[k]![i]! * halo[k]![i]!;
    });
  },
});
