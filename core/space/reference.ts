import { EVD, Matrix } from 'ml-matrix';
import { ShotError } from '../errors';
import type { Mat3 } from '../geometry/rotation';
import { apply3, multiply3, turnOf } from '../geometry/rotation';
import type { Vec3 } from '../geometry/vec3';
import { along3, cross3, dot3, scale3, unit3 } from '../geometry/vec3';
import { random } from '../random';
import type { Placing } from './align';
import { afterPlacing } from './align';
import type { CameraView } from './reading';
import type { Pose } from './pose';
import { eyeOf } from './pose';
import { median } from './tracks';

/** A plane through points: its middle, its normal, and the root mean square of their distances from it. */
export interface PointPlane {
  readonly centre: Vec3;
  readonly normal: Vec3;
  readonly residual: number;
}

const mean = (list: readonly Vec3[], weights: readonly number[]): Vec3 => {
  const total = weights.reduce((a, b) => a + b, 0);
  return scale3(
    list.reduce((sum, p, i) => along3(sum, p, weights[i]), [0, 0, 0] as Vec3),
    1 / total,
  );
};

/** Planes through three points each that are tried. */
const TRIES = 200;

/** How far points lie from the plane through three of them that has half of them nearest (least median, Rousseeuw 1984); null where all lie on lines. */
function offBest(points: readonly Vec3[]): number[] | null {
  const next = random(5);
  const pick = (): Vec3 => points[Math.floor(next() * points.length)]!;
  let best: number[] | null = null;
  let least = Infinity;
  for (let k = 0; k < TRIES; k++) {
    const a = pick();
    const across = cross3(along3(pick(), a, -1), along3(pick(), a, -1));
    if (!(Math.hypot(...across) > 1e-12)) continue;
    const normal = unit3(across);
    const off = points.map((p) => dot3(along3(p, a, -1), normal));
    const middle = median(off.map(Math.abs));
    if (middle < least) [best, least] = [off, middle];
  }
  return best;
}

/** Of distances from a plane: what lies farther off than most counts less. */
function weightsOf(off: readonly number[]): number[] {
  const size = median(off.map(Math.abs)) * 1.4826 + 1e-12;
  return off.map((d) => 1 / (1 + (d / (2 * size)) ** 2));
}

/** The plane that most points lie near, by reweighted least squares; null of fewer than three, or of points on a line. */
export function planeThrough(points: readonly Vec3[]): PointPlane | null {
  if (points.length < 3) return null;
  // Of a few points those three would pass for exact that are so by chance.
  const start = points.length >= 8 ? offBest(points) : null;
  let weights = start ? weightsOf(start) : points.map(() => 1);
  let made: PointPlane | null = null;
  for (let round = 0; round < (points.length > 3 ? 12 : 1); round++) {
    const centre = mean(points, weights);
    const m = Matrix.zeros(3, 3);
    points.forEach((p, i) => {
      const d = along3(p, centre, -1);
      for (let r = 0; r < 3; r++) for (let c = 0; c < 3; c++) m.set(r, c, m.get(r, c) + weights[i]! * d[r]! * d[c]!);
    });
    const { realEigenvalues: e, eigenvectorMatrix: v } = new EVD(m, { assumeSymmetric: true });
    const order = [0, 1, 2].sort((a, b) => e[a]! - e[b]!);
    if (!(e[order[1]!]! > 1e-12 * e[order[2]!]!)) return null;
    const normal = unit3(v.getColumn(order[0]!) as unknown as Vec3);
    const off = points.map((p) => dot3(along3(p, centre, -1), normal));
    made = { centre, normal, residual: Math.sqrt(off.reduce((s, d) => s + d * d, 0) / points.length) };
    weights = weightsOf(off);
  }
  return made;
}

/** Where those tracks stand that have a point. */
export const placesOf = (view: CameraView, tracks: readonly string[]): Vec3[] =>
  tracks.flatMap((t) => {
    const at = view.point(t);
    return at ? [at] : [];
  });

const pointsOf = (view: CameraView, tracks: readonly string[], least: number, what: string): Vec3[] => {
  const points = placesOf(view, tracks);
  if (points.length < least)
    throw new ShotError(`${what} needs ${least === 1 ? 'a point' : `${least} points`}; select them on the stage first`);
  return points;
};

/** The world turned and moved so that a plane through points is its ground, at height 0: up is where the camera is. Seen as the camera of a frame looks. */
export function onGround(view: CameraView, tracks: readonly string[], frame: number): Placing {
  const plane = planeThrough(pointsOf(view, tracks, 3, 'the ground'));
  if (!plane) throw new ShotError('those points lie on a line: the ground needs three that span an area');
  const pose = view.poseAt(frame) ?? view.poseAt(view.frames[0]!)!;
  const above = dot3(along3(eyeOf(pose), plane.centre, -1), plane.normal) < 0 ? -1 : 1;
  return standingOn(view, plane.centre, scale3(plane.normal, -above), pose);
}

/** The world turned so that a direction is down and the camera looks ahead, a place its origin. */
function standingOn(view: CameraView, centre: Vec3, down: Vec3, pose: Pose): Placing {
  const ahead: Vec3 = [pose.turn[6], pose.turn[7], pose.turn[8]];
  const level = along3(ahead, down, -dot3(ahead, down));
  const z = Math.hypot(...level) > 1e-6 ? unit3(level) : unit3(cross3([pose.turn[0], pose.turn[1], pose.turn[2]], down));
  const x = cross3(down, z);
  const turn: Mat3 = [...x, ...down, ...z] as unknown as Mat3;
  return afterPlacing({ turn, scale: 1, shift: scale3(apply3(turn, centre), -1) }, view.placing);
}

const mostly = (m: Matrix, largest: boolean): Vec3 => {
  const { realEigenvalues: e, eigenvectorMatrix: v } = new EVD(m, { assumeSymmetric: true });
  const order = [0, 1, 2].sort((a, b) => e[a]! - e[b]!);
  return unit3(v.getColumn(order[largest ? 2 : 0]!) as unknown as Vec3);
};

/** The ways along lines, each from one of two points to the next, as their outer products. */
function waysOf(points: readonly Vec3[]): { sum: Matrix; ways: Vec3[] } {
  const sum = Matrix.zeros(3, 3);
  const ways: Vec3[] = [];
  for (let i = 0; i + 1 < points.length; i += 2) {
    const d = along3(points[i + 1]!, points[i]!, -1);
    if (!(Math.hypot(...d) > 1e-9)) continue;
    const way = unit3(d);
    ways.push(way);
    for (let r = 0; r < 3; r++) for (let c = 0; c < 3; c++) sum.set(r, c, sum.get(r, c) + way[r]! * way[c]!);
  }
  return { sum, ways };
}

/**
 * The world turned by lines, two points each, so that they are level: two or more that run different ways, such as edges of crates at any height. The ground goes through the lowest point. Seen as the camera of a
 * frame looks.
 */
export function onLevelLines(view: CameraView, tracks: readonly string[], frame: number): Placing {
  const points = pointsOf(view, tracks, 4, 'a level by lines');
  const { sum, ways } = waysOf(points);
  if (!ways.some((a) => ways.some((b) => Math.abs(dot3(a, b)) < 0.98)))
    throw new ShotError('those lines all run the same way: choose two points each of lines that run different ways');
  const pose = view.poseAt(frame) ?? view.poseAt(view.frames[0]!)!;
  const normal = mostly(sum, false);
  const down = dot3(normal, [pose.turn[3], pose.turn[4], pose.turn[5]]) < 0 ? scale3(normal, -1) : normal;
  const lowest = points.reduce((a, b) => (dot3(b, down) > dot3(a, down) ? b : a));
  return standingOn(view, lowest, down, pose);
}

/** The world turned by lines, two points each, so that they are upright: a post, an edge of a wall. The ground goes through the lowest point. */
export function onUprightLines(view: CameraView, tracks: readonly string[], frame: number): Placing {
  const points = pointsOf(view, tracks, 2, 'an upright');
  const { sum, ways } = waysOf(points);
  if (ways.length === 0) throw new ShotError('those two points lie at the same place');
  const pose = view.poseAt(frame) ?? view.poseAt(view.frames[0]!)!;
  const way = mostly(sum, true);
  const down = dot3(way, [pose.turn[3], pose.turn[4], pose.turn[5]]) < 0 ? scale3(way, -1) : way;
  const lowest = points.reduce((a, b) => (dot3(b, down) > dot3(a, down) ? b : a));
  return standingOn(view, lowest, down, pose);
}

/** The world moved so that the middle of some points is its origin. */
export function withOrigin(view: CameraView, tracks: readonly string[]): Placing {
  const points = pointsOf(view, tracks, 1, 'the origin');
  return {
    ...view.placing,
    shift: along3(
      view.placing.shift,
      mean(
        points,
        points.map(() => 1),
      ),
      -1,
    ),
  };
}

/** The world turned about its upright so that the way from one point to another is an axis. */
export function alongAxis(view: CameraView, tracks: readonly string[], axis: 'x' | 'z'): Placing {
  const [a, b] = pointsOf(view, tracks, 2, 'an axis') as [Vec3, Vec3];
  const [dx, dz] = [b[0] - a[0], b[2] - a[2]];
  if (!(Math.hypot(dx, dz) > 1e-9)) throw new ShotError('those two points stand one above the other: they tell no direction on the ground');
  // Into the picture is z here and −z where y is up.
  const angle = axis === 'x' ? Math.atan2(dz, dx) : -Math.atan2(dx, dz);
  return afterPlacing({ turn: turnOf([0, angle, 0]), scale: 1, shift: [0, 0, 0] }, view.placing);
}

/** The world grown so that two points lie a distance apart. */
export function scaledTo(view: CameraView, tracks: readonly string[], distance: number): Placing {
  const [a, b] = pointsOf(view, tracks, 2, 'the scale') as [Vec3, Vec3];
  const now = Math.hypot(...along3(a, b, -1));
  if (!(distance > 0)) throw new ShotError('the distance is greater than 0');
  if (!(now > 1e-12)) throw new ShotError('those two points lie at the same place');
  return afterPlacing({ turn: [1, 0, 0, 0, 1, 0, 0, 0, 1], scale: distance / now, shift: [0, 0, 0] }, view.placing);
}

/** The world moved by some units and turned by some degrees about its own axes, x to the right, y up, z towards the camera. */
export function nudged(placing: Placing, move: Vec3, turn: Vec3): Placing {
  const [x, y, z] = turn.map((d) => (d * Math.PI) / 180) as [number, number, number];
  const m = multiply3(turnOf([0, 0, -z]), multiply3(turnOf([x, 0, 0]), turnOf([0, -y, 0])));
  return afterPlacing({ turn: m, scale: 1, shift: upright(move) }, placing);
}

/** Between the world as it is kept, y down and z into the picture, and as it is shown and written, y up and z towards the camera. */
export const upright = ([x, y, z]: Vec3): Vec3 => [x, -y, -z];

/** What a group comes to. */
export function groupFigures(
  view: CameraView,
  tracks: readonly string[],
): { centre: Vec3; plane: PointPlane | null; count: number } | null {
  const points = placesOf(view, tracks);
  if (points.length === 0) return null;
  return {
    centre: mean(
      points,
      points.map(() => 1),
    ),
    plane: planeThrough(points),
    count: points.length,
  };
}
