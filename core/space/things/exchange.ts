import { ShotError } from '../../errors';
import type { Mat3 } from '../../geometry/rotation';
import type { Vec3 } from '../../geometry/vec3';
import { unit3 } from '../../geometry/vec3';
import type { Affine3 } from '../../render/affine';
import { IDENTITY_A3, placedA3, quaternionOfDegrees } from '../../render/affine';
import { backTo } from '../../render/render';
import type { View } from '../../render/screen';
import { ballMesh, boxMesh, cardMesh } from '../../render/shapes';
import type { CameraScene, SceneFrame, SceneThing } from '../exchange/camera-scene';
import type { Thing } from './params';

/** Where a camera is and how it stands, for other programs: right, up and back as the columns of a turn. */
export function frameOfView(frame: number, v: View): SceneFrame {
  const m = v.matrix;
  const turn = [0, 1, 2].flatMap((c) => [m[c]!, -m[4 + c]!, -m[8 + c]!]) as unknown as Mat3;
  return { frame, eye: backTo(v, 0, 0, 0), turn, focal: v.focal };
}

/** A model's pieces, as they are looked at. */
export type ModelPieces = SceneThing['pieces'];

/** A thing with its triangles, or as a lamp; null of what has neither. */
export function exportedThing(
  thing: Thing,
  place: Affine3,
  aspect: number,
  world: { at: Vec3; aim: Vec3 },
  model: ModelPieces | null,
): SceneThing | null {
  const one = (mesh: ModelPieces[number]['mesh'], matrix: Affine3 = IDENTITY_A3): SceneThing => ({
    name: thing.name,
    kind: thing.what,
    matrix: place,
    pieces: [{ mesh, matrix, colour: thing.tint }],
  });
  switch (thing.what) {
    case 'card':
      return one(thing.bend === 0 ? cardMesh(aspect, 1, 1, 1) : cardMesh(aspect, 1, thing.cells, 1, thing.bend));
    case 'ball':
      return one(ballMesh(thing.inside, 48, 24));
    case 'box':
      return one(boxMesh());
    case 'catcher':
      return one(cardMesh(thing.wide, thing.wide, 1, 1), placedA3([0, 0, 0], quaternionOfDegrees([-90, 0, 0]), [1, 1, 1]));
    case 'model':
      return model && { name: thing.name, kind: 'model', matrix: place, pieces: model };
    case 'light': {
      const { at, aim } = world;
      const towards = unit3([at[0] - aim[0], at[1] - aim[1], at[2] - aim[2]]);
      return {
        name: thing.name,
        kind: 'light',
        matrix: lookingAlong(at, towards),
        pieces: [],
        light: { kind: thing.light, colour: thing.tint, strength: thing.strength, towards, cone: thing.cone },
      };
    }
    default:
      return { name: thing.name, kind: thing.what, matrix: place, pieces: [] };
  }
}

/** A lamp shines along its own −z. */
function lookingAlong(at: Vec3, back: Vec3): Affine3 {
  const side: Vec3 = Math.abs(back[1]) > 0.99 ? [1, 0, 0] : unit3([back[2], 0, -back[0]]);
  const up: Vec3 = [back[1] * side[2] - back[2] * side[1], back[2] * side[0] - back[0] * side[2], back[0] * side[1] - back[1] * side[0]];
  return [0, 1, 2].flatMap((k) => [side[k]!, up[k]!, back[k]!, at[k]!]);
}

/** A scene whose camera is set in it, frame by frame. Throws ShotError where it has none. */
export function cameraSceneOf(
  name: string,
  fps: number,
  format: { readonly width: number; readonly height: number },
  range: { readonly first: number; readonly last: number },
  viewAt: (frame: number) => View | null,
  things: NonNullable<CameraScene['things']>,
): CameraScene {
  const frames: SceneFrame[] = [];
  let centre: readonly [number, number] = [format.width / 2, format.height / 2];
  for (let f = range.first; f <= range.last; f++) {
    const v = viewAt(f);
    if (!v) continue;
    frames.push(frameOfView(f, v));
    centre = v.centre;
  }
  if (frames.length === 0) throw new ShotError('the scene has no camera yet: choose a solved one, or set it here');
  return { name, fps, format, centre, frames, points: [], groups: [], cards: [], things };
}
