import { colour, number, point } from '../../param';
import { defineStep } from '../../step';
import { fillPixels, generator, opacity } from './generator';

/** The integral from 0 to x of a square wave that is 1 on [0, 1) and −1 on [1, 2). */
function waveIntegral(x: number): number {
  const t = x - 2 * Math.floor(x / 2);
  return t < 1 ? t : 2 - t;
}

/** Its mean over a pixel that is `d` fields wide, around x: exact, so that fields finer than pixels are their mean. */
const waveMean = (x: number, d: number): number => (waveIntegral(x + d / 2) - waveIntegral(x - d / 2)) / d;

export const checker = defineStep({
  type: 'checker',
  title: 'Checker',
  family: 'Generate',
  summary: 'Fills the frame with a checkerboard, its edges as exact as pixels can be.',
  params: {
    size: number('Size', 60, [4, 240], { unit: 'px', min: 0.25, max: 10_000, pixels: true }),
    origin: point('Origin', [0, 0], { unit: 'px', pixels: true }),
    first: colour('First', [0.05, 0.05, 0.05], { pick: true }),
    second: colour('Second', [0.5, 0.5, 0.5], { pick: true }),
    opacity,
  },
  feeds: [],
  ...generator,
  render(_, p, out) {
    const d = 1 / p.size;
    fillPixels(
      out,
      (x, y, to) => {
        // Over a pixel the mean of the product of two waves, one along each axis, is the product of their means.
        const t = 0.5 - 0.5 * waveMean((x - p.origin[0]) * d, d) * waveMean((y - p.origin[1]) * d, d);
        for (let c = 0; c < 3; c++) to[c] = p.first[c]! + t * (p.second[c]! - p.first[c]!);
      },
      p.opacity,
    );
  },
});
