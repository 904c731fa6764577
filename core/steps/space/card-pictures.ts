import { LRUCache } from 'lru-cache';
import type { Plane } from '@/kernels';
import { tapsOf } from '../../filters/resample';
import { mapRegion, sampleThrough } from '../../filters/sample';
import { Sizes } from '../../filters/sizes';
import type { Homography } from '../../geometry/homography';
import type { Rect } from '../../geometry/rect';
import { area, height, width } from '../../geometry/rect';
import { packedOf } from '../../space/things/pictures';
import type { RenderContext } from '../../step';
import type { SceneParams } from './scene-params';

/** Pictures that are kept packed while a scene is rendered. */
const MOST_PACKED = 3;

/** The pictures of a scene's flat cards, packed once, for all cards and moments that show them, and laid where they are seen. */
export class CardPictures {
  private readonly known = new LRUCache<string, Sizes>({ max: MOST_PACKED, dispose: (sizes) => sizes.give() });

  constructor(
    private readonly ctx: RenderContext<SceneParams>,
    private readonly filter: SceneParams['filter'],
  ) {}

  /** A picture's own pixels, `key` standing for them; null where it has none. */
  of(input: string, frame: number, key: string): Sizes | null {
    const { ctx, known } = this;
    const had = known.get(key);
    if (had) return had;
    const whole = packedOf(ctx.kernels, { info: ctx.info(input, frame)!, tile: ctx.tile(input, frame)! });
    if (!whole) return null;
    const made = new Sizes(whole);
    known.set(key, made);
    return made;
  }

  /** Looks at a picture through a plane's map, the places worked out first: so four pixels are looked at together. */
  lay(sizes: Sizes, planes: readonly Plane[], seen: Rect, map: Homography): void {
    const { kernels } = this.ctx;
    const { packed, back } = sizes.through(map, this.filter);
    const wide = mapRegion(seen);
    const [xs, ys, matrix] = [kernels.take(area(wide)), kernels.take(area(wide)), kernels.take(20)];
    try {
      new Float64Array(matrix.buffer, matrix.byteOffset, 9).set(back);
      kernels.fn.planePositions(matrix.byteOffset, wide.x0, wide.y0, width(wide), height(wide), xs.byteOffset, ys.byteOffset);
      sampleThrough(kernels, packed, planes, seen, { xs, ys }, tapsOf(this.filter), { most: 4, poll: () => this.ctx.poll() });
    } finally {
      [xs, ys, matrix].forEach((p) => kernels.give(p));
    }
  }

  give(): void {
    this.known.clear();
  }
}
