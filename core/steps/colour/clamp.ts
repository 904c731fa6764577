import { choice, number, toggle } from '../../param';
import { defineStep, pixelsOf } from '../../step';
import { channelSet } from '../channel-set';

export const clamp = defineStep({
  type: 'clamp',
  title: 'Clamp',
  family: 'Colour',
  summary: 'Keeps values inside a range.',
  colour: true,
  params: {
    channels: choice('Channels', 'all', channelSet.options),
    limitLow: toggle('Limit below', true),
    low: number('Lowest', 0, [-1, 1]),
    limitHigh: toggle('Limit above', true),
    high: number('Highest', 1, [0, 4]),
  },
  feeds: [],
  neutral: (p) => !p.limitLow && !p.limitHigh,
  writes: (p, channels) => channelSet.pick(p.channels, channels),
  render(ctx, p, out) {
    const from = ctx.tile('main')!;
    const low = p.limitLow ? p.low : -Infinity;
    const high = p.limitHigh ? p.high : Infinity;
    for (const [c, plane] of Object.entries(out.planes)) {
      ctx.kernels.fn.clampPlane(from.planes[c]!.byteOffset, plane.byteOffset, pixelsOf(out), low, high);
    }
  },
});
