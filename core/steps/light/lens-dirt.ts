import { number } from '../../param';
import { area, grow, intersect, isEmpty } from '../../geometry/rect';
import { pushPixels } from '../../filters/push';
import { mapRegion } from '../../filters/sample';
import { width } from '../../geometry/rect';
import { COLOUR, RGBA } from '../../picture';
import { defineStep, pixelsOf } from '../../step';
import { copyMain, haloBounds, haloOf, haloPad } from './halo';

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
    { name: 'only', title: 'Only', help: 'Only what its alpha covers lights it.', matte: true },
  ],
  neutral: (p) => p.amount === 0,
  bounds: (p, io) => haloBounds(io.inputs.main!, p.size),
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  locality: 'region',
  needs: (p, { region }, io) => {
    const wide = intersect(grow(region, haloPad(p.size)), io.inputs.main!.bounds);
    return [
      { input: 'main', region: wide, channels: COLOUR },
      { input: 'dirt', region: io.inputs.dirt!.bounds, channels: RGBA },
      ...(io.inputs.only ? [{ input: 'only', region: intersect(wide, io.inputs.only.bounds), channels: ['A'] as readonly string[] }] : []),
    ];
  },
  render(ctx, p, out) {
    const { halo } = haloOf(ctx, out.region, p.threshold, { size: p.size, octaves: 3, fall: 1 }, 'only');
    const dirt = ctx.tile('dirt')!;
    const [to, from] = [ctx.inputs.main!.format, ctx.inputs.dirt!.format];
    const all = mapRegion(out.region);
    const [dx, dy] = [ctx.scratch(area(all)), ctx.scratch(area(all))];
    const w = width(all);
    for (let i = 0; i < dx.length; i++) {
      dx[i] = (from.width / to.width - 1) * (all.x0 + (i % w) + 0.5);
      dy[i] = (from.height / to.height - 1) * (all.y0 + Math.floor(i / w) + 0.5);
    }
    const specks = COLOUR.map(() => ctx.scratch(pixelsOf(out)).fill(0));
    if (!isEmpty(dirt.region)) {
      const planes = COLOUR.map((c) => dirt.planes[c]!);
      const options = { filter: 'bilinear' as const, edge: 'empty' as const, domain: dirt.region, poll: () => ctx.poll() };
      pushPixels(ctx.kernels, planes, dirt.region, specks, out.region, [dx, dy], options);
    }
    COLOUR.forEach((c, k) => {
      const plane = out.planes[c];
      if (!plane) return;
      copyMain(ctx, c, plane, out.region);
      for (let i = 0; i < plane.length; i++) plane[i]! += p.amount * specks[k]![i]! * halo[k]![i]!;
    });
  },
});
