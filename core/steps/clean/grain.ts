import { evenGrain, shareAt } from '../../grain/model';
import { grainField } from '../../grain/synthesis';
import { isEmpty } from '../../geometry/rect';
import { choice, grain as grainParam, integer, number } from '../../param';
import { COLOUR } from '../../picture';
import { defineStep } from '../../step';

export const grain = defineStep({
  type: 'grain',
  title: 'Grain',
  family: 'Filter',
  summary: 'Gives the grain of a plate to what has none: as strong at each light, as large, as much of it in common between channels.',
  params: {
    from: choice('Grain', 'measured', [
      { value: 'measured', title: 'As measured' },
      { value: 'even', title: 'Even', help: 'White noise, as strong at every light.' },
    ]),
    measured: grainParam('Measured', { when: { from: ['measured'] }, help: 'From a flat place of a plate.' }),
    strength: number('Strength', 0.02, [0, 0.1], { min: 0, max: 10, when: { from: ['even'] }, help: 'Standard deviation.' }),
    amount: number('Amount', 1, [0, 2], { min: 0, max: 20, help: '1 is the grain of the plate.' }),
    seed: integer('Variant', 1, [1, 20], { min: 0, max: 1e6, animatable: false }),
  },
  feeds: [],
  neutral: (p) => p.amount === 0 || (p.from === 'measured' ? p.measured.length === 0 : p.strength === 0),
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  // Another grain on every frame.
  identity: (_, io) => io.frame,
  locality: 'pixel',
  needs: (_, want) => [{ input: 'main', region: want.region, channels: [...want.channels, 'A'] }],
  render(ctx, p, out) {
    const main = ctx.tile('main')!;
    for (const [c, plane] of Object.entries(out.planes)) plane.set(main.planes[c]!);
    if (isEmpty(out.region)) return;
    const all = p.from === 'measured' ? p.measured : evenGrain(p.strength * p.strength);
    // Seen smaller, what is left of it has no neighbours any more.
    const fields = grainField(ctx.kernels, all, out.region, ctx.frame, p.seed, ctx.scale >= 1 && p.from === 'measured');
    COLOUR.forEach((c, k) => {
      const plane = out.planes[c];
      const [a, b, d] = all[k]!.variance as [number, number, number];
      const alpha = main.planes.A!.byteOffset;
      if (plane) {
        ctx.kernels.fn.addGrain(
          plane.byteOffset,
          alpha,
          fields[k]!.byteOffset,
          plane.length,
          a,
          b,
          d,
          p.amount * shareAt(all[k]!, ctx.scale),
        );
      }
      ctx.kernels.give(fields[k]!);
    });
  },
});
