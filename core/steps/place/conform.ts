import { FILTERS, resample, resampleRegion, resampleSpread } from '../../filters/resample';
import type { Affine } from '../../geometry/affine';
import { boundsOfImage, invertAffine } from '../../geometry/affine';
import { choice } from '../../param';
import type { Format } from '../../picture';
import { defineStep } from '../../step';

type Fit = 'fit' | 'fill' | 'stretch' | 'none';

/** Source positions to positions in the shot's frame, centred; pixel aspects are honoured except when stretching. */
export function conformMatrix(from: Format, to: Format, fit: Fit): Affine {
  const squeeze = fit === 'stretch' ? 1 : from.pixelAspect / to.pixelAspect;
  const kx = to.width / (from.width * squeeze);
  const ky = to.height / from.height;
  const k = fit === 'fit' ? Math.min(kx, ky) : fit === 'fill' ? Math.max(kx, ky) : 1;
  const sx = fit === 'stretch' ? kx : k * squeeze;
  const sy = fit === 'stretch' ? ky : k;
  return [sx, 0, (to.width - sx * from.width) / 2, 0, sy, (to.height - sy * from.height) / 2];
}

export const conform = defineStep({
  type: 'conform',
  title: 'Conform',
  family: 'Place & warp',
  summary: "Brings a picture of another size into the shot's format.",
  params: {
    fit: choice('Fit', 'fit', [
      { value: 'fit', title: 'Fit: all of it is seen' },
      { value: 'fill', title: 'Fill: the frame is full' },
      { value: 'stretch', title: 'Stretch to the frame' },
      { value: 'none', title: 'Centre, no scaling' },
    ]),
    filter: choice('Filter', 'lanczos3', FILTERS),
  },
  feeds: [],
  neutral: (_, io) => {
    const from = io.inputs.main!.format;
    const to = io.shotFormat;
    return from.width === to.width && from.height === to.height && from.pixelAspect === to.pixelAspect;
  },
  format: (_, io) => io.shotFormat,
  bounds: (p, io) => {
    const m = conformMatrix(io.inputs.main!.format, io.shotFormat, p.fit);
    return resampleSpread(invertAffine(m)!, p.filter, boundsOfImage(m, io.inputs.main!.bounds));
  },
  needs: (p, want, io) => {
    const inverse = invertAffine(conformMatrix(io.inputs.main!.format, io.shotFormat, p.fit))!;
    return [{ input: 'main', channels: want.channels, region: resampleRegion(want.region, inverse, p.filter) }];
  },
  render(ctx, p, out) {
    const from = ctx.tile('main')!;
    const inverse = invertAffine(conformMatrix(ctx.inputs.main!.format, ctx.shotFormat, p.fit))!;
    const names = Object.keys(out.planes);
    resample(
      ctx.kernels,
      names.map((c) => from.planes[c]!),
      from.region,
      names.map((c) => out.planes[c]!),
      out.region,
      inverse,
      p.filter,
    );
  },
});
