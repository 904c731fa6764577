import { height, width } from '../geometry/rect';
import type { Picture } from '../picture';

/** A frame of a pass set, decoded. */
export type PassFrame = Pick<Picture, 'planes' | 'bounds' | 'format' | 'channels'>;

/** Pixels that are looked at. */
const LOOKED = 6000;

/** Pixels that are wholly covered, evenly spread, away from the border. */
export function solidPixels({ planes, bounds }: PassFrame): number[] {
  const alpha = planes.A;
  const w = width(bounds);
  const h = height(bounds);
  const solid: number[] = [];
  for (let y = 2; y < h - 2; y++) {
    for (let x = 2; x < w - 2; x++) {
      const i = y * w + x;
      if (!alpha || (alpha[i]! > 0.995 && alpha[i - 1]! > 0.995 && alpha[i + 1]! > 0.995 && alpha[i - w]! > 0.995 && alpha[i + w]! > 0.995))
        solid.push(i);
    }
  }
  const step = Math.max(1, Math.floor(solid.length / LOOKED));
  return solid.filter((_, k) => k % step === 0);
}
