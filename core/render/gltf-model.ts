import type { Accessor, Document, Material as GltfMaterial, Node, Primitive, Texture as GltfTexture } from '@gltf-transform/core';
import { MediaError } from '../errors';
import { leftOut, openGltf, sampled } from '../formats/gltf';
import type { Vec3 } from '../geometry/vec3';
import type { Material, Mesh } from './mesh';
import { PLAIN, flatShaded } from './mesh';
import type { Model, ModelNode, NodeMoves } from './model';
import { MOST_TRIANGLES, modelOf } from './model';
import { Texture } from './texture';

/** A picture's pixels, R, G, B, A, as light where it is colour, as they stand where it is data. */
export type ReadImage = (
  bytes: Uint8Array,
  name: string,
  colour: boolean,
) => Promise<{ width: number; height: number; data: Float32Array }>;

/**
 * A model of glTF 2.0: triangles, strips and fans, metal–rough materials with their textures, vertex colours, moving nodes. What is not drawn (bones, morphs, lines) is
 * said. Throws MediaError, or ShotError where it is too large.
 */
export async function readGltfModel(
  bytes: Uint8Array,
  file: string,
  readImage: ReadImage,
  beside?: Readonly<Record<string, Uint8Array>>,
): Promise<Model> {
  return modelOfDocument(await openGltf(bytes, file, beside), file, readImage, leftOut(bytes, file));
}

async function modelOfDocument(doc: Document, file: string, readImage: ReadImage, told: readonly string[]): Promise<Model> {
  const root = doc.getRoot();
  const count = countTriangles(doc);
  const remarks: string[] = [...told];
  const remark = (m: string): void => void (remarks.includes(m) || remarks.push(m));
  // Told before anything is made of it.
  if (count > MOST_TRIANGLES) return modelOf([emptyOf(count)], 0, [], file);
  const textures = new Map<string, Promise<Texture | undefined>>();
  const texture = (t: GltfTexture | null, colour: boolean): Promise<Texture | undefined> => {
    if (!t) return Promise.resolve(undefined);
    const name = t.getName() || t.getURI() || 'a texture';
    const key = `${root.listTextures().indexOf(t)} ${colour}`;
    let made = textures.get(key);
    if (!made)
      textures.set(key, (made = readTexture(t, name, colour, readImage).catch(() => void remark(`its texture ${name} cannot be read`))));
    return made;
  };
  const materials = new Map<GltfMaterial | null, Material>([[null, { ...PLAIN, base: [1, 1, 1, 1], metal: 1, rough: 1 }]]);
  for (const m of root.listMaterials()) materials.set(m, await materialOf(m, texture));
  const scene = root.getDefaultScene() ?? root.listScenes()[0];
  const order: { node: Node; parent: number }[] = [];
  const walk = (node: Node, parent: number): void => {
    const at = order.push({ node, parent }) - 1;
    for (const c of node.listChildren()) walk(c, at);
  };
  (scene?.listChildren() ?? root.listNodes().filter((n) => !n.getParentNode())).forEach((n) => walk(n, -1));
  const moves = movesOf(doc, remark);
  const meshes = new Map<Primitive, Mesh | null>();
  const nodes = order.map(({ node, parent }): ModelNode => {
    if (node.getSkin()) remark('its bones are not moved');
    const pieces = (node.getMesh()?.listPrimitives() ?? []).flatMap((p) => {
      if (p.listTargets().length > 0) remark('its morphs are not moved');
      let mesh = meshes.get(p);
      if (mesh === undefined) meshes.set(p, (mesh = meshOf(p, file, remark)));
      return mesh ? [{ mesh, material: materials.get(p.getMaterial())! }] : [];
    });
    const own = moves.get(node);
    return {
      name: node.getName(),
      parent,
      shift: node.getTranslation() as Vec3,
      turn: node.getRotation(),
      stretch: node.getScale() as Vec3,
      ...(own && { moves: own }),
      pieces,
    };
  });
  const times = root.listAnimations().flatMap((a) => a.listSamplers().map((s) => s.getInput()?.getMax([])[0] ?? 0));
  return modelOf(nodes, moves.size > 0 ? Math.max(0, ...times) : 0, remarks, file);
}

const countTriangles = (doc: Document): number =>
  doc
    .getRoot()
    .listNodes()
    .flatMap((n) => n.getMesh()?.listPrimitives() ?? [])
    .reduce((sum, p) => sum + Math.floor((p.getIndices() ?? p.getAttribute('POSITION'))?.getCount() ?? 0) / 3, 0);

/** Stands for a count alone. */
const emptyOf = (triangles: number): ModelNode => ({
  name: '',
  parent: -1,
  shift: [0, 0, 0],
  turn: [0, 0, 0, 1],
  stretch: [1, 1, 1],
  pieces: [
    {
      mesh: { positions: new Float32Array(0), normals: new Float32Array(0), indices: { length: 3 * Math.floor(triangles) } as never },
      material: PLAIN,
    },
  ],
});

async function readTexture(t: GltfTexture, name: string, colour: boolean, readImage: ReadImage): Promise<Texture> {
  const image = t.getImage();
  if (!image) throw new MediaError(name, 'it is missing');
  const { width, height, data } = await readImage(image, name, colour);
  return new Texture(width, height, data, true, false);
}

async function materialOf(
  m: GltfMaterial,
  texture: (t: GltfTexture | null, colour: boolean) => Promise<Texture | undefined>,
): Promise<Material> {
  const [baseMap, emissionMap, metalRoughMap, normalMap, occlusionMap] = await Promise.all([
    texture(m.getBaseColorTexture(), true),
    texture(m.getEmissiveTexture(), true),
    texture(m.getMetallicRoughnessTexture(), false),
    texture(m.getNormalTexture(), false),
    texture(m.getOcclusionTexture(), false),
  ]);
  const mode = m.getAlphaMode();
  return {
    name: m.getName(),
    base: m.getBaseColorFactor(),
    metal: m.getMetallicFactor(),
    rough: m.getRoughnessFactor(),
    emission: m.getEmissiveFactor() as Vec3,
    alpha: mode === 'MASK' ? 'cut' : mode === 'BLEND' ? 'blend' : 'opaque',
    cutoff: m.getAlphaCutoff(),
    doubleSided: m.getDoubleSided(),
    normalScale: m.getNormalScale(),
    ...(baseMap && { baseMap }),
    ...(emissionMap && { emissionMap }),
    ...(metalRoughMap && { metalRoughMap }),
    ...(normalMap && { normalMap }),
    ...(occlusionMap && { occlusionMap }),
  };
}

/** An attribute as floats: whole numbers that stand for shares become those. */
function floats(a: Accessor | null, size: number): Float32Array | undefined {
  if (!a) return undefined;
  const n = a.getCount();
  const own = a.getElementSize();
  const to = new Float32Array(n * size).fill(1);
  const raw = a.getArray();
  if (raw instanceof Float32Array && own === size) return new Float32Array(raw);
  const value: number[] = [];
  for (let i = 0; i < n; i++) {
    a.getElement(i, value);
    for (let k = 0; k < Math.min(size, own); k++) to[size * i + k] = value[k]!;
  }
  return to;
}

/** Modes of glTF: 4 triangles, 5 strip, 6 fan. */
function meshOf(p: Primitive, file: string, remark: (m: string) => void): Mesh | null {
  const mode = p.getMode();
  if (mode < 4) {
    remark('its lines and points are not drawn');
    return null;
  }
  const positions = floats(p.getAttribute('POSITION'), 3);
  if (!positions?.length) return null;
  const count = positions.length / 3;
  const given = p.getIndices()?.getArray();
  const list = given ? Uint32Array.from(given) : Uint32Array.from({ length: count }, (_, i) => i);
  if (list.some((i) => i >= count)) throw new MediaError(file, 'a triangle names a corner that is not there: the file is damaged');
  if (positions.some((v) => !Number.isFinite(v))) throw new MediaError(file, 'some of its corners are no numbers: the file is damaged');
  const indices = mode === 4 ? list.subarray(0, list.length - (list.length % 3)) : unrolled(list, mode === 6);
  const uvs = floats(p.getAttribute('TEXCOORD_0'), 2);
  const colours = floats(p.getAttribute('COLOR_0'), 4);
  const normals = floats(p.getAttribute('NORMAL'), 3);
  const rest = { positions, ...(uvs && { uvs }), ...(colours && { colours }), indices };
  return normals?.length === positions.length ? { ...rest, normals } : flatShaded(rest);
}

function unrolled(list: Uint32Array, fan: boolean): Uint32Array {
  const out: number[] = [];
  for (let i = 0; i + 2 < list.length; i++) {
    const [a, b, c] = fan ? [0, i + 1, i + 2] : i % 2 ? [i + 1, i, i + 2] : [i, i + 1, i + 2];
    out.push(list[a]!, list[b]!, list[c]!);
  }
  return Uint32Array.from(out);
}

/** The first animation's movements, by node. */
function movesOf(doc: Document, remark: (m: string) => void): Map<Node, NodeMoves> {
  const made = new Map<Node, NodeMoves>();
  const animations = doc.getRoot().listAnimations();
  if (animations.length > 1) remark(`of its ${animations.length} animations the first is played`);
  for (const c of animations[0]?.listChannels() ?? []) {
    const [node, sampler, path] = [c.getTargetNode(), c.getSampler(), c.getTargetPath()];
    const [input, output] = [sampler?.getInput(), sampler?.getOutput()];
    if (!node || !input || !output || !path || input.getCount() === 0) continue;
    if (path === 'weights') {
      remark('its morphs are not moved');
      continue;
    }
    const by = sampler!.getInterpolation();
    const at = (s: number): number[] => sampled(input, output, by, s, path === 'rotation');
    const field = path === 'translation' ? 'shift' : path === 'rotation' ? 'turn' : 'stretch';
    made.set(node, { ...made.get(node), [field]: at });
  }
  return made;
}
