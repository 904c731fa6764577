import { FILTERS } from '../../filters/resample';
import type { Affine } from '../../geometry/affine';
import { Mapping } from '../../geometry/mapping';
import { choice, toggle } from '../../param';
import type { Format } from '../../picture';
import { RGBA } from '../../picture';
import { defineStep } from '../../step';
import { placing } from './placing';

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
    positive: toggle('Cut below 0', false, {
      help: 'Sharp filters ring below 0 beside bright edges: in colour and alpha that is cut.',
      animatable: false,
    }),
  },
  feeds: [],
  neutral: (_, io) => {
    const from = io.inputs.main!.format;
    const to = io.shotFormat;
    return from.width === to.width && from.height === to.height && from.pixelAspect === to.pixelAspect;
  },
  format: (_, io) => io.shotFormat,
  placements: (p, io) => [Mapping.by(conformMatrix(io.inputs.main!.format, io.shotFormat, p.fit))],
  ...placing,
  render(ctx, p, out) {
    placing.render(ctx, p, out);
    if (!p.positive) return;
    for (const c of RGBA) {
      const plane = out.planes[c];
      for (let i = 0; plane && i < plane.length; i++) if (plane[i]! < 0) plane[i] = 0;
    }
  },
});
