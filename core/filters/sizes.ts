import type { Homography } from '../geometry/homography';
import { invert } from '../geometry/fit';
import type { Rect } from '../geometry/rect';
import { height, width } from '../geometry/rect';
import type { ResampleFilter } from './resample';
import type { Packed } from './sample';

/** Seen so much smaller a picture is halved first; looking up to 1.5 pixels apart takes one sample a pixel. */
const HALVED_AT = 1.75;
/** Places each way of a picture at which it is asked how large it is seen. */
const GRID = 4;

/** How often a picture is halved before it is looked at: by where it is seen largest. `forth` leads from it to what is seen. */
function halvings([a, b, c, d, e, f, g, h, i]: Homography, picture: Rect): number {
  let largest = 0;
  for (let k = 0; k < (GRID + 1) ** 2; k++) {
    const x = picture.x0 + (width(picture) * (k % (GRID + 1))) / GRID;
    const y = picture.y0 + (height(picture) * Math.floor(k / (GRID + 1))) / GRID;
    const z = g * x + h * y + i;
    if (z <= 0) return 0;
    const [u, v] = [(a * x + b * y + c) / z, (d * x + e * y + f) / z];
    largest = Math.max(largest, Math.hypot(a - g * u, d - g * v) / z, Math.hypot(b - h * u, e - h * v) / z);
  }
  return Math.max(0, Math.floor(Math.log2(2 / (HALVED_AT * largest))));
}

/**
 * A packed picture, and itself halved as often as looks at it need (Williams 1983): a plane that is seen much smaller is looked at
 * in the size that is next to it, instead of by many samples a pixel. Give it back.
 */
export class Sizes {
  private readonly list: Packed[];

  constructor(whole: Packed) {
    this.list = [whole];
  }

  get region(): Rect {
    return this.list[0]!.region;
  }

  /** The size for a look through a homography that leads from what is seen to the picture, and the homography to that size. */
  through(back: Homography, filter: ResampleFilter): { packed: Packed; back: Homography } {
    const forth = filter === 'nearest' ? null : invert(back);
    const wanted = forth ? halvings(forth, this.region) : 0;
    while (this.list.length <= wanted) {
      const next = this.list.at(-1)!.halved();
      if (!next) break;
      this.list.push(next);
    }
    const size = Math.min(wanted, this.list.length - 1);
    return {
      packed: this.list[size]!,
      back: size === 0 ? back : (back.map((v, k) => (k < 6 ? v / 2 ** size : v)) as unknown as Homography),
    };
  }

  give(): void {
    this.list.forEach((p) => p.give());
  }
}
