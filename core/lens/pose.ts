import type { Homography } from '../geometry/homography';

/** A turn as axis times angle, and a shift: where a board stands before the camera. */
export type Pose = readonly [number, number, number, number, number, number];

/** The first two columns of a turn (Rodrigues), and the shift: enough for positions of a flat board. Nine numbers, column by column. */
export function boardAxes([rx, ry, rz, tx, ty, tz]: ArrayLike<number> & Pose, to: Float64Array): void {
  const angle = Math.hypot(rx, ry, rz);
  const [s, c] = angle < 1e-9 ? [1, 0.5] : [Math.sin(angle) / angle, (1 - Math.cos(angle)) / (angle * angle)];
  to[0] = 1 - c * (ry * ry + rz * rz);
  to[1] = s * rz + c * rx * ry;
  to[2] = -s * ry + c * rx * rz;
  to[3] = -s * rz + c * rx * ry;
  to[4] = 1 - c * (rx * rx + rz * rz);
  to[5] = s * rx + c * ry * rz;
  to[6] = tx;
  to[7] = ty;
  to[8] = tz;
}

/** The pose of a board seen through a homography to normalised positions (Zhang 2000); in front of the camera. */
export function poseOf(h: Homography): Pose {
  const column = (k: 0 | 1 | 2): number[] => [h[k], h[(3 + k) as 3], h[(6 + k) as 6]];
  const [a, b, t] = [column(0), column(1), column(2)];
  const size = (Math.hypot(...a) + Math.hypot(...b)) / 2;
  const sign = t[2]! < 0 ? -1 : 1;
  const scaled = (v: number[]): number[] => v.map((x) => (sign * x) / size);
  const x = unit(scaled(a));
  const q = scaled(b);
  const along = dot(x, q);
  const y = unit(q.map((v, i) => v - along * x[i]!));
  const z = [x[1]! * y[2]! - x[2]! * y[1]!, x[2]! * y[0]! - x[0]! * y[2]!, x[0]! * y[1]! - x[1]! * y[0]!];
  const trace = x[0]! + y[1]! + z[2]!;
  const angle = Math.acos(Math.max(-1, Math.min(1, (trace - 1) / 2)));
  const gain = angle < 1e-9 ? 0.5 : angle / (2 * Math.sin(angle));
  // Columns are x, y, z: the turn's antisymmetric part is its axis.
  const [rx, ry, rz] = [y[2]! - z[1]!, z[0]! - x[2]!, x[1]! - y[0]!].map((v) => v * gain) as [number, number, number];
  const [tx, ty, tz] = scaled(t) as [number, number, number];
  return [rx, ry, rz, tx, ty, tz];
}

const dot = (a: readonly number[], b: readonly number[]): number => a.reduce((s, v, i) => s + v * b[i]!, 0);
const unit = (a: readonly number[]): number[] => a.map((v) => v / Math.hypot(...a));
