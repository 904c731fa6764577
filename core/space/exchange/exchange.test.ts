import { WebIO } from '@gltf-transform/core';
import { validateBytes } from 'gltf-validator';
import { AnimationMixer, Vector3 } from 'three';
import type { AnimationClip, Group, PerspectiveCamera, Points } from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { USDLoader } from 'three/examples/jsm/loaders/USDLoader.js';
import { cardCorners } from '../cards';
import type { CameraParts } from '../camera-parts';
import { NEW_CAMERA } from '../camera-parts';
import { poseOfMatrix } from '../pose';
import { placingFor, viewOf } from '../reading';
import { alongAxis, nudged, onGround, onLevelLines, onUprightLines, scaledTo, upright } from '../reference';
import { solvedCamera } from '../solve';
import { CLIP_FORMAT, makeClip } from '../testing';
import { readCameraFile } from './camera-file';
import type { CameraScene } from './camera-scene';
import { outOf, poseFrom, sceneOf } from './camera-scene';
import { writeGlb } from './gltf';
import { writeUsda } from './usda';

const clip = makeClip('dolly', { frames: 12, tracks: 40, hand: true, noise: 0.05 });
const made = solvedCamera({ tracks: clip.tracks, range: clip.frames, format: CLIP_FORMAT, focal: 780, bend: false });
const { frames, ...rest } = made;
const solved = { ...NEW_CAMERA, frames, solved: { ...rest, format: CLIP_FORMAT } } as CameraParts;
const ids = made.points.filter((p) => p.used).map((p) => p.track);
const camera = {
  ...solved,
  name: 'Dolly',
  reference: 1,
  placing: placingFor(made, NEW_CAMERA),
  groups: [{ id: 'g', name: 'On the crate', colour: '#ff8800', mark: 'dot', tracks: ids.slice(0, 3) }],
  cards: [{ id: 'c', track: ids[4]!, lies: 'facing', size: 0.5 }],
} as CameraParts & { name: string; reference: number };
const view = viewOf(camera, [])!;
const scene = sceneOf(camera, view, 24, (t) => t);

/** Where a camera of three.js shows a place at a frame, px. */
function shownBy(root: Group, clips: AnimationClip[], frame: number, at: readonly number[], first = 0): [number, number] {
  let own: PerspectiveCamera | undefined;
  root.traverse((o) => {
    if ((o as PerspectiveCamera).isPerspectiveCamera) own = o as PerspectiveCamera;
  });
  const mixer = new AnimationMixer(root);
  clips.forEach((c) => mixer.clipAction(c).play());
  // A moment inside its last key, where the action has not begun anew.
  const time = first + (frame - scene.frames[0]!.frame) / 24;
  mixer.setTime(Math.min(time, Math.max(...clips.map((c) => c.duration)) - 1e-7));
  root.updateMatrixWorld(true);
  own!.updateProjectionMatrix();
  const p = new Vector3(at[0], at[1], at[2]).project(own!);
  return [((p.x + 1) / 2) * CLIP_FORMAT.width, ((1 - p.y) / 2) * CLIP_FORMAT.height];
}

const pointsIn = (root: Group): number[][] => {
  const all: number[][] = [];
  root.traverse((o) => {
    const position = (o as Points).isPoints ? (o as Points).geometry.getAttribute('position') : undefined;
    for (let i = 0; position && i < position.count; i++) all.push([position.getX(i), position.getY(i), position.getZ(i)]);
  });
  return all;
};

/** Every point of the scene at some frames, against where the camera itself sees it. */
function worst(shown: (frame: number, at: readonly number[]) => [number, number], of: CameraScene = scene): number {
  let most = 0;
  for (const f of [1, 5, 12]) {
    for (const p of of.points) {
      const own = view.project(f, upright(p.at))!;
      const [x, y] = shown(f, p.at);
      most = Math.max(most, Math.hypot(x - own[0], y - own[1]));
    }
  }
  return most;
}

describe('.glb', () => {
  it('passes the validator without a word, and holds camera, way, points, group and card', async () => {
    const bytes = await writeGlb(scene);
    const report = await validateBytes(bytes);
    expect([report.issues.numErrors, report.issues.numWarnings]).toEqual([0, 0]);
    const doc = await new WebIO().readBinary(bytes);
    expect(
      doc
        .getRoot()
        .listNodes()
        .map((n) => n.getName()),
    ).toEqual(['Dolly', 'points', 'On the crate', 'card 1']);
  });

  it('comes back the same through three’s loader: points within a hundredth of a pixel', async () => {
    const bytes = await writeGlb(scene);
    const gltf = await new GLTFLoader().parseAsync(
      bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer,
      '',
    );
    expect(worst((f, at) => shownBy(gltf.scene, gltf.animations, f, at))).toBeLessThan(0.01);
    expect(pointsIn(gltf.scene)).toHaveLength(scene.points.length + 3);
  });

  it('comes back as a camera, at another first frame', async () => {
    const { parts, name } = await readCameraFile(await writeGlb(scene), 'dolly.glb', { fps: 24, start: 101, format: CLIP_FORMAT });
    expect(name).toBe('Dolly');
    expect(parts.frames.map((f) => f.frame)).toEqual(scene.frames.map((_, i) => 101 + i));
    parts.frames.forEach((f, i) => {
      const own = view.poseAt(i + 1)!;
      expect(f.focal).toBeCloseTo(780, 3);
      poseOfMatrix(f.matrix).shift.forEach((v, k) => expect(v).toBeCloseTo(own.shift[k]!, 4));
    });
  });

  it('keeps the focal lengths of a zoom in its extras', async () => {
    const zoom = { ...scene, frames: scene.frames.map((f, i) => ({ ...f, focal: 700 + 10 * i })) };
    const { parts } = await readCameraFile(await writeGlb(zoom), 'zoom.glb', { fps: 24, start: 1, format: CLIP_FORMAT });
    expect(parts.frames.map((f) => Math.round(f.focal))).toEqual(zoom.frames.map((f) => f.focal));
    expect(parts.solved!.zooms).toBe(true);
  });
});

describe('.usda', () => {
  it('comes back the same through three’s reader: points within a hundredth of a pixel', () => {
    const root = new USDLoader().parse(writeUsda(scene)) as Group;
    expect(worst((f, at) => shownBy(root, root.animations, f, at, 1 / 24))).toBeLessThan(0.01);
  });

  it('comes back as a camera, a zoom and a lens off the middle too', async () => {
    const zoom = { ...scene, frames: scene.frames.map((f, i) => ({ ...f, focal: 700 + 10 * i })) };
    const text = writeUsda({ ...zoom, centre: [484, 266] });
    expect(text).toMatch(/horizontalApertureOffset = -0\.15/);
    const { parts } = await readCameraFile(new TextEncoder().encode(text), 'dolly.usda', { fps: 24, start: 1, format: CLIP_FORMAT });
    parts.frames.forEach((f, i) => {
      expect(f.focal).toBeCloseTo(700 + 10 * i, 6);
      poseOfMatrix(f.matrix).shift.forEach((v, k) => expect(v).toBeCloseTo(view.poseAt(i + 1)!.shift[k]!, 6));
    });
  });

  it('reads what others write: z up, centimetres, turns in degrees, a camera in a group that moves', async () => {
    const text = `#usda 1.0
( upAxis = "Z"
  metersPerUnit = 0.01 )
def Xform "rig" ( kind = "group" )
{
    double3 xformOp:translate.timeSamples = { 1: (0, 0, 150), 3: (200, 0, 150) }
    uniform token[] xformOpOrder = ["xformOp:translate"]
    def Camera "eye" {
        float focalLength = 25
        float verticalAperture = 20.25
        float3 xformOp:rotateXYZ = (90, 0, 0)
        uniform token[] xformOpOrder = ["xformOp:rotateXYZ"]
    }
}`;
    const { parts } = await readCameraFile(new TextEncoder().encode(text), 'rig.usda', { fps: 24, start: 1, format: CLIP_FORMAT });
    expect(parts.frames).toHaveLength(3);
    const { turn, shift } = poseOfMatrix(parts.frames[1]!.matrix);
    // It stands a metre and a half up and has gone a metre, and looks level, into the picture.
    [1, 0, 0, 0, 1, 0, 0, 0, 1].forEach((v, i) => expect(turn[i]).toBeCloseTo(v, 9));
    [-1, 1.5, 0].forEach((v, i) => expect(shift[i]).toBeCloseTo(v, 9));
    expect(parts.frames[0]!.focal).toBeCloseTo((25 / 20.25) * 540, 6);
  });
});

it.each([
  ['x.glb', 'nonsense', /x\.glb: it is no glTF 2\.0 file/],
  ['x.gltf', '{"asset":{"version":"2.0"},"buffers":[{"byteLength":4,"uri":"x.bin"}]}', /lie in another file, x\.bin: save it as \.glb/],
  ['x.gltf', '{"asset":{"version":"2.0"}}', /there is no perspective camera in it/],
  ['x.usda', 'def Camera', /does not begin with #usda/],
  ['x.usdc', 'PXR-USDC…', /save it as text \(\.usda\)/],
  ['x.usda', '#usda 1.0\ndef Xform "a" {', /no USD text layer that can be read/],
  ['x.usda', '#usda 1.0\ndef Xform "a" {}', /there is no camera in it/],
  ['x.abc', '', /none of \.glb, \.gltf and \.usda/],
])('%s that is not what it should be is told', async (file, text, told) => {
  await expect(readCameraFile(new TextEncoder().encode(text), file, { fps: 24, start: 1, format: CLIP_FORMAT })).rejects.toThrow(told);
});

describe('the frame of reference', () => {
  it('a pose goes out and comes back', () => {
    const pose = view.poseAt(3)!;
    const back = poseFrom(outOf(pose));
    [...pose.turn, ...pose.shift].forEach((v, i) => expect([...back.turn, ...back.shift][i]).toBeCloseTo(v, 12));
  });

  it('ground through points lies at height 0, the camera above it; a distance becomes what it is in truth; the picture does not change', () => {
    const floor = clip.tracks.filter((_, i) => Math.abs(clip.points[i]![1]) < 1e-9).map((t) => t.id);
    const before = ids.map((t) => view.project(5, view.point(t)!)!);
    let own = viewOf({ ...camera, placing: onGround(view, floor, 5) }, [])!;
    floor.forEach((t) => expect(Math.abs(own.point(t)![1])).toBeLessThan(0.1));
    expect(upright(outOf(own.poseAt(5)!).eye as [number, number, number])[1]).toBeLessThan(0);
    own = viewOf({ ...camera, placing: scaledTo(own, [ids[0]!, ids[1]!], 2.5) }, [])!;
    expect(Math.hypot(...own.point(ids[0]!)!.map((v, i) => v - own.point(ids[1]!)![i]!))).toBeCloseTo(2.5, 9);
    ids.forEach((t, i) =>
      own
        .project(5, own.point(t)!)!
        .slice(0, 2)
        .forEach((v, k) => expect(v).toBeCloseTo(before[i]![k]!, 6)),
    );
  });

  it('lines tell what is level, or what is upright, two points each', () => {
    const way = (placing: CameraParts['placing'], a: string, b: string): number[] => {
      const own = viewOf({ ...camera, placing }, [])!;
      return own.point(b)!.map((v, i) => v - own.point(a)![i]!);
    };
    const [a, b, c, d] = [ids[0]!, ids[7]!, ids[3]!, ids[11]!];
    const level = onLevelLines(view, [a, b, c, d], 5);
    expect(way(level, a, b)[1]).toBeCloseTo(0, 9);
    expect(way(level, c, d)[1]).toBeCloseTo(0, 9);
    const lowest = Math.max(...[a, b, c, d].map((t) => viewOf({ ...camera, placing: level }, [])!.point(t)![1]));
    expect(lowest).toBeCloseTo(0, 9);
    const stands = way(onUprightLines(view, [a, b], 5), a, b);
    expect(Math.hypot(stands[0]!, stands[2]!)).toBeLessThan(1e-9);
    expect(() => onLevelLines(view, [a, b, a, b], 5)).toThrow('all run the same way');
    expect(() => onLevelLines(view, [a, b], 5)).toThrow('needs 4 points');
  });

  it('two points tell an axis, and numbers move and turn the world as they say, y up', () => {
    const [a, b] = [ids[0]!, ids[1]!];
    const way = (placing: CameraParts['placing']): number[] => {
      const own = viewOf({ ...camera, placing }, [])!;
      return upright(own.point(b)!.map((v, i) => v - own.point(a)![i]!) as unknown as [number, number, number]) as unknown as number[];
    };
    const along = way(alongAxis(view, [a, b], 'x'));
    expect(along[0]).toBeGreaterThan(0);
    expect(along[2]).toBeCloseTo(0, 9);
    const into = way(alongAxis(view, [a, b], 'z'));
    expect(into[2]).toBeLessThan(0);
    expect(into[0]).toBeCloseTo(0, 9);
    const at = (placing: CameraParts['placing']): readonly number[] => upright(viewOf({ ...camera, placing }, [])!.point(a)!);
    const [x, y, z] = at(camera.placing) as [number, number, number];
    at(nudged(camera.placing, [1, 2, 3], [0, 0, 0])).forEach((v, i) => expect(v).toBeCloseTo([x + 1, y + 2, z + 3][i]!, 9));
    // A quarter turn about the upright takes +z to +x.
    at(nudged(camera.placing, [0, 0, 0], [0, 90, 0])).forEach((v, i) => expect(v).toBeCloseTo([z, y, -x][i]!, 9));
    at(nudged(camera.placing, [0, 0, 0], [90, 0, 0])).forEach((v, i) => expect(v).toBeCloseTo([x, -z, y][i]!, 9));
    at(nudged(camera.placing, [0, 0, 0], [0, 0, 90])).forEach((v, i) => expect(v).toBeCloseTo([-y, x, z][i]!, 9));
  });

  it('a card keeps its size and stands at its point', () => {
    const corners = cardCorners(view, camera.cards[0]!, 1)!;
    expect(Math.hypot(...corners[0].map((v, i) => v - corners[1][i]!))).toBeCloseTo(0.5, 9);
    expect(Math.hypot(...view.point(ids[4]!)!.map((v, i) => v - (corners[0][i]! + corners[2][i]!) / 2))).toBeCloseTo(0, 9);
  });
});
