import { SRGB } from '../colour/transfer';
import { hashText } from '../hash';
import { cross3, unit3 } from '../geometry/vec3';
import type { Vec3 } from '../geometry/vec3';
import type { CameraReading, Reading } from '../readings/types';
import type { Affine3 } from '../render/affine';
import { IDENTITY_A3 } from '../render/affine';
import type { Cloud } from '../render/cloud';
import type { View } from '../render/screen';
import type { Pose } from './pose';
import { poseBetween } from './pose';
import type { CameraView } from './reading';
import { viewOf } from './reading';
import { groupFigures, upright } from './reference';

/** World with y up to camera with y down: the pose with the world's axes turned over. */
export const matrixOfPose = ({ turn: r, shift: t }: Pose): Affine3 =>
  [0, 1, 2].flatMap((k) => [r[3 * k]!, -r[3 * k + 1]!, -r[3 * k + 2]!, t[k]!]);

/** What a step gets of a camera reading, at the scale it works at: y up, straight pixels. Between frames it is interpolated, beyond its ends held. */
export class CameraData {
  constructor(
    private readonly camera: CameraView,
    private readonly reading: CameraReading,
    private readonly key: string,
    private readonly scale: number,
  ) {}

  toJSON(): string {
    return `${this.key} ${this.scale}`;
  }

  viewAt(time: number): View | null {
    const frames = this.camera.frames;
    if (frames.length === 0) return null;
    const t = Math.min(Math.max(time, frames[0]!), frames[frames.length - 1]!);
    let [a, b] = [Math.floor(t), Math.ceil(t)];
    while (a > frames[0]! && !this.camera.has(a)) a--;
    while (b < frames[frames.length - 1]! && !this.camera.has(b)) b++;
    const [p, q] = [this.camera.poseAt(a)!, this.camera.poseAt(b)!];
    const share = b > a ? (t - a) / (b - a) : 0;
    const focal = this.camera.focalAt(a) + share * (this.camera.focalAt(b) - this.camera.focalAt(a));
    const [x, y] = this.camera.solved.centre;
    return {
      matrix: matrixOfPose(share > 0 ? poseBetween(p, q, share) : p),
      focal: focal * this.scale,
      centre: [x * this.scale, y * this.scale],
    };
  }

  /** Frames that are solved. */
  get frames(): readonly number[] {
    return this.camera.frames;
  }

  /** The points of a group, or all, in their groups' colours. */
  cloud(group: string): Cloud {
    const colours = new Map(this.reading.groups.flatMap((g) => g.tracks.map((t) => [t, linearOf(g.colour)] as const)));
    const wanted = this.reading.groups.find((g) => g.id === group)?.tracks;
    const tracks = group === '' ? this.camera.solved.points.filter((p) => p.used).map((p) => p.track) : (wanted ?? []);
    const found = tracks.flatMap((t) => {
      const at = this.camera.point(t);
      return at ? [{ at: upright(at), colour: colours.get(t) ?? BARE }] : [];
    });
    return {
      places: Float32Array.from(found.flatMap((f) => f.at)),
      colours: Float32Array.from(found.flatMap((f) => f.colour)),
    };
  }

  /** A frame of reference at a point, `point:ID`, at the middle of a group, `group:ID`, or on its plane, `plane:ID`, y along its normal. Null where that is not there. */
  anchor(name: string): Affine3 | null {
    const [kind, id = ''] = name.split(':');
    if (kind === 'point') {
      const at = this.camera.point(id);
      return at && shifted(upright(at));
    }
    const group = this.reading.groups.find((g) => g.id === id);
    const figures = group && groupFigures(this.camera, group.tracks);
    if (!figures) return null;
    if (kind === 'group') return shifted(upright(figures.centre));
    if (!figures.plane) return null;
    let y = upright(figures.plane.normal);
    // Up, or towards where the camera was.
    const first = this.camera.poseAt(this.camera.frames[0]!);
    if (y[1] < -0.2 || (y[1] < 0.2 && first && y[2] < 0)) y = [-y[0], -y[1], -y[2]];
    const x: Vec3 = unit3(Math.abs(y[2]) > 0.99 ? [1, 0, 0] : cross3(y, [0, 0, 1]));
    const z = cross3(x, y);
    const c = upright(figures.plane.centre);
    return [0, 1, 2].flatMap((k) => [x[k]!, y[k]!, z[k]!, c[k]!]);
  }
}

/** Of points that are in no group. */
const BARE: Vec3 = [0.5, 0.5, 0.5];
const linearOf = (hex: string): Vec3 => [1, 3, 5].map((i) => SRGB.decode(parseInt(hex.slice(i, i + 2), 16) / 255)) as unknown as Vec3;

const shifted = ([x, y, z]: Vec3): Affine3 => IDENTITY_A3.map((v, i) => (i === 3 ? x : i === 7 ? y : i === 11 ? z : v));

const kept = new WeakMap<CameraReading, { view: CameraView; key: string }>();
/** The data of a camera reading; null where nothing is solved. */
export function cameraDataOf(reading: CameraReading, readings: readonly Reading[], scale: number): CameraData | null {
  let known = kept.get(reading);
  if (!known) {
    const view = viewOf(reading, readings);
    if (!view) return null;
    const told = [
      reading.placing,
      reading.frames.map((f) => [f.frame, f.matrix, f.focal]),
      reading.solved!.centre,
      reading.solved!.points,
      reading.groups,
    ];
    kept.set(reading, (known = { view, key: hashText(JSON.stringify(told)) }));
  }
  return new CameraData(known.view, reading, known.key, scale);
}
