import type { Mat3 } from '../geometry/rotation';
import { apply3, axisOf, multiply3, transpose3, turnOf } from '../geometry/rotation';
import type { Vec3 } from '../geometry/vec3';
import { along3, scale3 } from '../geometry/vec3';

/** World to camera: a turn and then a shift. Cameras look along +z, x to the right, y down. */
export interface Pose {
  readonly turn: Mat3;
  readonly shift: Vec3;
}

export const STILL: Pose = { turn: [1, 0, 0, 0, 1, 0, 0, 0, 1], shift: [0, 0, 0] };

/** A place of the world as the camera has it. */
export const seenFrom = ({ turn, shift }: Pose, p: Vec3): Vec3 => along3(apply3(turn, p), shift);

/** Where the camera stands in the world. */
export const eyeOf = ({ turn, shift }: Pose): Vec3 => scale3(apply3(transpose3(turn), shift), -1);

/** First `before`, then `pose`. */
export const afterPose = (pose: Pose, before: Pose): Pose => ({
  turn: multiply3(pose.turn, before.turn),
  shift: along3(apply3(pose.turn, before.shift), pose.shift),
});

/** Where a camera shows a place that it has before it, px; `bend` are k1 and k2 (Brown 1966). */
export function shownAt(
  [x, y, z]: Vec3,
  focal: number,
  centre: readonly [number, number],
  [k1, k2]: readonly [number, number],
): [number, number] {
  const [u, v] = [x / z, y / z];
  const r2 = u * u + v * v;
  const g = focal * (1 + r2 * (k1 + k2 * r2));
  return [centre[0] + u * g, centre[1] + v * g];
}

/** A camera that stands somewhere, turned about its upright, then tipped, then rolled, in radians. */
export function standing(eye: Vec3, yaw: number, pitch: number, roll = 0): Pose {
  const turn = multiply3(turnOf([0, 0, roll]), multiply3(turnOf([pitch, 0, 0]), turnOf([0, yaw, 0])));
  return { turn, shift: scale3(apply3(turn, eye), -1) };
}

/** Twelve numbers, row by row: the 3 × 4 matrix from world to camera. */
export const matrixOf = ({ turn: r, shift: t }: Pose): number[] => [r[0], r[1], r[2], t[0], r[3], r[4], r[5], t[1], r[6], r[7], r[8], t[2]];
export const poseOfMatrix = (m: ArrayLike<number>): Pose => ({
  turn: [m[0]!, m[1]!, m[2]!, m[4]!, m[5]!, m[6]!, m[8]!, m[9]!, m[10]!],
  shift: [m[3]!, m[7]!, m[11]!],
});

/** Between two poses at a share of the way: the eye on a straight line, the turn about one axis. */
export function poseBetween(a: Pose, b: Pose, t: number): Pose {
  const axis = axisOf(multiply3(b.turn, transpose3(a.turn)));
  const turn = multiply3(turnOf(scale3(axis, t)), a.turn);
  const eye = along3(scale3(eyeOf(a), 1 - t), eyeOf(b), t);
  return { turn, shift: scale3(apply3(turn, eye), -1) };
}
