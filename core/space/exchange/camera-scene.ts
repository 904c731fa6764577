import type { Mat3 } from '../../geometry/rotation';
import { SRGB } from '../../colour/transfer';
import { apply3, multiply3, quaternionOf, transpose3 } from '../../geometry/rotation';
import type { Vec3 } from '../../geometry/vec3';
import { scale3 } from '../../geometry/vec3';
import type { Pose } from '../pose';
import { eyeOf } from '../pose';
import type { Affine3 } from '../../render/affine';
import type { Mesh } from '../../render/mesh';
import type { CameraParts } from '../camera-parts';
import type { CameraView } from '../reading';
import { cardCorners } from '../cards';
import { upright } from '../reference';

/** What goes out to 3D programs: y up, z towards the camera, right-handed, in units of the world. */
export interface CameraScene {
  readonly name: string;
  readonly fps: number;
  /** Of the picture, px, and where the lens's axis meets it. */
  readonly format: { readonly width: number; readonly height: number };
  readonly centre: readonly [number, number];
  readonly frames: readonly SceneFrame[];
  readonly points: readonly { readonly name: string; readonly at: Vec3; readonly error: number }[];
  readonly groups: readonly { readonly name: string; readonly colour: string; readonly points: readonly Vec3[] }[];
  /** Corners: top left, top right, bottom right, bottom left. */
  readonly cards: readonly { readonly name: string; readonly corners: readonly [Vec3, Vec3, Vec3, Vec3] }[];
  /** Things in the shot as they stand at its first frame. */
  readonly things?: readonly SceneThing[];
}

/** A thing: pieces of triangles in the thing's own axes, or a lamp; its matrix takes them to the world. */
export interface SceneThing {
  readonly name: string;
  readonly kind: string;
  readonly matrix: Affine3;
  readonly pieces: readonly {
    readonly mesh: Pick<Mesh, 'positions' | 'normals' | 'uvs' | 'indices'>;
    readonly matrix: Affine3;
    readonly colour: Vec3;
  }[];
  readonly light?: {
    readonly kind: string;
    readonly colour: Vec3;
    readonly strength: number;
    readonly towards: Vec3;
    readonly cone: number;
  };
}

/** A camera that looks along its own −z, y up: where it is, and its axes as the columns of a turn. */
export interface SceneFrame {
  readonly frame: number;
  readonly eye: Vec3;
  readonly turn: Mat3;
  /** px */
  readonly focal: number;
}

/** Between a camera's axes with y down and z forward, and those with y up and z back; the same both ways. */
const FLIP: Mat3 = [1, 0, 0, 0, -1, 0, 0, 0, -1];

export const outOf = (pose: Pose): Pick<SceneFrame, 'eye' | 'turn'> => ({
  eye: upright(eyeOf(pose)),
  turn: multiply3(multiply3(FLIP, transpose3(pose.turn)), FLIP),
});

/** The pose of a camera that came in. */
export function poseFrom({ eye, turn }: Pick<SceneFrame, 'eye' | 'turn'>): Pose {
  const own = transpose3(multiply3(multiply3(FLIP, turn), FLIP));
  return { turn: own, shift: scale3(apply3(own, upright(eye)), -1) };
}

/** A solved camera with its points, groups and cards. */
export function sceneOf(
  camera: CameraParts & { readonly name: string; readonly reference: number },
  view: CameraView,
  fps: number,
  nameOf: (track: string) => string,
): CameraScene {
  const { solved } = view;
  return {
    name: camera.name,
    fps,
    format: solved.format,
    centre: solved.centre,
    frames: view.frames.map((frame) => ({ frame, focal: view.focalAt(frame), ...outOf(view.poseAt(frame)!) })),
    points: solved.points.flatMap((p) => {
      const at = view.point(p.track);
      return at && p.used ? [{ name: nameOf(p.track), at: upright(at), error: p.error }] : [];
    }),
    groups: camera.groups.map((g) => ({
      name: g.name,
      colour: g.colour,
      points: g.tracks.flatMap((t) => {
        const at = view.point(t);
        return at ? [upright(at)] : [];
      }),
    })),
    cards: camera.cards.flatMap((c, i) => {
      const corners = cardCorners(view, c, camera.reference);
      return corners ? [{ name: `card ${i + 1}`, corners: corners.map(upright) as unknown as readonly [Vec3, Vec3, Vec3, Vec3] }] : [];
    }),
  };
}

/** #rrggbb as it is seen, as scene-linear R, G, B. */
export function linearColour(hex: string): [number, number, number] {
  return [1, 3, 5].map((i) => SRGB.decode(parseInt(hex.slice(i, i + 2), 16) / 255)) as [number, number, number];
}

/** Turns frame by frame as unit quaternions w, x, y, z, each the shorter way from the one before. */
export function quaternionsOf(frames: readonly Pick<SceneFrame, 'turn'>[]): number[][] {
  const made: number[][] = [];
  for (const { turn } of frames) {
    const q: number[] = quaternionOf(turn);
    const before = made[made.length - 1];
    made.push(before && q.reduce((sum, v, i) => sum + v * before[i]!, 0) < 0 ? q.map((v) => -v) : q);
  }
  return made;
}
