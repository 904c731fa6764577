import { IDENTITY_H, invert, multiply } from '../geometry/fit';
import type { Homography } from '../geometry/homography';
import { applyHomography } from '../geometry/homography';
import type { Rect } from '../geometry/rect';
import { EMPTY, isEmpty, rect } from '../geometry/rect';
import { reading } from '../param';
import type { ReadingData } from '../readings/track-data';
import { carryAt } from '../shape/pose';

/** The parameters of a step whose picture goes along with a reading. */
export const carryParams = {
  reading: reading('Goes with', 'any', { help: 'A plane or a point that the surface moves with; nothing where the camera stands still.' }),
  second: reading('Second point', 'point', { help: 'Two points also turn and scale.' }),
};

export interface Carried {
  reading: ReadingData | null;
  second: ReadingData | null;
}

/** From positions on one frame to those of the same places on another; null where the plane folds. */
export function betweenFrames({ reading: first, second }: Carried, from: number, to: number): Homography | null {
  if (!first || from === to) return IDENTITY_H;
  const readings = second && first.kind === 'point' ? [first, second] : [first];
  const [there, here] = [carryAt(readings, to), carryAt(readings, from)];
  const back = here && invert(here);
  return there && back && multiply(there, back);
}

/** The rectangle that a map makes of another, rounded outward and grown; null where it has no end. */
export function mappedRect(m: Homography, r: Rect, pad: number): Rect | null {
  if (isEmpty(r)) return EMPTY;
  const all = [
    [r.x0, r.y0],
    [r.x1, r.y0],
    [r.x1, r.y1],
    [r.x0, r.y1],
  ].map(([x, y]) => applyHomography(m, x!, y!));
  if (all.some(([, , w]) => !(w > 1e-6))) return null;
  const [xs, ys] = [all.map((p) => p[0]), all.map((p) => p[1])];
  return rect(
    Math.floor(Math.min(...xs)) - pad,
    Math.floor(Math.min(...ys)) - pad,
    Math.ceil(Math.max(...xs)) + pad,
    Math.ceil(Math.max(...ys)) + pad,
  );
}
