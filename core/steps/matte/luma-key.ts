import { LUMA } from '../../colour/transfer';
import { choice, number } from '../../param';
import { COLOUR } from '../../picture';
import { defineStep, pixelsOf } from '../../step';

export const lumaKey = defineStep({
  type: 'lumaKey',
  title: 'Luma key',
  family: 'Matte',
  summary: 'Makes a matte of brightness or of one channel, also for elements filmed on black.',
  params: {
    of: choice('Channel', 'luma', [
      { value: 'luma', title: 'Luma' },
      { value: 'R', title: 'Red' },
      { value: 'G', title: 'Green' },
      { value: 'B', title: 'Blue' },
      { value: 'most', title: 'Strongest of the three' },
      { value: 'least', title: 'Weakest of the three' },
    ]),
    low: number('From', 0.1, [0, 1], { decimals: 3, group: 'Range', help: 'Darker is empty.' }),
    lowSoft: number('Softness below', 0.1, [0, 1], { min: 0, decimals: 3, group: 'Range' }),
    high: number('To', 100, [0, 4], { decimals: 3, group: 'Range', help: 'Brighter is empty; 100 has no upper end in most pictures.' }),
    highSoft: number('Softness above', 0.1, [0, 1], { min: 0, decimals: 3, group: 'Range' }),
    output: choice(
      'Colour out',
      'multiply',
      [
        { value: 'multiply', title: 'Multiplied by matte' },
        { value: 'onBlack', title: 'Filmed on black', help: 'The light is kept as it is, and the matte says how much it covers.' },
        { value: 'matte', title: 'Plate unchanged' },
      ],
      { group: 'Colour' },
    ),
  },
  feeds: [],
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, 'A'])],
  writes: (p, channels) => channels.filter((c) => c === 'A' || (p.output === 'multiply' && (COLOUR as readonly string[]).includes(c))),
  locality: 'pixel',
  needs: (_, { region }) => [{ input: 'main', region, channels: [...COLOUR, 'A'] }],
  render(ctx, p, out) {
    const { fn } = ctx.kernels;
    const n = pixelsOf(out);
    const main = ctx.tile('main')!;
    const [r, g, b] = COLOUR.map((c) => main.planes[c]!.byteOffset) as [number, number, number];
    const value = ctx.scratch(n).byteOffset;
    if (p.of === 'luma') {
      fn.affine(r, value, n, LUMA[0]!, 0);
      fn.addScaled(value, g, value, n, LUMA[1]!);
      fn.addScaled(value, b, value, n, LUMA[2]!);
    } else if (p.of === 'most' || p.of === 'least') {
      const pick = p.of === 'most' ? fn.maxPlane : fn.minPlane;
      pick(r, g, value, n);
      pick(value, b, value, n);
    } else fn.affine(main.planes[p.of]!.byteOffset, value, n, 1, 0);
    const a = (out.planes.A ?? ctx.scratch(n)).byteOffset;
    const ramp = (from: number, to: number, soft: number, sign: number): void => {
      const gain = sign / Math.max(1e-6, soft);
      fn.affine(value, to, n, gain, -from * gain + 1);
      fn.clampPlane(to, to, n, 0, 1);
    };
    const upper = ctx.scratch(n).byteOffset;
    ramp(p.low, a, p.lowSoft, 1);
    ramp(p.high, upper, p.highSoft, -1);
    fn.multiply(a, upper, a, n);
    // Of what was covered before only that share can be covered now; light on black covered nothing before.
    if (p.output !== 'onBlack') fn.multiply(a, main.planes.A!.byteOffset, a, n);
    if (p.output === 'multiply')
      for (const c of COLOUR) if (out.planes[c]) fn.multiply(main.planes[c]!.byteOffset, a, out.planes[c]!.byteOffset, n);
  },
});
