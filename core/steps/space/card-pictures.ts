import { tapsOf } from '../../filters/resample';
import type { Four } from '../../filters/sample';
import { mapRegion, sampleThrough } from '../../filters/sample';
import { Sizes } from '../../filters/sizes';
import type { Homography } from '../../geometry/homography';
import { area, height, width } from '../../geometry/rect';
import { packedOf } from '../../space/things/pictures';
import type { FlatCard } from '../../render/moment';
import type { RenderContext } from '../../step';
import type { SceneParams } from './scene-params';

/** The pictures of a scene's flat cards, packed once, for all cards and moments that show them, and laid where they are seen. */
export class CardPictures {
  private readonly known = new Map<string, Sizes>();

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

  /**
   * What lays a picture, times a gain, where a plane's map shows it. The places are worked out first, so that four pixels are looked at together.
   */
  layer(sizes: Sizes, map: Homography, gain: Four): FlatCard['lay'] {
    const { kernels } = this.ctx;
    const { packed, back } = sizes.through(map, this.filter);
    const taps = tapsOf(this.filter);
    return (part, planes, cover, lays) => {
      const wide = mapRegion(part);
      const [xs, ys, matrix] = [kernels.take(area(wide) + 4), kernels.take(area(wide) + 4), kernels.take(20)];
      try {
        new Float64Array(matrix.buffer, matrix.byteOffset, 9).set(back);
        kernels.fn.planePositions(matrix.byteOffset, wide.x0, wide.y0, width(wide), height(wide), xs.byteOffset, ys.byteOffset);
        sampleThrough(kernels, packed, planes, part, { xs, ys }, taps, { most: 4, cover, gain, lays });
      } finally {
        [xs, ys, matrix].forEach((p) => kernels.give(p));
      }
    };
  }

  give(): void {
    this.known.forEach((sizes) => sizes.give());
    this.known.clear();
  }
}
