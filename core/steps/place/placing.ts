import type { ResampleFilter } from '../../filters/resample';
import { resample, resampleRegion, resampleSpread } from '../../filters/resample';
import type { Affine } from '../../geometry/affine';
import { boundsOfImage, invertAffine } from '../../geometry/affine';
import type { Rect } from '../../geometry/rect';
import { EMPTY, grow, intersect, isEmpty, rect, union } from '../../geometry/rect';
import type { Tile } from '../../picture';
import type { Need, RenderContext, StepIo, Want } from '../../step';
import { pixelsOf } from '../../step';

type Filtered = { filter: ResampleFilter };

const inversesOf = (placements: readonly Affine[]): Affine[] => placements.map(invertAffine).filter((m) => m !== null);

/** Rows that are resampled between two looks at whether the work is still wanted. */
const BAND = 64;

/** What every placing step does with its matrices, mixed over the shutter's samples. */
export const placing = {
  bounds: (p: Filtered, io: StepIo<unknown>): Rect =>
    io.placements.reduce<Rect>((all, m) => {
      const inverse = invertAffine(m);
      return inverse ? union(all, resampleSpread(inverse, p.filter, boundsOfImage(m, io.inputs.main!.bounds))) : all;
    }, EMPTY),

  needs: (p: Filtered, want: Want, io: StepIo<unknown>): readonly Need[] => {
    const region = inversesOf(io.placements).reduce<Rect>((all, m) => union(all, resampleRegion(want.region, m, p.filter)), EMPTY);
    // Beyond the picture there is nothing to read; one pixel more keeps a whole-pixel move from reading only its own place.
    return [{ input: 'main', channels: want.channels, region: intersect(region, grow(io.inputs.main!.bounds, 1)) }];
  },

  spreads: (p: Filtered): boolean => p.filter !== 'nearest',

  render(ctx: RenderContext<unknown>, p: Filtered, out: Tile): void {
    const from = ctx.tile('main')!;
    const inverses = inversesOf(ctx.placements);
    const names = Object.keys(out.planes);
    const sources = names.map((c) => from.planes[c]!);
    const outs = names.map((c) => out.planes[c]!);
    if (inverses.length !== 1) outs.forEach((o) => o.fill(0));
    const n = pixelsOf(out);
    const pass = inverses.length > 1 ? outs.map(() => ctx.scratch(n)) : outs;
    for (const m of inverses) {
      placeInBands(ctx, sources, from.region, pass, out.region, m, p.filter);
      if (pass === outs) return;
      outs.forEach((o, i) => {
        ctx.kernels.fn.addScaled(o.byteOffset, pass[i]!.byteOffset, o.byteOffset, n, 1 / inverses.length);
      });
    }
  },
};

function placeInBands(
  ctx: RenderContext<unknown>,
  sources: readonly Float32Array[],
  have: Rect,
  outs: readonly Float32Array[],
  want: Rect,
  m: Affine,
  filter: ResampleFilter,
): void {
  if (isEmpty(have)) return outs.forEach((o) => void o.fill(0));
  const w = want.x1 - want.x0;
  // An upright resample works along whole columns: it goes plane by plane.
  if (m[1] === 0 && m[3] === 0) return resample(ctx.kernels, sources, have, outs, want, m, filter, () => ctx.poll());
  for (let y = want.y0; y < want.y1; y += BAND) {
    ctx.poll();
    const band = rect(want.x0, y, want.x1, Math.min(want.y1, y + BAND));
    const part = outs.map((o) => o.subarray((y - want.y0) * w, (band.y1 - want.y0) * w));
    resample(ctx.kernels, sources, have, part, band, m, filter);
  }
}
