import type { Kernels, Plane } from '@/kernels';
import type { Homography } from '../geometry/homography';
import type { Rect } from '../geometry/rect';
import { area, height, rect, width } from '../geometry/rect';

/** Planes of a region, packed four by four: a vector holds a pixel of four of them. Give it back. */
export class Packed {
  private constructor(
    private readonly kernels: Kernels,
    readonly groups: readonly Plane[],
    readonly region: Rect,
  ) {}

  static of(kernels: Kernels, planes: readonly Plane[], region: Rect): Packed {
    const n = area(region);
    const groups = Array.from({ length: Math.ceil(planes.length / 4) }, (_, g) => {
      const group = kernels.take(4 * n + 16);
      const [a, b, c, d] = [0, 1, 2, 3].map((k) => planes[4 * g + k]?.byteOffset ?? 0) as [number, number, number, number];
      kernels.fn.packFour(a, b, c, d, group.byteOffset, n);
      return group;
    });
    return new Packed(kernels, groups, region);
  }

  /** The same at half the size, each pixel the mean of four. Null where the region begins at odd places. Give it back. */
  halved(): Packed | null {
    const { x0, y0, x1, y1 } = this.region;
    if (x0 % 2 !== 0 || y0 % 2 !== 0) return null;
    const half = rect(x0 / 2, y0 / 2, Math.ceil(x1 / 2), Math.ceil(y1 / 2));
    const groups = this.groups.map((g) => {
      const made = this.kernels.take(4 * area(half) + 16);
      this.kernels.fn.halvePacked(g.byteOffset, x1 - x0, y1 - y0, made.byteOffset);
      return made;
    });
    return new Packed(this.kernels, groups, half);
  }

  give(): void {
    for (const g of this.groups) this.kernels.give(g);
  }
}

/** How values between pixels are worked out: so many samples each way, with weights as kernels/assembly/sample.ts reads them. */
export interface Taps {
  readonly taps: 1 | 2 | 4 | 6;
  readonly weights: Float32Array;
}

/**
 * A map of positions: a homography from places of what is made to places of what is looked at, or planes that hold the latter for each pixel
 * of what is made and, so that its stretch is known, of one column and one row more.
 */
export type PositionMap = Homography | { readonly xs: Plane; readonly ys: Plane };

/** The region that planes of positions cover for what is made. */
export const mapRegion = ({ x0, y0, x1, y1 }: Rect): Rect => rect(x0, y0, x1 + 1, y1 + 1);

/** As kernels/assembly/sample.ts has them. */
const LAYS = { put: 0, add: 1, over: 2 } as const;

export type Four = readonly [number, number, number, number];

export interface SampleOptions {
  /** Where the map makes the picture smaller, so many bilinear samples each way at most; 1 unless said. */
  most?: number;
  /** What is seen is multiplied by: one for all planes, or R, G, B, A of four. */
  gain?: number | Four;
  /** Put into the outs unless said: added to what is there, or four planes, premultiplied, laid over it. */
  lays?: keyof typeof LAYS;
  /** What the outs cover, where that is more than what is made. */
  cover?: Rect;
  poll?(): void;
}

/** Floats before the weights: 18 of doubles, 8 of pointers and gains, 2 to be at a multiple of 16 bytes, 48 to work in. */
const HEAD = 76;

/** Rows between two looks at whether the work is still wanted. */
const BAND = 48;

/** Looks at packed planes through a map, into as many planes over `want`. Nothing beyond the edges. */
export function sampleThrough(
  kernels: Kernels,
  from: Packed,
  outs: readonly Plane[],
  want: Rect,
  map: PositionMap,
  { taps, weights }: Taps,
  { most = 1, gain = 1, lays = 'put', cover = want, poll }: SampleOptions = {},
): void {
  const byPlanes = 'xs' in map;
  // Nine doubles, four pointers and gains, room to work in, and the weights.
  const own = kernels.take(HEAD + weights.length);
  try {
    const doubles = new Float64Array(own.buffer, own.byteOffset, 9);
    doubles.set(byPlanes ? [1, 0, 0, 0, 1, 0, 0, 0, 1] : map);
    const pointers = new Uint32Array(own.buffer, own.byteOffset + 72, 4);
    own.set(typeof gain === 'number' ? [gain, gain, gain, gain] : gain, 22);
    const scratch = own.byteOffset + 112;
    own.set(weights, HEAD);
    const [w, stride, { region }] = [width(want), width(cover), from];
    for (let y = want.y0; y < want.y1; y += BAND) {
      poll?.();
      const rows = Math.min(BAND, want.y1 - y);
      const skip = 4 * (stride * (y - cover.y0) + want.x0 - cover.x0);
      const mapSkip = 4 * (w + 1) * (y - want.y0);
      from.groups.forEach((group, g) => {
        for (let k = 0; k < 4; k++) pointers[k] = outs[4 * g + k] ? outs[4 * g + k]!.byteOffset + skip : 0;
        kernels.fn.sampleFour(
          group.byteOffset,
          region.x0,
          region.y0,
          width(region),
          height(region),
          pointers.byteOffset,
          stride,
          want.x0,
          y,
          w,
          rows,
          doubles.byteOffset,
          byPlanes ? map.xs.byteOffset + mapSkip : 0,
          byPlanes ? map.ys.byteOffset + mapSkip : 0,
          w + 1,
          taps,
          own.byteOffset + 4 * HEAD,
          scratch,
          most,
          LAYS[lays],
        );
      });
    }
  } finally {
    kernels.give(own);
  }
}
