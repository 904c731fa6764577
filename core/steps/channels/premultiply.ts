import { COLOUR } from '../../picture';
import type { StepDefinition } from '../../step';
import { defineStep, pixelsOf } from '../../step';

/** Two steps that differ only in what they do to colour with alpha. */
const withAlpha = (type: 'premultiply' | 'unpremultiply', title: string, summary: string): StepDefinition =>
  defineStep({
    type,
    title,
    family: 'Channels',
    summary,
    params: {},
    feeds: [],
    writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
    locality: 'pixel',
    needs: (_, want) => [{ input: 'main', region: want.region, channels: [...want.channels, 'A'] }],
    render(ctx, _, out) {
      const from = ctx.tile('main')!;
      const apply = type === 'premultiply' ? ctx.kernels.fn.multiply : ctx.kernels.fn.unpremultiply;
      for (const [c, plane] of Object.entries(out.planes)) {
        apply(from.planes[c]!.byteOffset, from.planes.A!.byteOffset, plane.byteOffset, pixelsOf(out));
      }
    },
  });

export const premultiply = withAlpha('premultiply', 'Premultiply', 'Multiplies colour by alpha.');
export const unpremultiply = withAlpha(
  'unpremultiply',
  'Unpremultiply',
  'Divides colour by alpha; where alpha is 0 colour is left as it is.',
);
