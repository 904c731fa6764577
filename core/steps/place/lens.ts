import type { LensStepValues } from '../../lens/of-step';
import { lensInUse, lensParams, straightened } from '../../lens/of-step';
import { foldInside, sameShape } from '../../lens/lens';
import type { Mapping } from '../../geometry/mapping';
import type { Rect } from '../../geometry/rect';
import { EMPTY, grow, union } from '../../geometry/rect';
import { copyInto } from '../../filters/copy';
import { growGrey, morphologyPad } from '../../filters/morphology';
import { Packed } from '../../filters/sample';
import { Sizes } from '../../filters/sizes';
import type { Format, Tile } from '../../picture';
import { COLOUR } from '../../picture';
import type { Need, RenderContext, StepIo, Want } from '../../step';
import { defineStep, pixelsOf } from '../../step';
import { placing, throughMapping } from './placing';

/** Pixels around a changed one that are bent anew as well, so that its whole filter is. */
const AROUND = 4;

/** The format of the pictures that the lens films. */
const filmedFormat = (p: LensStepValues, io: StepIo<unknown>): Format =>
  p.direction === 'straighten' || p.size === 'same' ? io.inputs.main!.format : io.shotFormat;

function use(p: LensStepValues, io: StepIo<unknown>): { mapping: Mapping; format: Format } | null {
  const filmed = filmedFormat(p, io);
  const lens = lensInUse(p, filmed);
  if (!lens) return null;
  const made = straightened(lens, filmed, p.size);
  return p.direction === 'straighten' ? made : { mapping: made.mapping.inverse, format: filmed };
}

/** Whether it has what it takes to leave untouched pixels alone. */
const keeps = (p: LensStepValues, io: StepIo<unknown>): boolean =>
  p.direction === 'bend' && p.keep && Boolean(io.inputs.plate && io.inputs.straight);

const values = (p: unknown): LensStepValues => p as LensStepValues;

export const lens = defineStep({
  type: 'lens',
  title: 'Lens',
  family: 'Place & warp',
  summary: 'Straightens what a lens has bent, or bends straight pixels as the lens would.',
  params: lensParams,
  feeds: [
    { name: 'plate', title: 'As filmed', help: 'The picture before it was straightened: what was not changed comes from there.' },
    { name: 'straight', title: 'Straightened', help: 'The picture right after straightening: what differs from it was changed.' },
  ],
  bends: (p) => values(p).direction === 'bend',
  remark: (p, io) => {
    const lens = lensInUse(values(p), filmedFormat(values(p), io));
    if (!lens) return 'it has no lens yet: choose a reading that is solved, or type one in';
    const own = values(p).from === 'reading' ? values(p).reading!.lens(values(p).mm).format : lens.format;
    if (!sameShape(own, lens.format)) {
      return `its lens was measured on pictures of ${own.width}×${own.height} pixels: this one has another shape, and it does not fit`;
    }
    const fold = foldInside(lens);
    if (fold === null) return null;
    return `its lens folds ${Math.round(fold / io.scale)} px from its centre, inside the frame: pixels beyond that stay empty; weaker coefficients, or another model, reach farther`;
  },
  neutral: (p, io) => use(values(p), io)?.mapping.isIdentity ?? true,
  format: (p, io) => use(values(p), io)!.format,
  placements: (p, io) => [use(values(p), io)!.mapping],
  ...placing,
  bounds: (p, io) => {
    const bent = placing.bounds(values(p), io);
    return keeps(values(p), io) ? union(bent, io.inputs.plate!.bounds) : bent;
  },
  needs(p, want, io): readonly Need[] {
    const needs = placing.needs(values(p), want, io);
    if (!keeps(values(p), io)) return needs;
    const channels = [...new Set([...want.channels, ...COLOUR, 'A'])];
    return [
      ...needs.map((n) => ({ ...n, channels })),
      { input: 'straight', region: needs.reduce<Rect>((all, n) => union(all, n.region), EMPTY), channels },
      { input: 'plate', region: want.region, channels: (want as Want).channels },
    ];
  },
  render(ctx, p, out) {
    placing.render(ctx, values(p), out);
    if (keeps(values(p), ctx)) keepUntouched(ctx, out);
  },
});

/** Puts the plate's pixels wherever nothing that was changed reaches; to the bit where it does not reach at all. */
function keepUntouched(ctx: RenderContext<unknown>, out: Tile): void {
  const { kernels } = ctx;
  // The tiles of the work and of the straightened picture cover the same region, that of the plate the one that is written.
  const [work, straight, plate] = ['main', 'straight', 'plate'].map((input) => ctx.tile(input)!) as [Tile, Tile, Tile];
  const differs = ctx.scratch(pixelsOf(work)).fill(0);
  for (const [c, plane] of Object.entries(work.planes)) {
    const was = straight.planes[c]!;
    for (let i = 0; i < differs.length; i++) if (plane[i] !== was[i]) differs[i] = 1;
  }
  const region = grow(work.region, AROUND);
  const have = grow(region, morphologyPad(AROUND));
  const wide = copyInto(kernels, differs, work.region, have);
  const changed = growGrey(kernels, wide, have, region, AROUND, have, () => ctx.poll());
  const share = ctx.scratch(pixelsOf(out));
  let sizes: Sizes | undefined;
  try {
    sizes = new Sizes(Packed.of(kernels, [changed], region));
    throughMapping(ctx, sizes, ctx.placements[0]!, [share], out.region, 'bilinear', { poll: () => ctx.poll() });
  } finally {
    sizes?.give();
    [wide, changed].forEach((p) => kernels.give(p));
  }
  for (const [c, plane] of Object.entries(out.planes)) {
    kernels.fn.mixMasked(plate.planes[c]!.byteOffset, plane.byteOffset, share.byteOffset, plane.byteOffset, plane.length, 1);
  }
}
