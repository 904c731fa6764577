import { LUMA } from '../../colour/transfer';
import { choice, strokes } from '../../param';
import { COLOUR } from '../../picture';
import { layStrokes } from '../../shape/lay-strokes';
import { defineStep, pixelsOf } from '../../step';

export const paint = defineStep({
  type: 'paint',
  title: 'Paint',
  family: 'Shape & touch-up',
  summary: 'Brushes colour onto the picture, only its hue where lightness shall stay, or a matte.',
  params: {
    strokes: strokes('Brush', { coloured: true, help: 'Strokes on the stage, each on a frame, a span or all of the shot.' }),
    effect: choice('Effect', 'colourOnly', [
      { value: 'colourOnly', title: 'Colour only', help: 'Hue and saturation of the brush, luminance of the picture.' },
      { value: 'colour', title: 'Colour' },
      { value: 'matte', title: 'Matte', help: 'Alpha is what is brushed: a region drawn by hand.' },
    ]),
  },
  feeds: [],
  neutral: (p) => p.strokes.length === 0 && p.effect !== 'matte',
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, 'A'])],
  writes: (p, channels) =>
    channels.filter((c) => (c === 'A' ? p.effect !== 'colourOnly' : p.effect !== 'matte' && (COLOUR as readonly string[]).includes(c))),
  locality: 'pixel',
  needs: (_, { region }) => [{ input: 'main', region, channels: [...COLOUR, 'A'] }],
  render(ctx, p, out) {
    const n = pixelsOf(out);
    const main = ctx.tile('main')!;
    const { coverage, colour } = layStrokes(p.strokes, ctx.scale, out.region);
    const alpha = out.planes.A;
    if (alpha) {
      const had = main.planes.A!;
      if (p.effect === 'matte') alpha.set(coverage);
      else for (let i = 0; i < n; i++) alpha[i] = had[i]! + coverage[i]! * (1 - had[i]!);
    }
    const [r, g, b] = COLOUR.map((c) => main.planes[c]!) as [Float32Array, Float32Array, Float32Array];
    const gain = new Float32Array(n);
    if (p.effect === 'colourOnly') {
      // The brush's colour at the picture's luminance; it is multiplied by alpha as the picture is.
      for (let i = 0; i < n; i++) {
        const lit = LUMA[0] * colour[0][i]! + LUMA[1] * colour[1][i]! + LUMA[2] * colour[2][i]!;
        if (lit > 0) gain[i] = (coverage[i]! * (LUMA[0] * r[i]! + LUMA[1] * g[i]! + LUMA[2] * b[i]!)) / lit;
      }
    } else gain.fill(1);
    COLOUR.forEach((c, k) => {
      const to = out.planes[c];
      if (!to) return;
      const from = main.planes[c]!;
      for (let i = 0; i < n; i++) to[i] = from[i]! * (1 - (gain[i]! !== 0 ? coverage[i]! : 0)) + gain[i]! * colour[k]![i]!;
    });
  },
});
