import { gaussianBlur, gaussianRegion } from '../../filters/gaussian';
import { grow, intersect, isEmpty, union } from '../../geometry/rect';
import { choice, number } from '../../param';
import type { Format } from '../../picture';
import { formatRect } from '../../picture';
import { defineStep } from '../../step';
import { channelSet } from '../channel-set';

interface Size {
  size: number;
  measure: 'sigma' | 'diameter';
  ratio: number;
}

/** Beyond so many times the picture's longer side a wider blur no longer changes what is seen: it is even by then. */
const WIDEST = 4;

/** Diameter is the full width at half height, 2√(2 ln 2)·σ. */
const sigmas = (p: Size, { width, height }: Pick<Format, 'width' | 'height'>): [number, number] => {
  const s = p.measure === 'sigma' ? p.size : p.size / 2.354820045;
  const most = WIDEST * Math.max(width, height);
  return [Math.min(s, most), Math.min(s * p.ratio, most)];
};

export const blur = defineStep({
  type: 'blur',
  title: 'Blur',
  family: 'Filter',
  summary: 'Softens by a Gaussian, at a cost that does not grow with its size.',
  params: {
    size: number('Size', 4, [0, 100], { unit: 'px', min: 0, max: 2000, pixels: true }),
    measure: choice('Size as', 'sigma', [
      { value: 'sigma', title: 'Standard deviation' },
      { value: 'diameter', title: 'Diameter at half height' },
    ]),
    ratio: number('Height to width', 1, [0, 4], { min: 0, max: 100 }),
    channels: choice('Channels', 'all', channelSet.options),
  },
  feeds: [],
  neutral: (p) => p.size === 0,
  // A Gaussian is taken to end at 3σ: what lies beyond is under a thousandth of the pixel it came from.
  bounds: (p, io) => {
    const { bounds, format } = io.inputs.main!;
    const [sx, sy] = sigmas(p, format);
    // Nothing is known beyond the frame: what ends there does not spread over it.
    return intersect(grow(bounds, Math.ceil(3 * sx), Math.ceil(3 * sy)), union(bounds, formatRect(format)));
  },
  writes: (p, channels) => channelSet.pick(p.channels, channels),
  needs: (p, want, io) => [
    {
      input: 'main',
      region: intersect(gaussianRegion(want.region, ...sigmas(p, io.inputs.main!.format)), io.inputs.main!.bounds),
      channels: want.channels,
    },
  ],
  render(ctx, p, out) {
    const from = ctx.tile('main')!;
    const { format, bounds } = ctx.inputs.main!;
    // Beyond the frame and the picture nothing is known; inside the frame an element ends in transparency.
    const domain = union(formatRect(format), bounds);
    for (const [c, plane] of Object.entries(out.planes)) {
      ctx.poll();
      if (isEmpty(from.region)) {
        plane.fill(0);
        continue;
      }
      gaussianBlur(ctx.kernels, from.planes[c]!, from.region, plane, out.region, ...sigmas(p, format), domain);
    }
  },
});
