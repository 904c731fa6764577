import { intersect, union } from '../../geometry/rect';
import { choice } from '../../param';
import { RGBA } from '../../picture';
import { defineStep, pixelsOf } from '../../step';

/** fa0, fa1, fb0, fb1 of out = f·(fa0 + fa1·αb) + b·(fb0 + fb1·αf); Porter & Duff 1984. */
const PORTER_DUFF: Record<string, readonly [number, number, number, number]> = {
  over: [1, 0, 1, -1],
  under: [1, -1, 1, 0],
  inside: [0, 1, 0, 0],
  outside: [1, -1, 0, 0],
  atop: [0, 1, 1, -1],
  xor: [1, -1, 1, -1],
  plus: [1, 0, 1, 0],
};

/** In the order of the numbers in kernels/assembly/join.ts. */
const BLENDS = [
  'minus',
  'multiply',
  'screen',
  'divide',
  'difference',
  'lighten',
  'darken',
  'overlay',
  'softLight',
  'hardLight',
  'colourDodge',
  'colourBurn',
  'average',
] as const;

export const join = defineStep({
  type: 'join',
  title: 'Join',
  family: 'Join',
  summary: 'Lays another lane over, under, inside or through this one.',
  params: {
    operator: choice('Operator', 'over', [
      { value: 'over', title: 'Over', help: 'f + b·(1 − αf)' },
      { value: 'under', title: 'Under', help: 'b + f·(1 − αb)' },
      { value: 'inside', title: 'Inside', help: 'f·αb' },
      { value: 'outside', title: 'Outside', help: 'f·(1 − αb)' },
      { value: 'atop', title: 'Atop', help: 'f·αb + b·(1 − αf)' },
      { value: 'xor', title: 'Xor', help: 'f·(1 − αb) + b·(1 − αf)' },
      { value: 'plus', title: 'Plus', help: 'f + b' },
      { value: 'minus', title: 'Minus', help: 'b − f' },
      { value: 'multiply', title: 'Multiply', help: 'b·f' },
      { value: 'screen', title: 'Screen', help: 'b + f − b·f' },
      { value: 'divide', title: 'Divide', help: 'b / f' },
      { value: 'difference', title: 'Difference', help: '|b − f|' },
      { value: 'lighten', title: 'Lighten', help: 'the greater' },
      { value: 'darken', title: 'Darken', help: 'the lesser' },
      { value: 'overlay', title: 'Overlay' },
      { value: 'softLight', title: 'Soft light' },
      { value: 'hardLight', title: 'Hard light' },
      { value: 'colourDodge', title: 'Colour dodge' },
      { value: 'colourBurn', title: 'Colour burn' },
      { value: 'average', title: 'Average', help: '(b + f) / 2' },
    ]),
    alpha: choice('Blend', 'coverage', [
      { value: 'coverage', title: 'Where both cover', help: 'W3C Compositing: the blend acts where both have coverage.' },
      { value: 'plain', title: 'Plain arithmetic', help: 'On the channels as they are; alpha by union. The choice for CG passes.' },
    ]),
    keep: choice('Bounds', 'auto', [
      { value: 'auto', title: 'As the operator needs' },
      { value: 'front', title: 'Those of the front' },
      { value: 'back', title: 'Those of the back' },
      { value: 'both', title: 'Where both are' },
    ]),
  },
  feeds: [{ name: 'front', title: 'Front', help: 'The lane that is laid over this one.', required: true }],
  bounds: (p, { inputs }) => {
    const back = inputs.main!.bounds;
    const front = inputs.front!.bounds;
    if (p.keep === 'front') return front;
    if (p.keep === 'back') return back;
    if (p.keep === 'both' || p.operator === 'inside') return intersect(back, front);
    if (p.operator === 'outside') return front;
    return p.operator === 'atop' ? back : union(back, front);
  },
  channels: (_, { inputs }) => [...new Set([...inputs.main!.channels, ...RGBA])],
  writes: (_, channels) => channels.filter((c) => (RGBA as readonly string[]).includes(c)),
  locality: 'pixel',
  mixes: true,
  needs: (_, { region, channels }) => [
    { input: 'main', region, channels: [...channels, 'A'] },
    { input: 'front', region, channels: [...channels, 'A'] },
  ],
  render(ctx, p, out) {
    const { fn } = ctx.kernels;
    const n = pixelsOf(out);
    const back = ctx.tile('main')!.planes;
    const front = ctx.tile('front')!.planes;
    const fa = front.A!.byteOffset;
    const ba = back.A!.byteOffset;
    const factors = PORTER_DUFF[p.operator];
    for (const [c, plane] of Object.entries(out.planes)) {
      const f = front[c]!.byteOffset;
      const b = back[c]!.byteOffset;
      const to = plane.byteOffset;
      if (factors) fn.porterDuff(f, b, fa, ba, to, n, ...factors);
      else if (c === 'A') fn.porterDuff(f, b, fa, ba, to, n, 1, 0, 1, -1);
      else {
        const op = BLENDS.indexOf(p.operator as (typeof BLENDS)[number]);
        if (p.alpha === 'plain') fn.blendPlain(op, f, b, to, n);
        else fn.blendAlpha(op, f, b, fa, ba, to, n);
      }
      if (p.operator === 'plus' && c === 'A') fn.clampPlane(to, to, n, -Infinity, 1);
    }
  },
});
