import type { LensStepValues } from '../../lens/of-step';
import { lensInUse, lensParams, straightened } from '../../lens/of-step';
import { foldInside } from '../../lens/lens';
import { Mapping } from '../../geometry/mapping';
import type { Rect } from '../../geometry/rect';
import { EMPTY, area, grow, height, intersect, isEmpty, union, width } from '../../geometry/rect';
import { Packed } from '../../filters/sample';
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
  bends: true,
  remark: (p, io) => {
    const lens = lensInUse(values(p), filmedFormat(values(p), io));
    if (!lens) return 'it has no lens yet: choose a reading that is solved, or type one in';
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
  const [work, straight, plate] = ['main', 'straight', 'plate'].map((input) => ctx.tile(input)!) as [Tile, Tile, Tile];
  const region = grow(work.region, AROUND);
  const changed = ctx.scratch(area(region)).fill(0);
  const [w, W] = [width(work.region), width(region)];
  if (!isEmpty(work.region))
    mark(
      work,
      straight,
      (x, y) => {
        for (let v = -AROUND; v <= AROUND; v++) {
          const at = (y + AROUND + v) * W + x;
          changed.fill(1, at, at + 2 * AROUND + 1);
        }
      },
      w,
    );
  const packed = new Packed(kernels, [changed], region);
  const share = ctx.scratch(pixelsOf(out));
  try {
    throughMapping(ctx, packed, ctx.placements[0] ?? Mapping.IDENTITY, [share], out.region, 'bilinear', { poll: () => ctx.poll() });
  } finally {
    packed.give();
  }
  const inside = intersect(out.region, plate.region);
  const stride = width(out.region);
  for (const [name, plane] of Object.entries(out.planes)) {
    const from = plate.planes[name]!;
    for (let y = out.region.y0; y < out.region.y1; y++) {
      for (let x = out.region.x0, o = (y - out.region.y0) * stride; x < out.region.x1; x++, o++) {
        const within = x >= inside.x0 && x < inside.x1 && y >= inside.y0 && y < inside.y1;
        const filmed = within ? from[(y - plate.region.y0) * width(plate.region) + x - plate.region.x0]! : 0;
        const k = share[o]!;
        plane[o] = k === 0 ? filmed : filmed + k * (plane[o]! - filmed);
      }
    }
  }
}

/** Tells every pixel of `work` that is not the same in `straight`, from the corner of work's region. */
function mark(work: Tile, straight: Tile, tell: (x: number, y: number) => void, w: number): void {
  const names = Object.keys(work.planes).filter((c) => straight.planes[c]);
  const both = intersect(work.region, straight.region);
  for (let y = 0; y < height(work.region); y++) {
    for (let x = 0; x < w; x++) {
      const [X, Y] = [x + work.region.x0, y + work.region.y0];
      const inside = X >= both.x0 && X < both.x1 && Y >= both.y0 && Y < both.y1;
      const at = inside ? (Y - straight.region.y0) * width(straight.region) + X - straight.region.x0 : -1;
      if (names.some((c) => work.planes[c]![y * w + x] !== (at < 0 ? 0 : straight.planes[c]![at]))) tell(x, y);
    }
  }
}
