import type { Accessor, Node as GltfNode, mat4 } from '@gltf-transform/core';
import { Document, Primitive, WebIO } from '@gltf-transform/core';
import type { Light } from '@gltf-transform/extensions';
import { KHRLightsPunctual } from '@gltf-transform/extensions';
import { MediaError } from '../../errors';
import { openGltf, sampled } from '../../formats/gltf';
import { apply3, multiply3, turnOfQuaternion } from '../../geometry/rotation';
import type { Vec3 } from '../../geometry/vec3';
import { along3 } from '../../geometry/vec3';
import type { Affine3 } from '../../render/affine';
import type { CameraScene, SceneFrame, SceneThing } from './camera-scene';
import { linearColour, quaternionsOf } from './camera-scene';

/** Width of the film that is written down for programs that ask, mm: only its ratio to the focal length counts. */
export const FILM_WIDTH = 36;

/**
 * A solved camera as glTF 2.0 (.glb): a node with a perspective camera and its way, a mesh of points, one a group, and cards. Of a
 * zoom glTF knows one focal length only: all of them, frame by frame, with the film back and the middle of the picture, stand in the camera's extras.
 */
export async function writeGlb(scene: CameraScene): Promise<Uint8Array> {
  const doc = new Document();
  doc.getRoot().getAsset().generator = 'Ostracon';
  const buffer = doc.createBuffer();
  const root = doc.createScene(scene.name);
  const { width, height } = scene.format;
  const first = scene.frames[0]!.frame;
  const focal = scene.frames.reduce((s, f) => s + f.focal, 0) / scene.frames.length;
  const camera = doc
    .createCamera(scene.name)
    .setType('perspective')
    .setYFov(2 * Math.atan(height / 2 / focal))
    .setAspectRatio(width / height)
    .setZNear(0.01);
  camera.setExtras({
    frames: { first, last: scene.frames[scene.frames.length - 1]!.frame, fps: scene.fps },
    focalPixels: scene.frames.map((f) => f.focal),
    focalMillimetres: scene.frames.map((f) => (f.focal * FILM_WIDTH) / width),
    filmBackMillimetres: [FILM_WIDTH, (FILM_WIDTH * height) / width],
    pictureMiddle: scene.centre,
    format: [width, height],
  });
  const node = doc.createNode(scene.name).setCamera(camera);
  root.addChild(node);
  const accessor = (type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4', values: Float32Array | Uint16Array): Accessor =>
    doc
      .createAccessor()
      .setType(type)
      .setArray(values as Float32Array<ArrayBuffer>)
      .setBuffer(buffer);
  const turns = quaternionsOf(scene.frames).flatMap(([w, x, y, z]) => [x!, y!, z!, w!]);
  const eyes = scene.frames.flatMap((f) => [...f.eye]);
  node.setTranslation(eyes.slice(0, 3) as [number, number, number]).setRotation(turns.slice(0, 4) as [number, number, number, number]);
  if (scene.frames.length > 1) {
    const times = accessor(
      'SCALAR',
      Float32Array.from(scene.frames, (f) => (f.frame - first) / scene.fps),
    );
    const animation = doc.createAnimation(`${scene.name} moves`);
    for (const [path, output] of [
      ['translation', accessor('VEC3', Float32Array.from(eyes))],
      ['rotation', accessor('VEC4', Float32Array.from(turns))],
    ] as const) {
      const sampler = doc.createAnimationSampler().setInput(times).setOutput(output).setInterpolation('LINEAR');
      animation.addSampler(sampler).addChannel(doc.createAnimationChannel().setTargetNode(node).setTargetPath(path).setSampler(sampler));
    }
  }
  const points = (name: string, list: readonly Vec3[], colour: string, extras: Record<string, unknown>): void => {
    if (list.length === 0) return;
    const material = doc
      .createMaterial(name)
      .setBaseColorFactor([...linearColour(colour), 1])
      .setRoughnessFactor(1)
      .setMetallicFactor(0);
    const primitive = doc
      .createPrimitive()
      .setMode(Primitive.Mode.POINTS!)
      .setAttribute('POSITION', accessor('VEC3', Float32Array.from(list.flatMap((p) => [...p]))))
      .setMaterial(material);
    root.addChild(doc.createNode(name).setMesh(doc.createMesh(name).addPrimitive(primitive)).setExtras(extras));
  };
  points(
    'points',
    scene.points.map((p) => p.at),
    '#79b0a8',
    { names: scene.points.map((p) => p.name), errors: scene.points.map((p) => p.error) },
  );
  for (const g of scene.groups) points(g.name, g.points, g.colour, { group: true });
  const cardMaterial = doc.createMaterial('card').setBaseColorFactor([0.8, 0.8, 0.8, 1]).setDoubleSided(true).setMetallicFactor(0);
  for (const card of scene.cards) {
    const primitive = doc
      .createPrimitive()
      .setAttribute('POSITION', accessor('VEC3', Float32Array.from(card.corners.flatMap((p) => [...p]))))
      .setAttribute('TEXCOORD_0', accessor('VEC2', Float32Array.of(0, 0, 1, 0, 1, 1, 0, 1)))
      .setIndices(accessor('SCALAR', Uint16Array.of(0, 3, 2, 0, 2, 1)))
      .setMaterial(cardMaterial);
    root.addChild(doc.createNode(card.name).setMesh(doc.createMesh(card.name).addPrimitive(primitive)));
  }
  const lamps = doc.createExtension(KHRLightsPunctual);
  if (!scene.things?.some((t) => t.light && LAMPS[t.light.kind])) lamps.dispose();
  for (const t of scene.things ?? []) {
    const own = doc
      .createNode(t.name)
      .setMatrix(columnsOf(t.matrix))
      .setExtras({ kind: t.kind, ...(t.light && { light: t.light }) });
    const lamp = t.light && lampOf(lamps, t.name, t.light);
    if (lamp) own.setExtension('KHR_lights_punctual', lamp);
    t.pieces.forEach(({ mesh, matrix, colour }, i) => {
      const material = doc
        .createMaterial(`${t.name} ${i + 1}`)
        .setBaseColorFactor([...colour, 1])
        .setMetallicFactor(0)
        .setRoughnessFactor(0.6)
        .setDoubleSided(t.kind === 'card' || t.kind === 'catcher');
      const primitive = doc
        .createPrimitive()
        .setAttribute('POSITION', accessor('VEC3', mesh.positions))
        .setAttribute('NORMAL', accessor('VEC3', mesh.normals))
        .setIndices(doc.createAccessor().setType('SCALAR').setArray(Uint32Array.from(mesh.indices)).setBuffer(buffer))
        .setMaterial(material);
      if (mesh.uvs) primitive.setAttribute('TEXCOORD_0', accessor('VEC2', mesh.uvs));
      own.addChild(
        doc
          .createNode(`${t.name} ${i + 1}`)
          .setMatrix(columnsOf(matrix))
          .setMesh(doc.createMesh(t.name).addPrimitive(primitive)),
      );
    });
    root.addChild(own);
  }
  return new WebIO().registerExtensions([KHRLightsPunctual]).writeBinary(doc);
}

/** What the lamps of a scene are called in KHR_lights_punctual; light from all around has no name there, and stands in the extras alone. */
const LAMPS: Readonly<Record<string, 'directional' | 'point' | 'spot' | undefined>> = { sun: 'directional', point: 'point', spot: 'spot' };

/**
 * A lamp of KHR_lights_punctual, which shines along its node's −z as ours do. A white matt surface sends back 1/π of what falls on it: so π times as many
 * lux, or candela, light it to 1.
 */
function lampOf(lamps: KHRLightsPunctual, name: string, light: NonNullable<SceneThing['light']>): Light | null {
  const type = LAMPS[light.kind];
  if (!type) return null;
  const lamp = lamps
    .createLight(name)
    .setType(type)
    .setColor([...light.colour])
    .setIntensity(Math.PI * light.strength);
  const half = Math.min(Math.PI / 2, (light.cone / 2) * (Math.PI / 180));
  return type === 'spot' ? lamp.setOuterConeAngle(half).setInnerConeAngle(0.85 * half) : lamp;
}

/** A matrix as glTF has it, column by column. */
const columnsOf = (m: Affine3): mat4 => [0, 1, 2, 3].flatMap((c) => [m[c]!, m[4 + c]!, m[8 + c]!, c === 3 ? 1 : 0]) as unknown as mat4;

/** A camera that was read: its way, and the height of the picture over the focal length. */
export interface ReadCamera {
  readonly name: string;
  readonly frames: readonly (Pick<SceneFrame, 'frame' | 'eye' | 'turn'> & {
    /** Focal length in heights of the picture. */ readonly focal: number;
  })[];
}

/** The first camera of a glTF file, frame by frame; its first moment is frame `start`. Throws MediaError. */
export async function readGltfCamera(bytes: Uint8Array, file: string, fps: number, start: number): Promise<ReadCamera> {
  const doc = await openGltf(bytes, file);
  const node = doc
    .getRoot()
    .listNodes()
    .find((n) => n.getCamera()?.getType() === 'perspective');
  if (!node) throw new MediaError(file, 'there is no perspective camera in it');
  const chain: GltfNode[] = [];
  for (let n: GltfNode | null = node; n; n = n.getParentNode()) chain.unshift(n);
  const channels = doc
    .getRoot()
    .listAnimations()
    .flatMap((a) => a.listChannels())
    .filter((c) => chain.includes(c.getTargetNode()!) && c.getSampler());
  const times = channels.flatMap((c) => [c.getSampler()!.getInput()!.getMax([])[0]!, c.getSampler()!.getInput()!.getMin([])[0]!]);
  const [from, to] = times.length ? [Math.min(...times), Math.max(...times)] : [0, 0];
  const count = Math.round((to - from) * fps) + 1;
  const camera = node.getCamera()!;
  const zoom = camera.getExtras() as { focalPixels?: number[]; format?: number[] };
  const usual = 0.5 / Math.tan(camera.getYFov() / 2);
  return {
    name: node.getName() || camera.getName() || 'Camera',
    frames: Array.from({ length: Math.min(count, 20_000) }, (_, i) => {
      const time = from + i / fps;
      let pose = { turn: [1, 0, 0, 0, 1, 0, 0, 0, 1] as SceneFrame['turn'], eye: [0, 0, 0] as Vec3, scale: 1 };
      for (const n of chain) {
        const value = (path: string, usually: readonly number[]): readonly number[] => {
          const c = channels.find((x) => x.getTargetNode() === n && x.getTargetPath() === path);
          return c
            ? sampled(
                c.getSampler()!.getInput()!,
                c.getSampler()!.getOutput()!,
                c.getSampler()!.getInterpolation(),
                time,
                path === 'rotation',
              )
            : usually;
        };
        const t = value('translation', n.getTranslation()) as unknown as Vec3;
        const [x, y, z, w] = value('rotation', n.getRotation()) as [number, number, number, number];
        const [s] = value('scale', n.getScale()) as [number];
        pose = {
          eye: along3(pose.eye, apply3(pose.turn, t), pose.scale),
          turn: multiply3(pose.turn, turnOfQuaternion([w, x, y, z])),
          scale: pose.scale * s,
        };
      }
      const own = zoom.focalPixels?.[i];
      return { frame: start + i, eye: pose.eye, turn: pose.turn, focal: own && zoom.format ? own / zoom.format[1]! : usual };
    }),
  };
}
