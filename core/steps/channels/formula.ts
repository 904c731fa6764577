import { compileFormula } from '../../formula/formula';
import type { Names } from '../../formula/formula';
import { union, width } from '../../geometry/rect';
import { formula as formulaParam, number } from '../../param';
import { RGBA, formatRect } from '../../picture';
import { defineStep, pixelsOf } from '../../step';

/** Names that a formula may have: channels, those of the other picture, the place, the time, and four numbers that can be keyed. */
export const FORMULA_NAMES: readonly string[] = [
  ...RGBA,
  ...RGBA.map((c) => `other.${c}`),
  'x',
  'y',
  'width',
  'height',
  'frame',
  'a',
  'b',
  'c',
  'd',
];

const isMain = (c: string): c is (typeof RGBA)[number] => (RGBA as readonly string[]).includes(c);

export const formula = defineStep({
  type: 'formula',
  title: 'Formula',
  family: 'Channels',
  summary: 'Works each channel out by a line of arithmetic on the picture, another one, the place and the time.',
  params: {
    R: formulaParam('Red', { help: 'Such as R * (1 - other.A) + a. Empty: as it is.' }),
    G: formulaParam('Green'),
    B: formulaParam('Blue'),
    A: formulaParam('Alpha'),
    a: number('a', 0, [0, 1]),
    b: number('b', 0, [0, 1]),
    c: number('c', 0, [0, 1]),
    d: number('d', 0, [0, 1]),
  },
  feeds: [{ name: 'other', title: 'Other picture', help: 'Its channels are other.R, other.G, other.B and other.A.' }],
  neutral: (p) => RGBA.every((c) => p[c].trim() === ''),
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, ...RGBA])],
  writes: (p, channels) => channels.filter((c) => isMain(c) && p[c].trim() !== ''),
  // A clear place can become anything, inside the frame.
  bounds: (_, io) => union(io.inputs.main!.bounds, formatRect(io.inputs.main!.format)),
  locality: 'pixel',
  identity: (p, io) => (RGBA.some((c) => /\bframe\b/.test(p[c])) ? io.frame : null),
  needs: (_, want, io) => [
    { input: 'main', region: want.region, channels: RGBA },
    ...(io.inputs.other ? [{ input: 'other', region: want.region, channels: RGBA }] : []),
  ],
  render(ctx, p, out) {
    const n = pixelsOf(out);
    const { region } = out;
    const w = width(region);
    const main = ctx.tile('main')!;
    const other = ctx.tile('other');
    const { shotFormat, scale } = ctx;
    const values: Record<string, Float32Array | number> = {
      frame: ctx.frame,
      width: shotFormat.width / scale,
      height: shotFormat.height / scale,
      a: p.a,
      b: p.b,
      c: p.c,
      d: p.d,
    };
    for (const c of RGBA) {
      values[c] = main.planes[c]!;
      values[`other.${c}`] = other?.planes[c] ?? 0;
    }
    const place = (of: (i: number) => number): Float32Array => Float32Array.from({ length: n }, (_, i) => (of(i) + 0.5) / scale);
    for (const [c, plane] of Object.entries(out.planes)) {
      const made = compileFormula(isMain(c) ? p[c] : '0', FORMULA_NAMES);
      if (made.names.includes('x')) values.x ??= place((i) => region.x0 + (i % w));
      if (made.names.includes('y')) values.y ??= place((i) => region.y0 + Math.floor(i / w));
      const value = made.evaluate(values as Names, n);
      if (typeof value === 'number') plane.fill(value);
      else plane.set(value);
    }
  },
});
