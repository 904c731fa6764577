import type { ResampleFilter } from '../../filters/resample';
import { resample, resampleRegion, resampleSpread } from '../../filters/resample';
import { Packed } from '../../filters/sample';
import type { Affine } from '../../geometry/affine';
import { boundsOfImage, invertAffine } from '../../geometry/affine';
import type { Rect } from '../../geometry/rect';
import { EMPTY, grow, intersect, isEmpty, union } from '../../geometry/rect';
import type { Tile } from '../../picture';
import type { Need, RenderContext, StepIo, Want } from '../../step';
import { pixelsOf } from '../../step';

type Filtered = { filter: ResampleFilter };

const inversesOf = (placements: readonly Affine[]): Affine[] => placements.map(invertAffine).filter((m) => m !== null);

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
    // All shutter samples look at the same picture: it is packed once.
    let packed: Packed | undefined;
    const kept = (): Packed => (packed ??= new Packed(ctx.kernels, sources, from.region));
    try {
      for (const m of inverses) {
        if (isEmpty(from.region)) pass.forEach((o) => void o.fill(0));
        else resample(ctx.kernels, sources, from.region, pass, out.region, m, p.filter, () => ctx.poll(), kept);
        if (pass === outs) return;
        outs.forEach((o, i) => {
          ctx.kernels.fn.addScaled(o.byteOffset, pass[i]!.byteOffset, o.byteOffset, n, 1 / inverses.length);
        });
      }
    } finally {
      packed?.give();
    }
  },
};
