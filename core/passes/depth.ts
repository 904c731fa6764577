import type { Rect } from '../geometry/rect';
import { height, width } from '../geometry/rect';
import { number } from '../param';
import type { Format } from '../picture';
import type { PassFacts, RoledPass } from './roles';

/** The lens that a render was made with, for what its passes do not say. */
export const viewParams = {
  focal: number('Focal length', 35, [12, 200], { unit: 'mm', min: 1, max: 10_000, group: 'Camera', help: 'Of the camera that rendered.' }),
  filmWidth: number('Film width', 36, [8, 70], { unit: 'mm', min: 0.5, max: 1000, group: 'Camera' }),
};

/** The focal length in pixels of a format. */
export const focalPixels = (p: { focal: number; filmWidth: number }, format: Format): number => (p.focal / p.filmWidth) * format.width;

/** The channel that holds the numbers of a pass that has one. */
export const onlyChannel = (pass: RoledPass): string => pass.channels[0]!;

/** Nothing is there. */
export const NOTHING = Infinity;

/**
 * Turns depth as it was rendered into distance along the view, in the scene's units, in place; Infinity where nothing is. `focal` in pixels is
 * needed of depth along rays, with the middle of the frame.
 */
export function toDistance(plane: Float32Array, region: Rect, facts: PassFacts = {}, focal = Infinity, format?: Format): void {
  const { along = 'view', as = 'distance', from = [100, 1] } = facts;
  // As the picture holds it: a number that was typed is seldom a float.
  const nothing = Math.fround(facts.nothing ?? NOTHING);
  const [far, near] = from;
  const n = plane.length;
  for (let i = 0; i < n; i++) {
    const v = plane[i]!;
    // What is not a number, and what lies behind the camera, is nothing.
    if (!(v > 0) || v === Infinity || (as === 'distance' ? v >= nothing : v === nothing)) plane[i] = NOTHING;
    else if (as === 'inverse') plane[i] = 1 / v;
    else if (as === 'nearness') plane[i] = far + (near - far) * v;
  }
  if (along === 'ray' && format) scaleRays(plane, region, focal, format, -1);
}

/** Distance along the view to distance along each ray (`power` 1), or back (−1). */
export function scaleRays(plane: Float32Array, region: Rect, focal: number, format: Format, power: 1 | -1): void {
  const [w, h] = [width(region), height(region)];
  for (let y = 0; y < h; y++) {
    const v = (region.y0 + y + 0.5 - format.height / 2) / focal;
    for (let x = 0; x < w; x++) {
      const u = (region.x0 + x + 0.5 - format.width / 2) / focal;
      const length = Math.sqrt(1 + u * u + v * v);
      plane[y * w + x]! *= power === 1 ? length : 1 / length;
    }
  }
}

/**
 * Data at soft edges is of one of the things that meet there, or a mixture of them: there it is taken from the most covered of the eight
 * neighbours, where that is covered more. `planes` belong together and are changed in place; rows of `w`.
 */
export function takeFromSolid(planes: readonly Float32Array[], alpha: Float32Array, w: number): void {
  const h = alpha.length / w;
  const moves: number[] = [];
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const own = alpha[i]!;
      if (own >= 0.999 || own <= 0) continue;
      let best = own;
      let at = i;
      for (let v = Math.max(0, y - 1); v <= Math.min(h - 1, y + 1); v++) {
        for (let u = Math.max(0, x - 1); u <= Math.min(w - 1, x + 1); u++) {
          const there = alpha[v * w + u]!;
          if (there <= best) continue;
          best = there;
          at = v * w + u;
        }
      }
      if (at !== i) moves.push(i, at);
    }
  }
  for (const plane of planes) {
    const taken = new Float32Array(moves.length / 2);
    for (let k = 0; k < taken.length; k++) taken[k] = plane[moves[2 * k + 1]!]!;
    for (let k = 0; k < taken.length; k++) plane[moves[2 * k]!] = taken[k]!;
  }
}
