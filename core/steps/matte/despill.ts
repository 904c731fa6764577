import { LUMA } from '../../colour/transfer';
import { choice, colour, number } from '../../param';
import { COLOUR } from '../../picture';
import { defineStep, pixelsOf } from '../../step';

const LIMITS = ['average', 'maximum', 'minimum', 'weighted'] as const;

/** Rotation of RGB about the grey axis by an angle (Rodrigues), row-major. */
export function turnHue(angle: number): number[] {
  const c = Math.cos(angle);
  const s = Math.sin(angle) / Math.sqrt(3);
  const k = (1 - c) / 3;
  return [c + k, k - s, k + s, k + s, c + k, k - s, k - s, k + s, c + k];
}

/** Hue of a colour in radians on the plane across the grey axis; 0 is red, 2π/3 green, −2π/3 blue. */
export const hueAngle = (r: number, g: number, b: number): number => Math.atan2(Math.sqrt(3) * (g - b), 2 * r - g - b);

const GREEN = (2 * Math.PI) / 3;

export const despill = defineStep({
  type: 'despill',
  title: 'Despill',
  family: 'Matte',
  summary: "Takes the screen's colour out of the subject, and gives the light back.",
  params: {
    screenColour: colour('Screen colour', [0.045, 0.254, 0.073], { pick: true, group: 'Screen' }),
    limit: choice(
      'Limit to',
      'average',
      [
        { value: 'average', title: 'Average of the others' },
        { value: 'maximum', title: 'Stronger of the others' },
        { value: 'minimum', title: 'Weaker of the others' },
        { value: 'weighted', title: 'Weighted mix' },
      ],
      { group: 'Spill' },
    ),
    weight: number('Weight', 0.5, [0, 1], {
      min: 0,
      max: 1,
      group: 'Spill',
      help: 'For the weighted mix: 1 the first of the others, 0 the second.',
    }),
    amount: number('Amount', 1, [0, 1], { min: 0, max: 4, group: 'Spill' }),
    protect: colour('Protected colour', [0.5, 0.5, 0.05], { pick: true, group: 'Protect' }),
    protectRange: number('Protected range', 0, [0, 90], {
      unit: '°',
      min: 0,
      max: 180,
      group: 'Protect',
      help: 'Hues this near to the protected colour are left alone.',
    }),
    giveBack: choice(
      'Give back as',
      'neutral',
      [
        { value: 'nothing', title: 'Nothing' },
        { value: 'neutral', title: 'Neutral light' },
        { value: 'colour', title: 'A colour' },
        { value: 'background', title: 'The background feed' },
      ],
      { group: 'Light' },
    ),
    tint: colour('Colour', [0.5, 0.5, 0.5], { pick: true, group: 'Light' }),
    share: number('Share', 1, [0, 1], { min: 0, max: 4, group: 'Light', help: 'Share of the lost luminance that is given back.' }),
  },
  feeds: [{ name: 'background', title: 'Background', help: 'Blurred, its colour replaces the spill.' }],
  neutral: (p) => p.amount === 0,
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, 'spill.A'])],
  writes: (_, channels) => channels.filter((c) => c === 'spill.A' || (COLOUR as readonly string[]).includes(c)),
  locality: 'pixel',
  needs: (p, { region }) => [
    { input: 'main', region, channels: COLOUR },
    { input: 'background', region, channels: p.giveBack === 'background' ? COLOUR : [] },
  ],
  render(ctx, p, out) {
    const { fn } = ctx.kernels;
    const n = pixelsOf(out);
    const from = COLOUR.map((c) => ctx.tile('main')!.planes[c]!.byteOffset);
    // The screen's hue is turned onto green, limited there and turned back, so that any screen colour works.
    const angle = GREEN - hueAngle(p.screenColour[0], p.screenColour[1], p.screenColour[2]);
    const m = turnHue(angle) as Matrix;
    const turned = COLOUR.map(() => ctx.scratch(n).byteOffset);
    fn.matrix3(from[0]!, from[1]!, from[2]!, turned[0]!, turned[1]!, turned[2]!, n, ...m);
    const spill = ctx.scratch(n);
    fn.spillAmount(turned[1]!, turned[0]!, turned[2]!, spill.byteOffset, n, LIMITS.indexOf(p.limit), p.weight, p.amount);
    // Less than that is no range that a float can tell from none.
    if (p.protectRange > 1e-4) {
      const keep = hueAngle(p.protect[0], p.protect[1], p.protect[2]);
      fn.protectHue(from[0]!, from[1]!, from[2]!, spill.byteOffset, n, keep, (p.protectRange * Math.PI) / 180);
    }
    // Taking s off the turned green takes s times the second column of the turn's inverse (its transpose) off the colour.
    const taken = [m[3], m[4], m[5]];
    const lost = LUMA.reduce((sum, w, i) => sum + w * taken[i]!, 0) * p.share;
    const back = p.giveBack === 'background' ? ctx.tile('background') : undefined;
    const tint = p.giveBack === 'colour' ? p.tint : ([1, 1, 1] as const);
    const tintLuma = Math.max(
      1e-6,
      LUMA.reduce((sum, w, i) => sum + w * tint[i]!, 0),
    );
    COLOUR.forEach((c, i) => {
      const to = out.planes[c];
      if (!to) return;
      const given = p.giveBack === 'nothing' || p.giveBack === 'background' ? 0 : (lost * tint[i]!) / tintLuma;
      fn.addScaled(from[i]!, spill.byteOffset, to.byteOffset, n, given - taken[i]!);
    });
    if (back) {
      const to = COLOUR.map((c) => (out.planes[c] ?? ctx.scratch(n)).byteOffset);
      const behind = COLOUR.map((c) => back.planes[c]!.byteOffset);
      fn.giveBackground(to[0]!, to[1]!, to[2]!, behind[0]!, behind[1]!, behind[2]!, spill.byteOffset, n, lost);
    }
    out.planes['spill.A']?.set(spill);
  },
});

type Matrix = [number, number, number, number, number, number, number, number, number];
