import { fromWorking, toWorking } from '../../colour/convert';
import { COLOUR } from '../../picture';
import { defineStep } from '../../step';
import { colourPlanes, spaceChoice } from './lut';

export const colourSpace = defineStep({
  type: 'colourSpace',
  title: 'Colour space',
  family: 'Colour',
  summary: 'Reads the values as one space and writes them as another: for pixels that were understood wrongly, or work in log.',
  params: {
    from: spaceChoice('From', 'What the values are now.'),
    to: spaceChoice('To', 'What they shall be.'),
  },
  feeds: [],
  colour: true,
  neutral: (p) => p.from === p.to,
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  locality: 'pixel',
  needs: (_, want) => [{ input: 'main', region: want.region, channels: COLOUR }],
  render(ctx, p, out) {
    const planes = colourPlanes(ctx, out);
    toWorking(planes, p.from, ctx.kernels);
    fromWorking(planes, p.to, ctx.kernels);
  },
});
