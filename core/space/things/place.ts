import type { Vec3 } from '../../geometry/vec3';
import { dot3, unit3 } from '../../geometry/vec3';
import type { RenderCamera } from '../../passes/camera';
import type { Affine3 } from '../../render/affine';
import { IDENTITY_A3, inverseA3, multiplyA3, placedA3, pointA3, quaternionOfDegrees } from '../../render/affine';
import type { View } from '../../render/screen';
import type { Thing } from './params';

/** A camera of a render, found from its passes. */
export const viewOfPasses = ({ right, down, forward, eye, focal, centre }: RenderCamera): View => ({
  matrix: [right, down, forward].flatMap((r) => [...r, -dot3(r, eye)]),
  focal,
  centre,
});

/** A camera that is set by numbers: unturned it looks along −z, its axis through the picture's middle. */
export function viewSet(
  p: { readonly eye: Vec3; readonly look: Vec3; readonly focal: number; readonly filmWidth: number },
  format: { readonly width: number; readonly height: number },
): View {
  const stands = inverseA3(placedA3(p.eye, quaternionOfDegrees(p.look), [1, 1, 1]))!;
  return {
    matrix: multiplyA3([1, 0, 0, 0, 0, -1, 0, 0, 0, 0, -1, 0], stands),
    focal: (p.focal / p.filmWidth) * format.width,
    centre: [format.width / 2, format.height / 2],
  };
}

/** Where things may stand besides the origin. */
export interface Anchors {
  anchor(name: string): Affine3 | null;
}

/** The frame that a thing's place is counted from: what it hangs on, and what it stands at. */
export function groundOf(thing: Thing, things: readonly Thing[], anchors: Anchors | null, view: View | null, depth = 0): Affine3 {
  // Things that hang on each other in a ring stand at the origin.
  const holder = depth > things.length ? undefined : things.find((t) => t.id === thing.hangs && t !== thing);
  if (holder) return placeOf(holder, things, anchors, view, depth + 1);
  return (thing.stands !== '' && anchors?.anchor(thing.stands)) || IDENTITY_A3;
}

/** From a thing's own axes to the world. Of a card that faces the camera, as that stands in `view`. */
export function placeOf(thing: Thing, things: readonly Thing[], anchors: Anchors | null, view: View | null, depth = 0): Affine3 {
  const size = thing.what === 'light' ? 1 : thing.size;
  const sides: Vec3 = thing.what === 'box' ? [size * thing.sides[0], size * thing.sides[1], size * thing.sides[2]] : [size, size, size];
  const turn = thing.what === 'light' ? ([0, 0, 0] as const) : thing.turn;
  const own = placedA3(thing.at, quaternionOfDegrees(turn), sides);
  const whole = multiplyA3(groundOf(thing, things, anchors, view, depth), own);
  return thing.what === 'card' && thing.facing && view ? facing(whole, view) : whole;
}

/** Turned about the world's upright towards a camera; its sizes kept. */
function facing(m: Affine3, view: View): Affine3 {
  const length = (c: number): number => Math.hypot(m[c]!, m[4 + c]!, m[8 + c]!);
  const [a, b, d] = [length(0), length(1), length(2)];
  const right = unit3([view.matrix[0]!, 0, view.matrix[2]!]);
  return [right[0] * a, 0, -right[2] * d, m[3]!, 0, b, 0, m[7]!, right[2] * a, 0, right[0] * d, m[11]!];
}

/** A place that a thing's parameters name, in the world. */
export const worldOf = (thing: Thing, at: Vec3, things: readonly Thing[], anchors: Anchors | null, view: View | null): Vec3 =>
  pointA3(groundOf(thing, things, anchors, view), at);
