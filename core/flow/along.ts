import type { Kernels, Plane } from '@/kernels';
import { pushPixels } from '../filters/push';
import type { Rect } from '../geometry/rect';
import { height, width } from '../geometry/rect';
import type { Flow } from './dense';

/** Planes over a region seen where motion leads, into as many; the edges go on. */
export function alongFlow(
  kernels: Kernels,
  planes: readonly Plane[],
  outs: readonly Plane[],
  region: Rect,
  flow: Flow,
  poll: () => void,
): void {
  const [w, h] = [width(region), height(region)];
  kernels.guard(() => {
    // One column and one row more, as a map of positions has it.
    const [dx, dy] = [flow.u, flow.v].map((from) => {
      const to = kernels.take((w + 1) * (h + 1));
      for (let y = 0; y <= h; y++) {
        const row = Math.min(h - 1, y) * w;
        to.set(from.subarray(row, row + w), y * (w + 1));
        to[y * (w + 1) + w] = from[row + w - 1]!;
      }
      return to;
    }) as [Plane, Plane];
    pushPixels(kernels, planes, region, outs, region, [dx, dy], { filter: 'bilinear', edge: 'hold', domain: region, poll });
    [dx, dy].forEach((p) => kernels.give(p));
  });
}
