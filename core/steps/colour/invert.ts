import { formatRect } from '../../picture';
import { union } from '../../geometry/rect';
import { choice } from '../../param';
import { defineStep, pixelsOf } from '../../step';
import { channelSet } from '../channel-set';

/** Colour becomes A − c, which is the inverse of the unpremultiplied colour; alpha becomes 1 − A. */
export const invert = defineStep({
  type: 'invert',
  title: 'Invert',
  family: 'Colour',
  summary: 'Turns colour or a matte into its opposite.',
  params: { channels: choice('Channels', 'colour', channelSet.options) },
  feeds: [],
  bounds: (p, io) => (p.channels === 'colour' ? io.inputs.main!.bounds : union(io.inputs.main!.bounds, formatRect(io.inputs.main!.format))),
  writes: (p, channels) => channelSet.pick(p.channels, channels),
  locality: 'pixel',
  needs: (_, want) => [{ input: 'main', region: want.region, channels: [...want.channels, 'A'] }],
  render(ctx, _, out) {
    const from = ctx.tile('main')!;
    const { fn } = ctx.kernels;
    for (const [c, plane] of Object.entries(out.planes)) {
      const n = pixelsOf(out);
      if (c === 'A') fn.affine(from.planes.A!.byteOffset, plane.byteOffset, n, -1, 1);
      else fn.addScaled(from.planes.A!.byteOffset, from.planes[c]!.byteOffset, plane.byteOffset, n, -1);
    }
  },
});
