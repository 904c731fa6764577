import { inverseOf } from '../geometry/solve';
import type { Vec3 } from '../geometry/vec3';
import { along3, dot3, unit3 } from '../geometry/vec3';
import { apply3, transpose3 } from '../geometry/rotation';
import type { Pose } from './pose';
import { eyeOf } from './pose';

/** A sight of a point: the camera, and the direction x/z, y/z in it. */
export interface Sight {
  readonly pose: Pose;
  readonly x: number;
  readonly y: number;
}

/** A sight's direction in the world. */
export const rayOf = ({ pose, x, y }: Sight): Vec3 => unit3(apply3(transpose3(pose.turn), [x, y, 1]));

/**
 * The point nearest to the rays of some sights by least squares, each weighed by how near the last round had it, so that it comes to angles
 * (Hartley and Sturm 1997). With it the widest angle between two of the rays, radians. Null where they do not meet before the cameras.
 */
export function triangulate(sights: readonly Sight[]): { at: Vec3; angle: number } | null {
  const rays = sights.map((s) => ({ eye: eyeOf(s.pose), ray: rayOf(s) }));
  let at: Vec3 | null = null;
  for (let round = 0; round < 3; round++) {
    const a = new Float64Array(9);
    const b = [0, 0, 0];
    for (const { eye, ray } of rays) {
      const w: number = at ? 1 / Math.max(1e-12, dot3(along3(at, eye, -1), along3(at, eye, -1))) : 1;
      for (let i = 0; i < 3; i++) {
        for (let j = 0; j < 3; j++) {
          const v = w * ((i === j ? 1 : 0) - ray[i]! * ray[j]!);
          a[3 * i + j]! += v;
          b[i]! += v * eye[j]!;
        }
      }
    }
    const scale = a[0]! + a[4]! + a[8]!;
    const inverse = inverseOf(
      a.map((v) => v / scale),
      3,
    );
    if (!inverse) return null;
    at = [0, 1, 2].map(
      (i) => (inverse[3 * i]! * b[0]! + inverse[3 * i + 1]! * b[1]! + inverse[3 * i + 2]! * b[2]!) / scale,
    ) as unknown as Vec3;
  }
  if (!at?.every(Number.isFinite)) return null;
  for (const { eye, ray } of rays) if (dot3(along3(at, eye, -1), ray) <= 0) return null;
  let least = 1;
  for (let i = 1; i < rays.length; i++) for (let j = 0; j < i; j++) least = Math.min(least, dot3(rays[i]!.ray, rays[j]!.ray));
  return { at, angle: Math.acos(Math.max(-1, least)) };
}
