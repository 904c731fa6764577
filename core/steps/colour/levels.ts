import { choice, number, toggle, triple } from '../../param';
import { COLOUR } from '../../picture';
import { defineStep, pixelsOf } from '../../step';
import { channelSet } from '../channel-set';
import { BRIGHT, raise } from './steep';

export const levels = defineStep({
  type: 'levels',
  title: 'Levels',
  family: 'Colour',
  summary: 'Stretches from a black and a white going in to a black and a white coming out, with a gamma between.',
  colour: true,
  params: {
    channels: choice('Channels', 'colour', channelSet.options),
    blackIn: number('Black in', 0, [-0.1, 0.5], { group: 'In', decimals: 3 }),
    whiteIn: number('White in', 1, [0, 4], { group: 'In', decimals: 3 }),
    gamma: number('Gamma', 1, [0.2, 4], { min: 0.01, max: 100, group: 'In' }),
    blackOut: number('Black out', 0, [-0.1, 0.5], { group: 'Out', decimals: 3 }),
    whiteOut: number('White out', 1, [0, 4], { group: 'Out', decimals: 3 }),
    gammaEach: triple('Gamma by channel', 1, [0.2, 4], { min: 0.01, max: 100, group: 'By channel' }),
    blackEach: triple('Black in by channel', 0, [-0.1, 0.5], { group: 'By channel' }),
    clampLow: toggle('Limit at black out', false, { group: 'Out' }),
    clampHigh: toggle('Limit at white out', false, { group: 'Out' }),
  },
  feeds: [],
  neutral: (p) =>
    p.blackIn === p.blackOut &&
    p.whiteIn === p.whiteOut &&
    p.gamma === 1 &&
    !p.clampLow &&
    !p.clampHigh &&
    p.gammaEach.every((v) => v === 1) &&
    p.blackEach.every((v) => v === 0),
  writes: (p, channels) => channelSet.pick(p.channels, channels),
  render(ctx, p, out) {
    const { fn } = ctx.kernels;
    const n = pixelsOf(out);
    const from = ctx.tile('main')!;
    const [least, most] = [Math.min(p.blackOut, p.whiteOut), Math.max(p.blackOut, p.whiteOut)];
    for (const [c, plane] of Object.entries(out.planes)) {
      const i = (COLOUR as readonly string[]).indexOf(c);
      const black = p.blackIn + (i < 0 ? 0 : p.blackEach[i]!);
      const gamma = p.gamma * (i < 0 ? 1 : p.gammaEach[i]!);
      const span = p.whiteIn - black;
      const gain = 1 / (Math.abs(span) < 1e-6 ? 1e-6 : span);
      const to = plane.byteOffset;
      fn.affine(from.planes[c]!.byteOffset, to, n, gain, -black * gain);
      if (gamma !== 1) raise(ctx.kernels, to, n, 1 / gamma, 1, (BRIGHT + Math.abs(black)) * Math.abs(gain));
      fn.affine(to, to, n, p.whiteOut - p.blackOut, p.blackOut);
      if (p.clampLow || p.clampHigh) fn.clampPlane(to, to, n, p.clampLow ? least : -Infinity, p.clampHigh ? most : Infinity);
    }
  },
});
