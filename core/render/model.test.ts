import { Document, Primitive, WebIO } from '@gltf-transform/core';
import { strToU8 } from 'fflate';
import { writePng } from '../formats/codes';
import { nodeKernels } from '@/engine/node/host';
import { readModel } from '@/engine/models';
import { besideOf, packGltf } from '../formats/gltf';
import type { Vec3 } from '../geometry/vec3';
import { pointA3 } from './affine';
import type { Model } from './model';
import { nodesAt } from './model';

const TRIANGLE = Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0);

interface Made {
  doc: Document;
  buffer: ReturnType<Document['createBuffer']>;
}
const begin = (): Made => {
  const doc = new Document();
  return { doc, buffer: doc.createBuffer() };
};
const accessor = ({ doc, buffer }: Made, type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4', values: unknown) =>
  doc
    .createAccessor()
    .setType(type)
    .setArray(values as Float32Array<ArrayBuffer>)
    .setBuffer(buffer);
const triangle = (m: Made, values = TRIANGLE) => m.doc.createPrimitive().setAttribute('POSITION', accessor(m, 'VEC3', values));
const put = (m: Made, ...primitives: Primitive[]) => {
  const mesh = m.doc.createMesh('mesh');
  primitives.forEach((p) => mesh.addPrimitive(p));
  const node = m.doc.createNode('node').setMesh(mesh);
  m.doc.createScene('scene').addChild(node);
  return node;
};
const read = async (m: Made, file = 'thing.glb'): Promise<Model> =>
  readModel(await new WebIO().writeBinary(m.doc), file, await nodeKernels());
const pieces = (model: Model) => model.nodes.flatMap((n) => n.pieces);

/** The JSON of a .gltf of one triangle, its buffer as said. */
const gltf = (uri: string, change: Record<string, unknown> = {}): Uint8Array =>
  strToU8(
    JSON.stringify({
      asset: { version: '2.0' },
      scene: 0,
      scenes: [{ nodes: [0] }],
      nodes: [{ mesh: 0 }],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
      buffers: [{ uri, byteLength: 36 }],
      bufferViews: [{ buffer: 0, byteLength: 36 }],
      accessors: [{ bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] }],
      ...change,
    }),
  );
const bytes = new Uint8Array(TRIANGLE.buffer);
const inside = `data:application/octet-stream;base64,${Buffer.from(bytes).toString('base64')}`;

describe('what models come in', () => {
  test('several primitives, materials, whole-number and 32-bit indices', async () => {
    const m = begin();
    const red = m.doc.createMaterial('red').setBaseColorFactor([1, 0, 0, 0.5]).setAlphaMode('BLEND').setDoubleSided(true);
    const a = triangle(m)
      .setIndices(accessor(m, 'SCALAR', Uint16Array.of(0, 1, 2)))
      .setMaterial(red);
    const b = triangle(m).setIndices(accessor(m, 'SCALAR', Uint32Array.of(0, 2, 1)));
    put(m, a, b);
    const model = await read(m);
    expect(model.triangles).toBe(2);
    const [first, second] = pieces(model);
    expect(first!.material).toMatchObject({ name: 'red', base: [1, 0, 0, 0.5], alpha: 'blend', doubleSided: true });
    expect([...second!.mesh.indices.slice(0, 3)].length).toBe(3);
  });

  test('missing normals are those of the triangles', async () => {
    const m = begin();
    put(m, triangle(m));
    const [piece] = pieces(await read(m));
    for (let v = 0; v < 3; v++) expect([...piece!.mesh.normals.subarray(3 * v, 3 * v + 3)]).toEqual([0, 0, 1]);
  });

  test('vertex colours of bytes are shares of 1, without alpha solid', async () => {
    const m = begin();
    const colours = accessor(m, 'VEC3', Uint8Array.of(255, 0, 0, 0, 255, 0, 0, 0, 128)).setNormalized(true);
    put(m, triangle(m).setAttribute('COLOR_0', colours));
    const [piece] = pieces(await read(m));
    expect([...piece!.mesh.colours!.subarray(0, 4)]).toEqual([1, 0, 0, 1]);
    expect(piece!.mesh.colours![10]).toBeCloseTo(128 / 255, 6);
  });

  test('sparse accessors', async () => {
    const m = begin();
    const values = accessor(m, 'VEC3', Float32Array.of(...new Array<number>(27).fill(0), 5, 0, 0, 0, 5, 0, 0, 0, 5)).setSparse(true);
    put(
      m,
      m.doc
        .createPrimitive()
        .setAttribute('POSITION', values)
        .setIndices(accessor(m, 'SCALAR', Uint16Array.of(9, 10, 11))),
    );
    expect((await read(m)).box[1]).toEqual([5, 5, 5]);
  });

  test('strips and fans become triangles with the same side out', async () => {
    const square = Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0);
    const m = begin();
    put(
      m,
      triangle(m, square).setMode(Primitive.Mode.TRIANGLE_STRIP!),
      triangle(m, square).setMode(Primitive.Mode.TRIANGLE_FAN!),
      triangle(m).setMode(Primitive.Mode.LINES!),
    );
    const model = await read(m);
    expect(model.triangles).toBe(4);
    expect(model.remarks).toContain('its lines and points are not drawn');
    const [strip] = pieces(model);
    for (let v = 0; v < strip!.mesh.normals.length; v += 3) expect(strip!.mesh.normals[v + 2]).toBe(1);
  });

  test('nodes that move, hang on each other and are mirrored', async () => {
    const m = begin();
    const child = put(m, triangle(m)).setScale([-2, 1, 1]).setTranslation([0, 3, 0]);
    const scene = m.doc.getRoot().listScenes()[0]!;
    const parent = m.doc.createNode('parent').addChild(child);
    scene.addChild(parent);
    const sampler = m.doc
      .createAnimationSampler()
      .setInput(accessor(m, 'SCALAR', Float32Array.of(0, 2)))
      .setOutput(accessor(m, 'VEC3', Float32Array.of(0, 0, 0, 10, 0, 0)));
    m.doc
      .createAnimation('goes')
      .addSampler(sampler)
      .addChannel(m.doc.createAnimationChannel().setTargetNode(parent).setTargetPath('translation').setSampler(sampler));
    const model = await read(m);
    expect(model.seconds).toBe(2);
    const at = (s: number, p: Vec3): Vec3 => pointA3(nodesAt(model, s)[1]!, p);
    expect(at(0, [1, 0, 0])).toEqual([-2, 3, 0]);
    expect(at(1, [1, 0, 0])[0]).toBeCloseTo(3, 5);
    expect(at(9, [1, 0, 0])[0]).toBeCloseTo(8, 5);
  });

  test('textures: colour as light, roughness as it stands; one that is missing is told, the rest is drawn', async () => {
    const grey = (v: number): Uint8Array => writePng({ width: 2, height: 2, bits: 8, channels: 3, data: new Uint8Array(12).fill(v) });
    const m = begin();
    const image = (name: string, v: number) => m.doc.createTexture(name).setImage(grey(v)).setMimeType('image/png');
    const material = m.doc
      .createMaterial('m')
      .setBaseColorTexture(image('colour', 188))
      .setMetallicRoughnessTexture(image('rough', 128))
      .setNormalTexture(
        m.doc
          .createTexture('bumps')
          .setImage(Uint8Array.of(1, 2, 3))
          .setMimeType('image/png'),
      );
    put(
      m,
      triangle(m)
        .setAttribute('TEXCOORD_0', accessor(m, 'VEC2', Float32Array.of(0, 0, 1, 0, 0, 1)))
        .setMaterial(material),
    );
    const model = await read(m);
    const [piece] = pieces(model);
    expect(piece!.material.baseMap!.mean[0]).toBeCloseTo(0.503, 2);
    expect(piece!.material.metalRoughMap!.mean[1]).toBeCloseTo(128 / 255, 4);
    expect(piece!.material.normalMap).toBeUndefined();
    expect(model.remarks).toContain('its texture bumps cannot be read');
  });

  test('.gltf with its numbers inside, or beside it; packed into one .glb', async () => {
    const kernels = await nodeKernels();
    expect((await readModel(gltf(inside), 'a.gltf', kernels)).triangles).toBe(1);
    expect((await readModel(gltf('parts/a.bin'), 'a.gltf', kernels, { 'a.bin': bytes })).triangles).toBe(1);
    await expect(packGltf(gltf('a.bin'), 'a.gltf', {})).rejects.toThrow('it needs a.bin beside it');
    expect(besideOf(gltf('parts/a.bin'), 'a.gltf')).toEqual(['a.bin']);
    const packed = await packGltf(gltf('parts/a.bin'), 'a.gltf', { 'a.bin': bytes });
    expect((await readModel(packed.bytes, 'a.glb', kernels)).triangles).toBe(1);
  });

  test('.obj: any number of corners, numbers from the end, texture rows from the bottom', async () => {
    const text = 'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 1\nusemtl wood\nf 1/1 2/1 3/2 4/2\nusemtl tin\nf -4 -3 -2\n';
    const model = await readModel(strToU8(text), 'a.obj', await nodeKernels());
    expect(model.triangles).toBe(3);
    expect(pieces(model).map((p) => p.material.name)).toEqual(['wood', 'tin']);
    expect([...pieces(model)[0]!.mesh.uvs!.subarray(0, 2)]).toEqual([0, 1]);
    expect([...pieces(model)[0]!.mesh.normals.subarray(0, 3)]).toEqual([0, 0, 1]);
  });
});

test('what a model uses that is not drawn is told, and it is drawn without', async () => {
  const given = gltf(inside, { extensionsUsed: ['KHR_materials_unlit', 'KHR_mesh_quantization', 'KHR_materials_sheen'] });
  const { remarks } = await readModel(given, 'a.gltf', await nodeKernels());
  expect(remarks).toEqual(['its unlit materials are lit', 'what KHR_materials_sheen says is left out']);
});

describe('what is refused, in words', () => {
  const refused = async (given: Uint8Array, file: string): Promise<string> =>
    readModel(given, file, await nodeKernels()).then(
      () => 'read',
      (e: Error) => e.message,
    );
  test.each([
    ['compressed geometry', gltf(inside, { extensionsRequired: ['KHR_draco_mesh_compression'] }), 'a.gltf', 'its geometry is compressed'],
    [
      'an extension that is not known',
      gltf(inside, { extensionsRequired: ['XX_new_thing'] }),
      'a.gltf',
      'cannot be read without XX_new_thing',
    ],
    ['a ring of nodes', gltf(inside, { nodes: [{ mesh: 0, children: [1] }, { children: [2] }, { children: [1] }] }), 'a.gltf', 'in a ring'],
    ['a buffer that is not there', gltf('a.bin'), 'a.gltf', 'lie in another file, a.bin'],
    ['an older version', gltf(inside, { asset: { version: '1.0' } }), 'a.gltf', 'version 2 is read'],
    ['text that is cut', strToU8('{ "asset": '), 'a.gltf', 'its text is damaged'],
    ['a .glb that is none', strToU8('something else entirely, long enough'), 'a.glb', 'cut short or of another kind'],
    ['an .obj with a corner too many', strToU8('v 0 0 0\nf 1 2 3\n'), 'a.obj', 'line 2: there is no corner 2'],
    ['an .obj without faces', strToU8('v 0 0 0\n'), 'a.obj', 'holds no triangles'],
  ])('%s', async (_, given, file, words) => expect(await refused(given, file)).toContain(words));

  test('a .glb cut anywhere is refused or read, never worse', async () => {
    const m = begin();
    put(m, triangle(m));
    const whole = await new WebIO().writeBinary(m.doc);
    for (let n = 0; n < whole.length; n += 37) expect(await refused(whole.slice(0, n), 'a.glb')).not.toBe('read');
  });

  test('five million triangles are counted before they are made', async () => {
    const m = begin();
    const many = accessor(m, 'SCALAR', new Uint32Array(1_500_000));
    const mesh = m.doc.createMesh('mesh').addPrimitive(triangle(m).setIndices(many));
    const scene = m.doc.createScene('scene');
    for (let i = 0; i < 10; i++) scene.addChild(m.doc.createNode(`n${i}`).setMesh(mesh));
    const started = process.memoryUsage().arrayBuffers;
    expect(await refused(await new WebIO().writeBinary(m.doc), 'big.glb')).toContain(
      '5,000,000 triangles, and 2,000,000 are drawn at most',
    );
    expect(process.memoryUsage().arrayBuffers - started).toBeLessThan(200e6);
  });

  test('indices beyond the corners', async () => {
    const m = begin();
    put(m, triangle(m).setIndices(accessor(m, 'SCALAR', Uint16Array.of(0, 1, 7))));
    await expect(read(m)).rejects.toThrow('names a corner that is not there');
  });
});
