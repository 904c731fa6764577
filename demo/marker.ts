import { Document, WebIO } from '@gltf-transform/core';
import { writePng } from '@/core/formats';
import { SRGB } from '@/core/colour';
import { fractal, valueNoise } from './noise';

/** The brass marker of the slipway, 0.9 m high: a turned post with a ball on a stepped foot. Metres, y up, standing on the ground. */

/** Radius and height of the turned outline from the foot up; a number twice is a sharp edge. */
const OUTLINE: readonly (readonly [radius: number, height: number])[] = [
  [0, 0],
  [0.24, 0],
  [0.24, 0],
  [0.24, 0.05],
  [0.225, 0.065],
  [0.17, 0.065],
  [0.17, 0.065],
  [0.165, 0.11],
  [0.15, 0.125],
  [0.085, 0.135],
  [0.072, 0.18],
  [0.06, 0.35],
  [0.056, 0.52],
  [0.075, 0.535],
  [0.082, 0.55],
  [0.075, 0.565],
  [0.055, 0.58],
  [0.05, 0.68],
];
const BALL = { at: 0.785, radius: 0.115 };
const ROUND = 64;

const codes = (light: readonly number[]): number[] => light.map((v) => Math.round(255 * SRGB.encode(Math.min(1, Math.max(0, v)))));

const SIDE = 256;
/** Brass with green in its hollows, and how rough it is: green channel roughness, blue metal. */
function textures(): { base: Uint8Array; rough: Uint8Array } {
  const base = new Uint8Array(3 * SIDE * SIDE);
  const rough = new Uint8Array(3 * SIDE * SIDE);
  for (let y = 0; y < SIDE; y++) {
    for (let x = 0; x < SIDE; x++) {
      // Around the post the picture meets itself.
      const a = (2 * Math.PI * x) / SIDE;
      const [u, v, w] = [3 * Math.cos(a), 3 * Math.sin(a), y / 20];
      const stain = Math.min(1, Math.max(0, 3.2 * (fractal(u + w, v + 0.7 * w, 601) - 0.54)));
      const worn = valueNoise(6 * u, 6 * v + 2 * w, 602);
      const k = 0.85 + 0.15 * worn;
      const brass = [0.83 * k, 0.58 * k, 0.24 * k];
      const green = [0.16, 0.3, 0.23];
      base.set(codes(brass.map((b, i) => b + stain * (green[i]! - b))), 3 * (y * SIDE + x));
      rough.set([0, Math.round(255 * (0.24 + 0.14 * worn + 0.5 * stain)), Math.round(255 * (1 - 0.9 * stain))], 3 * (y * SIDE + x));
    }
  }
  const png = (data: Uint8Array): Uint8Array => writePng({ width: SIDE, height: SIDE, bits: 8, channels: 3, data });
  return { base: png(base), rough: png(rough) };
}

interface Turned {
  positions: number[];
  normals: number[];
  uvs: number[];
  indices: number[];
}

function turned(outline: readonly (readonly [number, number])[]): Turned {
  const out: Turned = { positions: [], normals: [], uvs: [], indices: [] };
  const top = outline[outline.length - 1]![1] + 1e-9;
  outline.forEach(([r, h], i) => {
    const sharp = (k: number): boolean => outline[k]?.[0] === r && outline[k][1] === h;
    const [before, after] = [outline[sharp(i - 1) ? i : i - 1] ?? [r, h], outline[sharp(i + 1) ? i : i + 1] ?? [r, h]];
    const [dr, dh] = [after[0] - before[0], after[1] - before[1]];
    const k = 1 / (Math.hypot(dr, dh) || 1);
    for (let s = 0; s <= ROUND; s++) {
      const a = (2 * Math.PI * s) / ROUND;
      out.positions.push(r * Math.cos(a), h, r * Math.sin(a));
      out.normals.push(dh * k * Math.cos(a), -dr * k, dh * k * Math.sin(a));
      out.uvs.push(s / ROUND, 1 - h / top);
    }
  });
  const w = ROUND + 1;
  for (let i = 0; i + 1 < outline.length; i++)
    for (let s = 0; s < ROUND; s++) {
      const a = i * w + s;
      out.indices.push(a, a + w, a + 1, a + 1, a + w, a + w + 1);
    }
  return out;
}

/** The marker as a .glb, the same bytes each time. */
export async function markerFile(): Promise<Uint8Array> {
  const doc = new Document();
  doc.getRoot().getAsset().generator = 'Saltgate Light';
  const buffer = doc.createBuffer();
  const { base, rough } = textures();
  const material = doc
    .createMaterial('brass')
    .setBaseColorTexture(doc.createTexture('brass').setImage(base).setMimeType('image/png'))
    .setMetallicRoughnessTexture(doc.createTexture('roughness').setImage(rough).setMimeType('image/png'))
    .setMetallicFactor(1)
    .setRoughnessFactor(1);
  const accessor = (type: 'SCALAR' | 'VEC2' | 'VEC3', values: Float32Array | Uint16Array) =>
    doc
      .createAccessor()
      .setType(type)
      .setArray(values as Float32Array<ArrayBuffer>)
      .setBuffer(buffer);
  const root = doc.createScene('marker');
  const add = (name: string, t: Turned): void => {
    const primitive = doc
      .createPrimitive()
      .setAttribute('POSITION', accessor('VEC3', Float32Array.from(t.positions)))
      .setAttribute('NORMAL', accessor('VEC3', Float32Array.from(t.normals)))
      .setAttribute('TEXCOORD_0', accessor('VEC2', Float32Array.from(t.uvs)))
      .setIndices(accessor('SCALAR', Uint16Array.from(t.indices)))
      .setMaterial(material);
    root.addChild(doc.createNode(name).setMesh(doc.createMesh(name).addPrimitive(primitive)));
  };
  add('post', turned(OUTLINE));
  const ball = Array.from({ length: 33 }, (_, i): [number, number] => {
    const a = Math.PI * (i / 32 - 0.5);
    return [BALL.radius * Math.cos(a), BALL.at + BALL.radius * Math.sin(a)];
  });
  add('ball', turned(ball));
  return new WebIO().writeBinary(doc);
}
