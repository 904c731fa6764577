import { number, triple } from '../../param';
import { COLOUR } from '../../picture';
import { defineStep, pixelsOf } from '../../step';
import { BRIGHT, raise } from './steep';

/** ASC CDL v1.2 with a master for each, after exposure (stops) and contrast around a pivot; saturation last. */
export const grade = defineStep({
  type: 'grade',
  title: 'Grade',
  family: 'Colour',
  summary: 'Balances colour and contrast: exposure, contrast, then slope, offset and power as in the ASC CDL, then saturation.',
  colour: true,
  params: {
    exposure: number('Exposure', 0, [-4, 4], { unit: 'stops', min: -64, max: 64, group: 'Light' }),
    contrast: number('Contrast', 1, [0.2, 3], { min: 0.01, max: 20, group: 'Light' }),
    pivot: number('Pivot', 0.18, [0.01, 1], { min: 1e-4, max: 100, group: 'Light', help: 'The value that contrast leaves alone.' }),
    slope: triple('Slope', 1, [0, 2], { min: 0, max: 1000, group: 'Slope, offset, power' }),
    masterSlope: number('Slope, all', 1, [0, 2], { min: 0, max: 1000, group: 'Slope, offset, power' }),
    offset: triple('Offset', 0, [-0.2, 0.2], { min: -100, max: 100, group: 'Slope, offset, power' }),
    masterOffset: number('Offset, all', 0, [-0.2, 0.2], { min: -100, max: 100, group: 'Slope, offset, power' }),
    power: triple('Power', 1, [0.3, 3], { min: 0.01, max: 100, group: 'Slope, offset, power' }),
    masterPower: number('Power, all', 1, [0.3, 3], { min: 0.01, max: 100, group: 'Slope, offset, power' }),
    saturation: number('Saturation', 1, [0, 2], { min: 0, max: 100, group: 'Saturation' }),
  },
  feeds: [],
  neutral: (p) =>
    p.exposure === 0 &&
    p.contrast === 1 &&
    p.saturation === 1 &&
    p.masterSlope === 1 &&
    p.masterOffset === 0 &&
    p.masterPower === 1 &&
    p.slope.every((v) => v === 1) &&
    p.offset.every((v) => v === 0) &&
    p.power.every((v) => v === 1),
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  locality: 'pixel',
  needs: (_, want) => [{ input: 'main', region: want.region, channels: COLOUR }],
  render(ctx, p, out) {
    const { fn } = ctx.kernels;
    const n = pixelsOf(out);
    const from = ctx.tile('main')!;
    const planes = COLOUR.map((c, i) => {
      const to = (out.planes[c] ?? ctx.scratch(n)).byteOffset;
      const light = 2 ** p.exposure;
      let most = BRIGHT * light;
      const slope = p.slope[i]! * p.masterSlope;
      const offset = p.offset[i]! + p.masterOffset;
      const power = p.power[i]! * p.masterPower;
      if (p.contrast === 1) fn.affine(from.planes[c]!.byteOffset, to, n, light * slope, offset);
      else {
        fn.affine(from.planes[c]!.byteOffset, to, n, light, 0);
        most = raise(ctx.kernels, to, n, p.contrast, p.pivot, most);
        fn.affine(to, to, n, slope, offset);
      }
      if (power !== 1) raise(ctx.kernels, to, n, power, 1, most * slope + Math.abs(offset));
      return to;
    });
    if (p.saturation !== 1) fn.saturate(planes[0]!, planes[1]!, planes[2]!, n, p.saturation);
  },
});
