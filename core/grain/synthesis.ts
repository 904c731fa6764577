import type { Kernels, Plane } from '@/kernels';
import type { Rect } from '../geometry/rect';
import { height, width } from '../geometry/rect';
import type { ChannelGrain } from './model';
import { QUARTER, SIDE, wholeKernel } from './model';

/** A seed of its own for each frame and channel. */
const seedOf = (seed: number, frame: number, channel: number): number =>
  (Math.imul(seed | 0, 0x9e3779b1) ^ Math.imul((frame | 0) + 7919 * (channel + 1), 0x85ebca6b)) >>> 0;

/**
 * Noise of variance 1 of the given channels, correlated with its neighbours and between channels as the grain says, over a region of a frame. The same
 * place, frame and seed give the same value, whatever the region. The planes are the caller's to give back.
 */
export function grainField(
  kernels: Kernels,
  grain: readonly ChannelGrain[],
  region: Rect,
  frame: number,
  seed: number,
  smooth: boolean,
): Plane[] {
  const [w, h] = [width(region), height(region)];
  const pad = smooth ? QUARTER - 1 : 0;
  const stride = w + 2 * pad + 4;
  const rows = h + 2 * pad;
  const n = stride * rows;
  return kernels.guard(() => {
    const white = [0, 1, 2].map((c) => {
      const plane = kernels.take(n + 4);
      kernels.fn.whiteNoise(plane.byteOffset, stride, rows, region.x0 - pad, region.y0 - pad, seedOf(seed, frame, c));
      return plane;
    });
    const mixed = kernels.take(n + 4);
    const weights = kernels.take(SIDE * SIDE);
    const out = grain.map((g) => {
      kernels.fn.affine(white[0]!.byteOffset, mixed.byteOffset, n, g.mix[0]!, 0);
      for (const c of [1, 2]) if (g.mix[c]) kernels.fn.addScaled(mixed.byteOffset, white[c]!.byteOffset, mixed.byteOffset, n, g.mix[c]!);
      const plane = kernels.take(w * h);
      if (smooth) {
        weights.set(wholeKernel(g));
        kernels.fn.correlateSquare(mixed.byteOffset, stride, plane.byteOffset, w, h, weights.byteOffset, SIDE);
      } else kernels.fn.copyPart(mixed.byteOffset, stride, plane.byteOffset, w, w, h);
      return plane;
    });
    [...white, mixed, weights].forEach((p) => kernels.give(p));
    return out;
  });
}
