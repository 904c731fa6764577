import type { Kernels, Plane } from '@/kernels';
import type { Homography } from '../geometry/homography';
import { mapPoint } from '../geometry/homography';
import type { Rect } from '../geometry/rect';
import { width } from '../geometry/rect';
import { tapsOf } from './resample';
import { Packed, sampleThrough } from './sample';

/** Pixels a side of what is looked at together. */
const BLOCK = 32;

/**
 * The mean of a picture seen through several maps, each from places of what is made to places of what is looked at, given in order along a way; only
 * places inside the domain count. Planes hold `have`; `outs` lie over `want`.
 */
export function meanThrough(
  kernels: Kernels,
  planes: readonly Plane[],
  have: Rect,
  outs: readonly Plane[],
  want: Rect,
  maps: readonly Homography[],
  domain: Rect,
  poll: () => void,
): void {
  outs.forEach((o) => o.fill(0));
  const packed = Packed.of(kernels, planes, have);
  try {
    for (const map of maps)
      sampleThrough(kernels, packed, outs, want, map, tapsOf('bilinear'), { gain: 1 / maps.length, lays: 'add', poll });
  } finally {
    packed.give();
  }
  const inside = ([x, y]: readonly [number, number]): number => {
    const u = Math.max(0, Math.min(1, Math.min(x - domain.x0, domain.x1 - x) + 0.5));
    const v = Math.max(0, Math.min(1, Math.min(y - domain.y0, domain.y1 - y) + 0.5));
    return u * v;
  };
  // Where some of them are well inside, all are: between them a way bends by less than a pixel or two.
  const marks = maps.filter((_, k) => k % Math.ceil(maps.length / 8) === 0 || k === maps.length - 1);
  const well = ([x, y]: readonly [number, number]): boolean => Math.min(x - domain.x0, domain.x1 - x, y - domain.y0, domain.y1 - y) > 2;
  const w = width(want);
  for (let y0 = want.y0; y0 < want.y1; y0 += BLOCK) {
    for (let x0 = want.x0; x0 < want.x1; x0 += BLOCK) {
      const [x1, y1] = [Math.min(want.x1, x0 + BLOCK), Math.min(want.y1, y0 + BLOCK)];
      // The domain has no dents: where the corners of a block are inside, all of it is.
      const corners = [x0, x1].flatMap((x) => [y0, y1].map((y) => [x, y] as const));
      if (corners.every(([x, y]) => marks.every((m) => well(mapPoint(m, x, y))))) continue;
      for (let y = y0; y < y1; y++) {
        for (let x = x0; x < x1; x++) {
          let share = 0;
          for (const m of maps) share += inside(mapPoint(m, x + 0.5, y + 0.5)) / maps.length;
          const i = (y - want.y0) * w + x - want.x0;
          for (const o of outs) o[i] = share > 1e-3 ? o[i]! / share : 0;
        }
      }
    }
  }
}
