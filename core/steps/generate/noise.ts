import { height, width } from '../../geometry/rect';
import { choice, colour, integer, number } from '../../param';
import { defineStep } from '../../step';
import { generator, opacity } from './generator';

/** What the sum of octaves lies within, nearly always. */
const REACH = 0.7;

export const noise = defineStep({
  type: 'noise',
  title: 'Noise',
  family: 'Generate',
  summary: 'Fills the frame with clouds that can change with time.',
  params: {
    size: number('Size', 120, [4, 480], { unit: 'px', min: 0.5, max: 20_000, pixels: true, help: 'Of the largest clouds.' }),
    octaves: integer('Octaves', 5, [1, 10], { min: 1, max: 12, animatable: false, help: 'Each is half as large as the one before.' }),
    roughness: number('Roughness', 0.5, [0, 1], { min: 0, max: 1, help: 'How strong each octave is beside the one before.' }),
    contrast: number('Contrast', 1, [0, 4], { min: 0, max: 100 }),
    speed: number('Evolves', 0, [0, 1], { unit: '/s', min: 0, max: 100, animatable: false, help: 'Clouds that come and go a second.' }),
    phase: number('Phase', 0, [0, 10]),
    seed: integer('Seed', 1, [0, 100], { min: 0, max: 1_000_000, animatable: false }),
    low: colour('Low', [0, 0, 0], { pick: true }),
    high: colour('High', [1, 1, 1], { pick: true }),
    alpha: choice('Alpha', 'solid', [
      { value: 'solid', title: 'Solid' },
      { value: 'noise', title: 'The noise: fog in the high colour' },
    ]),
    opacity,
  },
  feeds: [],
  ...generator,
  // Still noise is one picture; what evolves is another at every frame.
  identity: (p, io) => (p.speed === 0 ? null : io.frame),
  render(ctx, p, out) {
    const n = ctx.scratch(width(out.region) * height(out.region));
    const { x0, y0 } = out.region;
    // Octaves under half a pixel are nothing but its mean.
    const most = Math.max(1, Math.min(p.octaves, Math.ceil(Math.log2(p.size)) + 1));
    const z = p.phase + (p.speed * ctx.frame) / ctx.frameRate;
    const { fn } = ctx.kernels;
    fn.gradientNoise(n.byteOffset, width(out.region), height(out.region), x0, y0, p.size, z, most, p.octaves, p.roughness, p.seed);
    const gain = p.contrast / (2 * REACH);
    fn.affineClamped(n.byteOffset, n.byteOffset, n.length, gain, 0.5, 0, 1);
    const fog = p.alpha === 'noise';
    (['R', 'G', 'B'] as const).forEach((c, i) => {
      const plane = out.planes[c];
      const low = fog ? 0 : p.low[i]!;
      if (plane) fn.affine(n.byteOffset, plane.byteOffset, plane.length, (p.high[i]! - low) * p.opacity, low * p.opacity);
    });
    const { A } = out.planes;
    if (A && fog) fn.affine(n.byteOffset, A.byteOffset, n.length, p.opacity, 0);
    else A?.fill(p.opacity);
  },
});
