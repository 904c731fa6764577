import { choice, number } from '../../param';
import { COLOUR } from '../../picture';
import { defineStep, pixelsOf } from '../../step';

const CHANNELS = COLOUR.length;

export const differenceKey = defineStep({
  type: 'differenceKey',
  title: 'Difference key',
  family: 'Matte',
  summary: 'Keeps what differs from a clean plate by more than its noise explains.',
  params: {
    low: number('Empty below', 3, [0, 20], { min: 0, group: 'Matte', help: 'In standard deviations of the noise.' }),
    high: number('Solid above', 10, [0, 60], { min: 0.01, group: 'Matte', help: 'In standard deviations of the noise.' }),
    noise: number('Noise in black', 0.004, [0, 0.05], { min: 1e-5, max: 1, decimals: 4, group: 'Noise' }),
    noiseRise: number('Noise rise with light', 0.02, [0, 0.2], {
      min: 0,
      max: 4,
      decimals: 3,
      group: 'Noise',
      help: "A sensor's noise grows with the root of the light: the standard deviation is √(black² + rise²·light).",
    }),
    output: choice(
      'Colour out',
      'multiply',
      [
        { value: 'multiply', title: 'Multiplied by matte' },
        { value: 'subtract', title: 'Clean plate subtracted', help: 'Keeps motion blur and hair.' },
        { value: 'matte', title: 'Plate unchanged' },
      ],
      { group: 'Colour' },
    ),
  },
  feeds: [{ name: 'clean', title: 'Clean plate', help: 'The same view without the subject.', required: true }],
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, 'A'])],
  writes: (p, channels) => channels.filter((c) => c === 'A' || (p.output !== 'matte' && (COLOUR as readonly string[]).includes(c))),
  locality: 'pixel',
  needs: (_, { region }) => [
    { input: 'main', region, channels: [...COLOUR, 'A'] },
    { input: 'clean', region, channels: COLOUR },
  ],
  render(ctx, p, out) {
    const n = pixelsOf(out);
    const main = ctx.tile('main')!;
    const clean = ctx.tile('clean')!;
    const a = out.planes.A ?? ctx.scratch(n);
    const pairs = COLOUR.map((c) => [main.planes[c]!, clean.planes[c]!] as const);
    const before = main.planes.A!;
    const span = 1 / Math.max(1e-6, p.high - p.low);
    const [floor, rise] = [p.noise * p.noise, p.noiseRise * p.noiseRise];
    for (let i = 0; i < n; i++) {
      let sum = 0;
      for (const [x, y] of pairs) {
        const light = Math.max(0, y[i]!);
        sum += (x[i]! - light) ** 2 / (2 * (floor + rise * light));
      }
      a[i] = Math.min(1, Math.max(0, (Math.sqrt(sum / CHANNELS) - p.low) * span)) * before[i]!;
    }
    COLOUR.forEach((c, k) => {
      const to = out.planes[c];
      if (!to) return;
      const [x, y] = pairs[k]!;
      if (p.output === 'multiply') ctx.kernels.fn.multiply(x.byteOffset, a.byteOffset, to.byteOffset, n);
      else for (let i = 0; i < n; i++) to[i] = a[i]! > 0 ? Math.max(0, x[i]! - (1 - a[i]!) * y[i]!) : 0;
    });
  },
});
