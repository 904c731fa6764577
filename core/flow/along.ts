import type { Kernels, Plane } from '@/kernels';
import { tapsOf } from '../filters/resample';
import { Packed, sampleThrough } from '../filters/sample';
import type { Rect } from '../geometry/rect';
import { height, width } from '../geometry/rect';
import type { Flow } from './dense';

/** Planes over a region seen where motion leads, into as many; the edges go on. */
export function alongFlow(kernels: Kernels, planes: readonly Plane[], outs: readonly Plane[], region: Rect, { u, v }: Flow): void {
  const [w, h] = [width(region), height(region)];
  const [xs, ys] = [kernels.take((w + 1) * (h + 1)), kernels.take((w + 1) * (h + 1))];
  for (let y = 0, o = 0; y <= h; y++) {
    for (let x = 0; x <= w; x++, o++) {
      const i = Math.min(h - 1, y) * w + Math.min(w - 1, x);
      xs[o] = region.x0 + Math.max(0.5, Math.min(w - 0.5, x + 0.5 + u[i]!));
      ys[o] = region.y0 + Math.max(0.5, Math.min(h - 0.5, y + 0.5 + v[i]!));
    }
  }
  const packed = new Packed(kernels, planes, region);
  sampleThrough(kernels, packed, outs, region, { xs, ys }, tapsOf('bilinear'));
  packed.give();
  [xs, ys].forEach((p) => kernels.give(p));
}
