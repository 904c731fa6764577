import { choice, colour, number } from '../../param';
import { COLOUR } from '../../picture';
import { defineStep, pixelsOf } from '../../step';

/** The three channels with the screen's primary first: the strongest of the screen colour, green where they tie. */
export function screenOrder(screen: readonly number[]): readonly [number, number, number] {
  const [r, g, b] = screen as [number, number, number];
  if (g >= r && g >= b) return [1, 0, 2];
  return b >= r ? [2, 0, 1] : [0, 1, 2];
}

/** Under this measured matte the colour is not scaled up further, so that the screen's own noise is not laid over the background. */
const FLOOR = 0.02;

/** A screen plate weaker than this share of the screen colour is taken to be empty there. */
const EMPTY_PLATE = 0.15;

/** Colour-difference key after Vlahos; see docs/steps.md for the formula. */
export const screenKey = defineStep({
  type: 'screenKey',
  title: 'Screen key',
  family: 'Matte',
  summary: 'Takes the screen out by how much its colour stands above the others.',
  params: {
    screenColour: colour('Screen colour', [0.045, 0.254, 0.073], {
      pick: true,
      group: 'Screen',
      help: 'Click the screen on the stage, or drag a box over it.',
    }),
    balance: number('Balance', 0.5, [0, 1], {
      min: 0,
      max: 1,
      group: 'Screen',
      help: 'How the two other colours are weighed: 1 by the stronger, 0 by the weaker.',
    }),
    low: number('Empty below', 0, [0, 0.5], { min: -1, max: 0.999, group: 'Matte', decimals: 3 }),
    high: number('Solid above', 1, [0.5, 1], { min: 0.001, max: 4, group: 'Matte', decimals: 3 }),
    toe: number('Toe', 0, [0, 1], { min: 0, max: 1, group: 'Matte', help: 'Eases the start of the ramp.' }),
    shoulder: number('Shoulder', 0, [0, 1], { min: 0, max: 1, group: 'Matte', help: 'Eases the end of the ramp.' }),
    gamma: number('Edge gamma', 1, [0.3, 3], { min: 0.05, max: 20, group: 'Matte', help: 'Acts on partial coverage only.' }),
    output: choice(
      'Colour out',
      'subtract',
      [
        { value: 'subtract', title: 'Screen subtracted', help: 'Keeps motion blur and hair.' },
        { value: 'multiply', title: 'Multiplied by matte', help: 'The plate times its matte.' },
        { value: 'matte', title: 'Plate unchanged', help: 'Only the matte is new.' },
      ],
      { group: 'Colour' },
    ),
  },
  feeds: [
    { name: 'screenPlate', title: 'Screen plate', help: "The screen's colour pixel by pixel." },
    { name: 'inside', title: 'Inside', help: 'A core matte: solid where this is.', matte: true },
    { name: 'outside', title: 'Outside', help: 'A garbage matte: empty where this is.', matte: true },
  ],
  writes: (_, channels) => channels.filter((c) => c === 'A' || (COLOUR as readonly string[]).includes(c)),
  locality: 'pixel',
  needs: (_, { region }) => [
    { input: 'main', region, channels: [...COLOUR, 'A'] },
    { input: 'screenPlate', region, channels: COLOUR },
    { input: 'inside', region, channels: ['A'] },
    { input: 'outside', region, channels: ['A'] },
  ],
  render(ctx, p, out) {
    const { fn } = ctx.kernels;
    const n = pixelsOf(out);
    const plate = COLOUR.map((c) => ctx.tile('main')!.planes[c]!.byteOffset);
    const given = ctx.tile('screenPlate');
    const own = p.screenColour;
    const screen = COLOUR.map((c, i) => (given ? given.planes[c]! : ctx.scratch(n).fill(own[i]!)).byteOffset);
    const [k, q, r] = screenOrder(own);
    const stands = own[k]! - (p.balance * Math.max(own[q]!, own[r]!) + (1 - p.balance) * Math.min(own[q]!, own[r]!));
    const a = (out.planes.A ?? ctx.scratch(n)).byteOffset;
    const raw = ctx.scratch(n).byteOffset;
    fn.colourDifference(
      plate[k]!,
      plate[q]!,
      plate[r]!,
      screen[k]!,
      screen[q]!,
      screen[r]!,
      a,
      raw,
      n,
      p.balance,
      Math.min(p.low, p.high - 1e-3),
      p.high,
      p.toe,
      p.shoulder,
      p.gamma,
      given ? EMPTY_PLATE * stands : -Infinity,
      stands,
    );
    const inside = ctx.tile('inside');
    if (inside) {
      const core = inside.planes.A!.byteOffset;
      fn.maxPlane(a, core, a, n);
      fn.maxPlane(raw, core, raw, n);
    }
    const outside = ctx.tile('outside');
    if (outside) {
      const keep = ctx.scratch(n).byteOffset;
      fn.affine(outside.planes.A!.byteOffset, keep, n, -1, 1);
      fn.clampPlane(keep, keep, n, 0, 1);
      fn.multiply(a, keep, a, n);
    }
    fn.multiply(a, ctx.tile('main')!.planes.A!.byteOffset, a, n);
    const subtracts = p.output === 'subtract' && COLOUR.some((c) => out.planes[c]);
    const taken = subtracts && given ? screen.map(() => ctx.scratch(n).byteOffset) : screen;
    if (taken !== screen) {
      const [from, to] = [screen, taken];
      fn.fillScreen(from[k]!, from[q]!, from[r]!, to[k]!, to[q]!, to[r]!, n, own[k]!, own[q]!, own[r]!, p.balance, EMPTY_PLATE);
    }
    COLOUR.forEach((c, i) => {
      const to = out.planes[c];
      if (!to) return;
      if (p.output === 'subtract') fn.subtractScreen(plate[i]!, taken[i]!, raw, a, to.byteOffset, n, FLOOR);
      else if (p.output === 'multiply') fn.multiply(plate[i]!, a, to.byteOffset, n);
      else fn.affine(plate[i]!, to.byteOffset, n, 1, 0);
    });
  },
});
