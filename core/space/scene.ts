import type { Mat3 } from '../geometry/rotation';
import { multiply3, turnOf } from '../geometry/rotation';
import type { Vec3 } from '../geometry/vec3';

/** Cameras and points as numbers. Positions are pixels, centres at .5. */
export interface Scene {
  /** World to camera, twelve numbers each, row by row. */
  readonly poses: Float64Array;
  /** Focal length of each camera, px. */
  readonly focals: Float64Array;
  /** Radial terms k1 and k2 (Brown 1966); 0, 0 for straight pixels. */
  readonly bend: Float64Array;
  readonly centre: readonly [number, number];
  readonly points: Float64Array;
}

/** What was seen where: sorted by point, then by camera. */
export interface Observations {
  readonly camera: Int32Array;
  readonly point: Int32Array;
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly weight: Float64Array;
}

/** Of rows of camera, point, x, y and weight. */
export function observationsOf(rows: readonly (readonly [number, number, number, number, number])[]): Observations {
  return {
    camera: Int32Array.from(rows, (r) => r[0]),
    point: Int32Array.from(rows, (r) => r[1]),
    x: Float64Array.from(rows, (r) => r[2]),
    y: Float64Array.from(rows, (r) => r[3]),
    weight: Float64Array.from(rows, (r) => r[4]),
  };
}

export interface BundleSettings {
  /** What of the focal length may move: nothing, one for all cameras, or each, smooth over them. */
  readonly focal: 'fixed' | 'one' | 'each';
  readonly bend: boolean;
  /** The camera only turns: eyes stay at the origin, and points are directions. */
  readonly turning: boolean;
  /** Of Cauchy's loss, px. */
  readonly scale: number;
  readonly rounds: number;
  /** Share of the cost under which another round is not worth while; 1e-8 unless said. */
  readonly still?: number;
  /** Weight of the second differences of the logarithm of focal lengths: that many pixels each. */
  readonly smooth?: number;
}

/** How much a focal length bends between those of its neighbours. */
export const bendOf = (focals: Float64Array, k: number): number => Math.log((focals[k - 1]! * focals[k + 1]!) / focals[k]! ** 2);

/** Turns a camera by a small turn after its own, and shifts it. */
export function movePose(poses: Float64Array, k: number, by: Vec3, shift: Vec3): void {
  const at = 12 * k;
  const turn = [0, 1, 2].flatMap((r) => [poses[at + 4 * r]!, poses[at + 4 * r + 1]!, poses[at + 4 * r + 2]!]) as unknown as Mat3;
  const next = multiply3(turnOf(by), turn);
  for (let r = 0; r < 3; r++) {
    for (let c = 0; c < 3; c++) poses[at + 4 * r + c] = next[3 * r + c]!;
    poses[at + 4 * r + 3]! += shift[r]!;
  }
}
