import { components } from '../../filters/components';
import { copyShared } from '../../filters/copy';
import { area, height, union, width } from '../../geometry/rect';
import { choice, number } from '../../param';
import { COLOUR } from '../../picture';
import { defineStep, pixelsOf } from '../../step';
import { carryColour, followAlpha, matteWrites } from './follow-alpha';

/** Pixels of a disc of a diameter. */
const discArea = (across: number): number => (Math.PI / 4) * across * across;

interface Settings {
  level: number;
  specks: number;
  holes: number;
  keep: 'all' | 'largest';
}

/** Empties the pieces of coverage, and fills the gaps in it, that are smaller than asked for. Changes `a` in place. */
function tidy(a: Float32Array, w: number, h: number, p: Settings): void {
  const flags = new Uint8Array(a.length);
  if (p.specks > 0 || p.keep === 'largest') {
    for (let i = 0; i < a.length; i++) flags[i] = +(a[i]! > p.level);
    const { labels, sizes, largest } = components(flags, w, h);
    const gone = sizes.map((s, k) => (p.keep === 'largest' ? k !== largest : s < discArea(p.specks)));
    for (let i = 0; i < a.length; i++) {
      // Coverage too thin to belong to any piece goes with the specks when only one piece is kept.
      if (labels[i] ? gone[labels[i]!] : p.keep === 'largest') a[i] = 0;
    }
  }
  if (p.holes > 0) {
    for (let i = 0; i < a.length; i++) flags[i] = +(a[i]! < 1 - p.level);
    const { labels, sizes } = components(flags, w, h);
    const filled = sizes.map((s) => s < discArea(p.holes));
    // A gap that reaches the frame's edge is no hole.
    for (let x = 0; x < w; x++) filled[labels[x]!] = filled[labels[(h - 1) * w + x]!] = false;
    for (let y = 0; y < h; y++) filled[labels[y * w]!] = filled[labels[y * w + w - 1]!] = false;
    for (let i = 0; i < a.length; i++) if (labels[i] && filled[labels[i]!]) a[i] = 1;
  }
}

export const tidyMatte = defineStep({
  type: 'tidyMatte',
  title: 'Tidy matte',
  family: 'Matte',
  summary: 'Stretches a matte between two levels, takes small specks out of it and closes small holes.',
  params: {
    low: number('Empty below', 0, [0, 0.5], { min: -1, max: 0.999, group: 'Levels', decimals: 3 }),
    high: number('Solid above', 1, [0.5, 1], { min: 0.001, max: 4, group: 'Levels', decimals: 3 }),
    specks: number('Specks up to', 6, [0, 60], {
      unit: 'px across',
      min: 0,
      max: 4000,
      pixels: true,
      group: 'Pieces',
      help: 'Pieces of no more pixels than a disc this wide are emptied.',
    }),
    holes: number('Holes up to', 6, [0, 60], {
      unit: 'px across',
      min: 0,
      max: 4000,
      pixels: true,
      group: 'Pieces',
      help: 'Gaps of no more pixels than a disc this wide are filled.',
    }),
    keep: choice(
      'Keep',
      'all',
      [
        { value: 'all', title: 'Every larger piece' },
        { value: 'largest', title: 'The largest piece only' },
      ],
      { group: 'Pieces' },
    ),
    level: number('Counts from', 0.05, [0, 0.5], {
      min: 0,
      max: 0.5,
      group: 'Pieces',
      decimals: 3,
      help: 'Coverage over this belongs to a piece; coverage under 1 less this belongs to a hole.',
    }),
    follow: followAlpha,
  },
  feeds: [],
  writes: (p, channels) => matteWrites(p.follow, channels),
  // A piece can reach across the whole picture.
  needs: (p, want, io) => [
    { input: 'main', region: union(io.inputs.main!.bounds, want.region), channels: p.follow ? [...COLOUR, 'A'] : ['A'] },
  ],
  spreads: () => false,
  render(ctx, p, out) {
    const { fn } = ctx.kernels;
    const n = pixelsOf(out);
    const from = ctx.tile('main')!;
    const all = ctx.scratch(area(from.region));
    const gain = 1 / Math.max(1e-6, p.high - p.low);
    fn.affine(from.planes.A!.byteOffset, all.byteOffset, all.length, gain, -p.low * gain);
    fn.clampPlane(all.byteOffset, all.byteOffset, all.length, 0, 1);
    ctx.poll();
    tidy(all, width(from.region), height(from.region), p);
    const cut = (plane: Float32Array): number => {
      const to = ctx.scratch(n);
      copyShared(plane, from.region, to, out.region);
      return to.byteOffset;
    };
    const alpha = cut(all);
    if (out.planes.A) fn.affine(alpha, out.planes.A.byteOffset, n, 1, 0);
    if (p.follow) carryColour(ctx, from, alpha, out, (c) => cut(from.planes[c]!));
  },
});
