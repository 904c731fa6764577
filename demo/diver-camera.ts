import type { Vec } from './diver';
import { add, unit } from './diver';

export const EYE: Vec = [0, 1.35, 6.2];
const AIM = -0.055;
/** Focal length over the picture's height. */
export const FOCAL = 2.45;
const [COS, SIN] = [Math.cos(AIM), Math.sin(AIM)];
const UP: Vec = [0, COS, SIN];

interface Size {
  width: number;
  height: number;
}

/** Where a point of the world is seen, in pixels, and its distance along the view. */
export function project(p: Vec, o: Size): [number, number, number] {
  const [x, y, z] = add(p, EYE, -1);
  const [yy, depth] = [COS * y + SIN * z, SIN * y - COS * z];
  const f = FOCAL * o.height;
  return [o.width / 2 + (f * x) / depth, o.height / 2 - (f * yy) / depth, depth];
}

/** The direction of a pixel that is one metre long along the view. */
export function axisRay(px: number, py: number, o: Size): Vec {
  const f = FOCAL * o.height;
  const [x, y] = [(px - o.width / 2) / f, (o.height / 2 - py) / f];
  return [x, COS * y + SIN, SIN * y - COS];
}

export const rayAt = (px: number, py: number, o: Size): Vec => unit(axisRay(px, py, o));

/** A ray through a point of a thin lens, in metres right and up of its middle, that meets the pixel's own at the distance in focus. */
export function lensRay(px: number, py: number, o: Size, [right, up]: readonly [number, number], focus: number): { from: Vec; dir: Vec } {
  const from = add(add(EYE, [1, 0, 0], right), UP, up);
  const meets = add(EYE, axisRay(px, py, o), focus);
  return { from, dir: unit(add(meets, from, -1)) };
}
