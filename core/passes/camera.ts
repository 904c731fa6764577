import type { Vec3 } from '../geometry/vec3';
import { along3, cross3, dot3, scale3, unit3 } from '../geometry/vec3';
import { leastSquares } from '../geometry/least-squares';
import { inverseOf } from '../geometry/solve';
import type { Rect } from '../geometry/rect';
import { width } from '../geometry/rect';
import type { Format } from '../picture';

/** A pinhole camera with square pixels whose axis meets the middle of the frame. */
export interface RenderCamera {
  /** Focal length and middle, in pixels. */
  readonly focal: number;
  readonly centre: readonly [number, number];
  readonly eye: Vec3;
  /** Unit directions of the world: along a row, down a column, along the view. */
  readonly right: Vec3;
  readonly down: Vec3;
  readonly forward: Vec3;
}

/** At the origin, looking along −z, y up. */
export const plainCamera = (focal: number, { width: w, height: h }: Format): RenderCamera => ({
  focal,
  centre: [w / 2, h / 2],
  eye: [0, 0, 0],
  right: [1, 0, 0],
  down: [0, -1, 0],
  forward: [0, 0, -1],
});

/** The place on the picture, and the distance along the view. */
export function project(c: RenderCamera, p: Vec3): [number, number, number] {
  const d = along3(p, c.eye, -1);
  const z = dot3(d, c.forward);
  return [c.centre[0] + (c.focal * dot3(d, c.right)) / z, c.centre[1] + (c.focal * dot3(d, c.down)) / z, z];
}

/** The point that is seen at a place, at a distance along the view. */
export function unproject(c: RenderCamera, x: number, y: number, z: number): Vec3 {
  const [u, v] = [((x - c.centre[0]) / c.focal) * z, ((y - c.centre[1]) / c.focal) * z];
  return along3(along3(along3(c.eye, c.right, u), c.down, v), c.forward, z);
}

export interface PositionPlanes {
  readonly x: ArrayLike<number>;
  readonly y: ArrayLike<number>;
  readonly z: ArrayLike<number>;
}

/** Pixels that a fit looks at. */
const LOOKED = 1500;
/** Pixels of reprojection above which the positions are not those of a pinhole camera. */
const WORST = 2;

/**
 * The camera that sees each pixel's position at that pixel, by the direct linear transform (Sutherland 1974; Hartley and Zisserman 2003,
 * 7.1). Null where the positions do not say: too few, all on a plane, or of no pinhole camera. Pixels at exactly 0, 0, 0 and those
 * that are not finite count as empty. Distances along the view, where they are known, keep a shallow scene from being seen through a wrong
 * focal length.
 */
export function fitCamera(
  p: PositionPlanes,
  region: Rect,
  format: Format,
  distance?: ArrayLike<number>,
): { camera: RenderCamera; rms: number } | null {
  const w = width(region);
  const places: number[] = [];
  const n = p.x.length;
  const filled: number[] = [];
  for (let i = 0; i < n; i++) {
    const sum = p.x[i]! + p.y[i]! + p.z[i]!;
    if (Number.isFinite(sum) && (p.x[i] !== 0 || p.y[i] !== 0 || p.z[i] !== 0)) filled.push(i);
  }
  if (filled.length < 50) return null;
  const step = Math.max(1, Math.floor(filled.length / LOOKED));
  for (let i = 0; i < filled.length; i += step) places.push(filled[i]!);
  const middle: [number, number] = [format.width / 2, format.height / 2];
  const size = format.width / 2;
  const mean = [p.x, p.y, p.z].map((v) => places.reduce((s, i) => s + v[i]!, 0) / places.length) as unknown as Vec3;
  const spread =
    Math.sqrt(
      places.reduce((s, i) => s + (p.x[i]! - mean[0]) ** 2 + (p.y[i]! - mean[1]) ** 2 + (p.z[i]! - mean[2]) ** 2, 0) / places.length,
    ) || 1;
  const normal = new Float64Array(144);
  const row = new Float64Array(12);
  const add = (): void => {
    for (let a = 0; a < 12; a++) for (let b = 0; b < 12; b++) normal[12 * a + b]! += row[a]! * row[b]!;
  };
  const pointAt = (i: number): Vec3 => [(p.x[i]! - mean[0]) / spread, (p.y[i]! - mean[1]) / spread, (p.z[i]! - mean[2]) / spread];
  const seenAt = (i: number): [number, number] => [
    (region.x0 + (i % w) + 0.5 - middle[0]) / size,
    (region.y0 + Math.floor(i / w) + 0.5 - middle[1]) / size,
  ];
  for (const i of places) {
    const at = [...pointAt(i), 1];
    const seen = seenAt(i);
    for (const k of [0, 1]) {
      row.fill(0);
      at.forEach((v, j) => {
        row[4 * k + j] = v;
        row[8 + j] = -seen[k]! * v;
      });
      add();
    }
  }
  const m = smallestOf(normal);
  return m && decompose(m, { mean, spread, size, middle, distance }, places, pointAt, seenAt);
}

/** The eigenvector of the smallest eigenvalue, by inverse iteration; null where it is not alone. */
function smallestOf(normal: Float64Array): Float64Array | null {
  const trace = [...Array(12).keys()].reduce((s, i) => s + normal[13 * i]!, 0);
  const shifted = Float64Array.from(normal);
  for (let i = 0; i < 12; i++) shifted[13 * i]! += 1e-13 * trace;
  const inverse = inverseOf(shifted, 12);
  if (!inverse) return null;
  let v = new Float64Array(12).map((_, i) => 1 + 0.1 * i);
  for (let round = 0; round < 60; round++) {
    const next = new Float64Array(12);
    for (let i = 0; i < 12; i++) for (let j = 0; j < 12; j++) next[i]! += inverse[12 * i + j]! * v[j]!;
    const length = Math.hypot(...next);
    v = next.map((x) => x / length);
  }
  return v;
}

interface Scaling {
  mean: Vec3;
  spread: number;
  size: number;
  middle: [number, number];
  distance: ArrayLike<number> | undefined;
}

function decompose(
  m: Float64Array,
  { mean, spread, size, middle, distance }: Scaling,
  places: readonly number[],
  pointAt: (i: number) => Vec3,
  seenAt: (i: number) => [number, number],
): { camera: RenderCamera; rms: number } | null {
  const rowOf = (k: number): Vec3 => [m[4 * k]!, m[4 * k + 1]!, m[4 * k + 2]!];
  // In front of the camera distances are positive.
  const sign = places.reduce((s, i) => s + Math.sign(dot3(rowOf(2), pointAt(i)) + m[11]!), 0) < 0 ? -1 : 1;
  const [a, b, c] = [rowOf(0), rowOf(1), rowOf(2)].map((v) => scale3(v, sign)) as [Vec3, Vec3, Vec3];
  const length = Math.hypot(...c);
  if (!(length > 1e-9)) return null;
  const forward = unit3(c);
  const side = along3(a, forward, -dot3(a, forward));
  const low = along3(b, forward, -dot3(b, forward));
  const right = unit3(side);
  const down = unit3(along3(low, right, -dot3(low, right)));
  const focal = (Math.hypot(...side) + Math.hypot(...low)) / 2 / length;
  const inverse = inverseOf(Float64Array.from([...a, ...b, ...c]), 3);
  if (!inverse || !(focal > 0.05 && focal < 200)) return null;
  const shift = [m[3]!, m[7]!, m[11]!].map((v) => v * sign);
  const eye = [0, 1, 2].map((i) => -(inverse[3 * i]! * shift[0]! + inverse[3 * i + 1]! * shift[1]! + inverse[3 * i + 2]! * shift[2]!));
  const start: RenderCamera = {
    focal: focal * size,
    centre: middle,
    eye: along3(mean, eye as unknown as Vec3, spread),
    right,
    down,
    forward,
  };
  const points = places.map((i) => along3(mean, pointAt(i), spread));
  const seen = places.map((i) => seenAt(i).map((v, k) => v * size + middle[k]!) as [number, number]);
  const camera = refine(start, points, seen, spread, distance && places.map((i) => distance[i]!));
  const errors = points.map((p, i) => {
    const at = project(camera, p);
    return (at[0] - seen[i]![0]) ** 2 + (at[1] - seen[i]![1]) ** 2;
  });
  // A few may be blended with their background: the middle one tells.
  const rms = Math.sqrt(errors.sort((x, y) => x - y)[errors.length >> 1]!);
  return rms < WORST ? { camera, rms } : null;
}

/** Points that the refinement looks at. */
const REFINED = 400;

/**
 * What the direct transform found has eleven freedoms, and of a shallow scene most of them are noise: the seven of a camera are fitted from there,
 * with a Cauchy loss.
 */
function refine(
  start: RenderCamera,
  points: readonly Vec3[],
  seen: readonly (readonly [number, number])[],
  size: number,
  distance?: readonly number[],
): RenderCamera {
  const step = Math.max(1, Math.floor(points.length / REFINED));
  const used = points.map((_, i) => i).filter((i) => i % step === 0);
  const fitted = leastSquares([Math.log(start.focal), 0, 0, 0, 0, 0, 0], [0, 1, 2, 3, 4, 5, 6], {
    count: (distance ? 3 : 2) * used.length,
    steps: Float64Array.from([1e-4, 1e-5, 1e-5, 1e-5, 1e-4 * size, 1e-4 * size, 1e-4 * size]),
    residuals(p, to) {
      const camera = moved(start, p);
      used.forEach((i, k) => {
        const at = project(camera, points[i]!);
        to[2 * k] = at[0] - seen[i]![0];
        to[2 * k + 1] = at[1] - seen[i]![1];
        const z = distance?.[i];
        // A thousandth of the distance weighs as much as a pixel.
        if (z !== undefined) to[2 * used.length + k] = z < Infinity ? 1000 * (at[2] / z - 1) : 0;
      });
      return to.every(Number.isFinite);
    },
    weigh: (r, weights) => r.forEach((v, i) => (weights[i] = 1 / (1 + v * v))),
    rounds: 40,
  });
  return moved(start, fitted.p);
}

/** A camera with another focal length, turned about its own axes and moved along them. */
function moved(c: RenderCamera, p: ArrayLike<number>): RenderCamera {
  const turned = (v: Vec3): Vec3 => {
    const axis: Vec3 = along3(along3(scale3(c.right, p[1]!), c.down, p[2]!), c.forward, p[3]!);
    const angle = Math.hypot(...axis);
    if (angle < 1e-12) return v;
    const k = scale3(axis, 1 / angle);
    const [s, cos] = [Math.sin(angle), Math.cos(angle)];
    return along3(along3(scale3(v, cos), cross3(k, v), s), k, dot3(k, v) * (1 - cos));
  };
  return {
    focal: Math.exp(p[0]!),
    centre: c.centre,
    eye: along3(along3(along3(c.eye, c.right, p[4]!), c.down, p[5]!), c.forward, p[6]!),
    right: turned(c.right),
    down: turned(c.down),
    forward: turned(c.forward),
  };
}
