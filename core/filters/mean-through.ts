import type { Kernels, Plane } from '@/kernels';
import type { Homography } from '../geometry/homography';
import { mapPoint } from '../geometry/homography';
import type { Rect } from '../geometry/rect';
import { width } from '../geometry/rect';
import { tapsOf } from './resample';
import { Packed, sampleThrough } from './sample';

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
  const packed = new Packed(kernels, planes, have);
  try {
    for (const map of maps) sampleThrough(kernels, packed, outs, want, map, tapsOf('bilinear'), { share: 1 / maps.length, poll });
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
  for (let y = want.y0, i = 0; y < want.y1; y++) {
    for (let x = want.x0; x < want.x0 + width(want); x++, i++) {
      if (marks.every((m) => well(mapPoint(m, x + 0.5, y + 0.5)))) continue;
      let share = 0;
      for (const m of maps) share += inside(mapPoint(m, x + 0.5, y + 0.5)) / maps.length;
      for (const o of outs) o[i] = share > 1e-3 ? o[i]! / share : 0;
    }
  }
}
