import { gaussianBlur, gaussianRegion } from '../../filters/gaussian';
import { intersect, isEmpty, union } from '../../geometry/rect';
import { choice, number } from '../../param';
import { formatRect } from '../../picture';
import { defineStep } from '../../step';
import { channelSet } from '../channel-set';

/** Unsharp masking: what a Gaussian takes away is added again, where it is more than a threshold. */
export const sharpen = defineStep({
  type: 'sharpen',
  title: 'Sharpen',
  family: 'Filter',
  summary: 'Lifts detail: adds again, as often as asked, what a Gaussian would take away.',
  params: {
    amount: number('Amount', 0.5, [0, 3], { min: 0, max: 20 }),
    size: number('Size', 1, [0.3, 20], { unit: 'px', min: 0.1, max: 200, pixels: true, help: 'Standard deviation of the Gaussian.' }),
    threshold: number('Threshold', 0, [0, 0.1], { min: 0, max: 100, help: 'Differences below this are noise, and stay.' }),
    channels: choice('Channels', 'colour', channelSet.options),
  },
  feeds: [],
  neutral: (p) => p.amount === 0,
  writes: (p, channels) => channelSet.pick(p.channels, channels),
  needs: (p, want, io) => [
    {
      input: 'main',
      region: intersect(union(gaussianRegion(want.region, p.size, p.size), want.region), io.inputs.main!.bounds),
      channels: want.channels,
    },
  ],
  render(ctx, p, out) {
    const from = ctx.tile('main')!;
    const { format, bounds } = ctx.inputs.main!;
    const w = out.region.x1 - out.region.x0;
    const fw = from.region.x1 - from.region.x0;
    for (const [c, plane] of Object.entries(out.planes)) {
      ctx.poll();
      if (isEmpty(from.region)) {
        plane.fill(0);
        continue;
      }
      const source = from.planes[c]!;
      gaussianBlur(ctx.kernels, source, from.region, plane, out.region, p.size, p.size, union(formatRect(format), bounds));
      const inside = intersect(out.region, from.region);
      for (let y = out.region.y0; y < out.region.y1; y++) {
        for (let x = out.region.x0; x < out.region.x1; x++) {
          const o = (y - out.region.y0) * w + x - out.region.x0;
          const held = x >= inside.x0 && x < inside.x1 && y >= inside.y0 && y < inside.y1;
          const v = held ? source[(y - from.region.y0) * fw + x - from.region.x0]! : 0;
          const d = v - plane[o]!;
          plane[o] = Math.abs(d) > p.threshold ? v + p.amount * (d - Math.sign(d) * p.threshold) : v;
        }
      }
    }
  },
});
