import type { Rect } from '../geometry/rect';
import type { ReadingChannel } from '../readings/gray';
import { calmed, grayFrame } from '../readings/gray';
import type { Look } from './snap';

const CHANNELS: readonly ReadingChannel[] = ['red', 'green', 'blue'];

/** What outlines are looked for in: the channels of a frame as they are seen, a little calmed against noise. Pixels are scene-linear RGBA. */
export const lookOf = (pixels: Float32Array, region: Rect, format: { width: number; height: number }): Look =>
  CHANNELS.map((c) => calmed(grayFrame(pixels, region, format, c).read(0, 0, format.width, format.height)));
