import type { Kernels, Plane } from '@/kernels';
import type { Pieces, Runs } from '../../filters/components';
import { atEdge, piecesOf } from '../../filters/components';
import { copyOver } from '../../filters/copy';
import { area, height, sameRect, union, width } from '../../geometry/rect';
import { choice, number } from '../../param';
import { COLOUR } from '../../picture';
import { defineStep } from '../../step';
import { carryColour, followAlpha, matteWrites } from './follow-alpha';

/** Coverage over this is solid: what is 1 but for rounding. */
const SOLID = 0.9999;

/** Pixels of a disc of a diameter. */
const discArea = (across: number): number => (Math.PI / 4) * across * across;

interface Settings {
  level: number;
  specks: number;
  holes: number;
  keep: 'all' | 'largest';
  pinholes: number;
  reach: number;
  from: number;
}

/** Runs of the pixels whose gain·a is over a level. */
function runsOver(kernels: Kernels, a: Plane, w: number, h: number, gain: number, level: number): Runs {
  const most = h * ((w + 1) >> 1);
  const list = kernels.take(2 * most);
  const count = kernels.fn.runsAbove(a.byteOffset, list.byteOffset, w, h, gain, level);
  const pairs = new Int32Array(list.buffer, list.byteOffset, 2 * count);
  const begins = new Int32Array(count);
  const ends = new Int32Array(count);
  for (let i = 0; i < count; i++) [begins[i], ends[i]] = [pairs[2 * i]!, pairs[2 * i + 1]!];
  kernels.give(list);
  return { begins, ends, count };
}

const piecesOver = (kernels: Kernels, a: Plane, w: number, h: number, gain: number, level: number): Pieces =>
  piecesOf(runsOver(kernels, a, w, h, gain, level), w);

/** Empties the pieces of coverage, and fills the gaps in it, that are smaller than asked for. Changes `a` in place. */
function tidy(kernels: Kernels, a: Plane, w: number, h: number, p: Settings): void {
  if (p.pinholes > 0) closePinholes(kernels, a, w, h, p.pinholes, p.level);
  if (p.reach > 0) reachOut(kernels, a, w, h, Math.round(p.reach), p.from);
  if (p.keep === 'largest') {
    // Coverage too thin to belong to any piece goes with the other pieces.
    const { begins, ends, piece, largest } = piecesOver(kernels, a, w, h, 1, p.level);
    let done = 0;
    piece.forEach((of, run) => {
      if (of !== largest) return;
      a.fill(0, done, begins[run]);
      done = ends[run]!;
    });
    a.fill(0, done);
  } else if (p.specks > 0) {
    const { begins, ends, piece, sizes } = piecesOver(kernels, a, w, h, 1, p.level);
    piece.forEach((of, run) => {
      if (sizes[of]! < discArea(p.specks)) a.fill(0, begins[run], ends[run]);
    });
  }
  if (p.holes > 0) {
    const pieces = piecesOver(kernels, a, w, h, -1, p.level - 1);
    // A gap that reaches the frame's edge is no hole.
    const open = atEdge(pieces, w, h);
    pieces.piece.forEach((of, run) => {
      if (!open[of] && pieces.sizes[of]! < discArea(p.holes)) a.fill(1, pieces.begins[run], pieces.ends[run]);
    });
  }
}

/** Empty gaps of fewer pixels than a disc this wide, closed in by coverage, take the mean coverage beside them. */
function closePinholes(kernels: Kernels, a: Plane, w: number, h: number, across: number, level: number): void {
  const gaps = piecesOver(kernels, a, w, h, -1, -level);
  const { begins, ends, piece, sizes } = gaps;
  const open = atEdge(gaps, w, h);
  const small = sizes.map((size, k) => !open[k] && size < discArea(across));
  const sums = new Float64Array(sizes.length);
  const counts = new Float64Array(sizes.length);
  const each = (visit: (of: number, begin: number, end: number) => void): void =>
    piece.forEach((of, run) => small[of] && visit(of, begins[run]!, ends[run]!));
  // A gap that does not reach the edge has a pixel on every side.
  each((of, begin, end) => {
    for (let v = -w; v <= w; v += w) {
      for (let i = begin - 1 + v; i <= end + v; i++) {
        if (a[i]! < level) continue;
        sums[of]! += a[i]!;
        counts[of]!++;
      }
    }
  });
  each((of, begin, end) => void a.fill(sums[of]! / counts[of]!, begin, end));
}

/**
 * Solid pixels spread into coverage of at least `from` beside them, pixel by pixel and no farther than `reach`: by sides and by
 * corners in turns, so that what is reached is an octagon.
 */
function reachOut(kernels: Kernels, a: Plane, w: number, h: number, reach: number, from: number): void {
  const solid = runsOver(kernels, a, w, h, 1, SOLID);
  let front: number[] = [];
  const open = (i: number): boolean => a[i]! < SOLID && a[i]! >= from;
  for (let run = 0; run < solid.count; run++) {
    a.fill(1, solid.begins[run], solid.ends[run]);
    for (let i = solid.begins[run]!; i < solid.ends[run]!; i++) {
      const first = i === solid.begins[run];
      const last = i + 1 === solid.ends[run];
      if (first || last || (i >= w && open(i - w)) || (i + w < a.length && open(i + w))) front.push(i);
    }
  }
  for (let k = 0; k < reach && front.length > 0; k++) {
    const next: number[] = [];
    for (const i of front) {
      const x = i % w;
      const [left, right] = [x > 0 ? -1 : 0, x < w - 1 ? 1 : 0];
      for (let v = i >= w ? -w : 0; v <= (i + w < a.length ? w : 0); v += w) {
        for (let u = left; u <= right; u++) {
          const j = i + v + u;
          if ((k % 2 === 0 && u !== 0 && v !== 0) || !open(j)) continue;
          a[j] = 1;
          next.push(j);
        }
      }
    }
    front = next;
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
    pinholes: number('Pinholes up to', 0, [0, 20], {
      unit: 'px across',
      min: 0,
      max: 400,
      pixels: true,
      group: 'Pieces',
      help: 'Empty gaps no wider than this, in thin cloth for instance, take the coverage around them.',
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
    reach: number('Solid reaches', 0, [0, 40], {
      unit: 'px',
      min: 0,
      max: 400,
      pixels: true,
      group: 'Rim',
      help: 'How far solid pixels spread into partial coverage beside them: a rim that takes on the screen’s light is no thin cloth.',
    }),
    from: number('Into coverage from', 0.5, [0, 1], { min: 0.001, max: 1, group: 'Rim', decimals: 3 }),
    follow: followAlpha,
  },
  feeds: [],
  writes: (p, channels) => matteWrites(p.follow, channels),
  // A piece can reach across the whole picture.
  locality: 'whole',
  needs: (p, want, io) => [
    { input: 'main', region: union(io.inputs.main!.bounds, want.region), channels: p.follow ? [...COLOUR, 'A'] : ['A'] },
  ],
  spreads: () => false,
  render(ctx, p, out) {
    const { fn } = ctx.kernels;
    const from = ctx.tile('main')!;
    // What is tidied may be worked on where it goes to.
    const all = (sameRect(from.region, out.region) && out.planes.A) || ctx.scratch(area(from.region));
    const gain = 1 / Math.max(1e-6, p.high - p.low);
    fn.affineClamped(from.planes.A!.byteOffset, all.byteOffset, all.length, gain, -p.low * gain, 0, 1);
    ctx.poll();
    tidy(ctx.kernels, all, width(from.region), height(from.region), p);
    const alpha = copyOver(ctx.kernels, all, from.region, out.region, ctx.scratch);
    if (out.planes.A !== alpha) out.planes.A?.set(alpha);
    if (p.follow) carryColour(ctx, from, alpha.byteOffset, out);
  },
});
