import type { Accessor, Document } from '@gltf-transform/core';
import { BufferUtils, Logger, WebIO } from '@gltf-transform/core';
import { strFromU8, strToU8 } from 'fflate';
import { MediaError, messageOf } from '../errors';

interface GltfJson {
  asset?: { version?: string };
  buffers?: { uri?: string }[];
  images?: { uri?: string }[];
  nodes?: { children?: number[] }[];
  extensionsRequired?: string[];
  extensionsUsed?: string[];
}

/** Geometry that only a decoder of its own could read. */
const PACKED = ['KHR_draco_mesh_compression', 'EXT_meshopt_compression', 'KHR_meshopt_compression'];
/** What a file may ask for and is drawn nearly right without. */
const KNOWN = [
  'KHR_mesh_quantization',
  'KHR_materials_unlit',
  'KHR_texture_transform',
  'KHR_lights_punctual',
  'KHR_materials_emissive_strength',
];

/**
 * A glTF 2.0 file: .glb, or .gltf with its numbers and pictures inside or among `beside`, by their names. Rings of nodes, compressed geometry and files that are
 * missing are told in words. Throws MediaError.
 */
export async function openGltf(bytes: Uint8Array, file: string, beside?: Readonly<Record<string, Uint8Array>>): Promise<Document> {
  const text = bytes[0] === 0x7b || bytes[0] === 0xef;
  const json = text ? parseJson(strFromU8(bytes), file) : jsonOfGlb(bytes, file);
  check(json, file);
  try {
    if (!text) return await quietIo().readBinary(withoutNeeds(bytes, json));
    const resources: Record<string, Uint8Array> = {};
    for (const uri of [...(json.buffers ?? []), ...(json.images ?? [])].flatMap((x) => x.uri ?? [])) {
      const found = uri.startsWith('data:') ? BufferUtils.createBufferFromDataURI(uri) : beside?.[nameOf(uri)];
      if (!found)
        throw new MediaError(
          file,
          beside
            ? `it needs ${nameOf(uri)} beside it: bring both in together, or save it as .glb, which holds everything`
            : `its numbers lie in another file, ${nameOf(uri)}: save it as .glb, which holds everything`,
        );
      resources[uri] = found;
    }
    return await quietIo().readJSON({ json: { ...json, extensionsRequired: [] } as never, resources: resources as never });
  } catch (e) {
    if (e instanceof MediaError) throw e;
    throw new MediaError(file, `it is no glTF 2.0 file that can be read (${messageOf(e)})`);
  }
}

/** What a file uses that is left out here, in words. */
export function leftOut(bytes: Uint8Array, file: string): string[] {
  const { extensionsUsed = [] } = bytes[0] === 0x67 ? jsonOfGlb(bytes, file) : parseJson(strFromU8(bytes), file);
  const words: Readonly<Record<string, string>> = {
    KHR_materials_unlit: 'its unlit materials are lit',
    KHR_texture_transform: 'its textures are not moved or turned',
    KHR_lights_punctual: 'its lights are left out',
    KHR_mesh_quantization: '',
  };
  return extensionsUsed.flatMap((e) => (words[e] === '' ? [] : [words[e] ?? `what ${e} says is left out`]));
}

/** A .gltf and what lies beside it as one .glb; which of the files it needed. */
export async function packGltf(
  bytes: Uint8Array,
  file: string,
  beside: Readonly<Record<string, Uint8Array>>,
): Promise<{ bytes: Uint8Array; used: readonly string[] }> {
  const doc = await openGltf(bytes, file, beside);
  return { bytes: await quietIo().writeBinary(doc), used: besideOf(bytes, file) };
}

/** The files that a .gltf needs beside it. */
export function besideOf(bytes: Uint8Array, file: string): string[] {
  const json = parseJson(strFromU8(bytes), file);
  return [...(json.buffers ?? []), ...(json.images ?? [])].flatMap((x) => (x.uri && !x.uri.startsWith('data:') ? [nameOf(x.uri)] : []));
}

/** What it leaves out is told by `leftOut`. */
const quietIo = (): WebIO => new WebIO().setLogger(new Logger(Logger.Verbosity.ERROR));

const nameOf = (uri: string): string => decodeURIComponent(uri.slice(uri.lastIndexOf('/') + 1));

function parseJson(text: string, file: string): GltfJson {
  try {
    return JSON.parse(text.replace(/^\ufeff/, '')) as GltfJson;
  } catch {
    throw new MediaError(file, 'it is no glTF 2.0 file that can be read (its text is damaged)');
  }
}

function jsonOfGlb(bytes: Uint8Array, file: string): GltfJson {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const cut = (): never => {
    throw new MediaError(file, 'it is no glTF 2.0 file that can be read (it is cut short or of another kind)');
  };
  if (bytes.length < 20 || view.getUint32(0, true) !== 0x46546c67 || view.getUint32(8, true) > bytes.length) cut();
  const length = view.getUint32(12, true);
  if (20 + length > bytes.length || view.getUint32(16, true) !== 0x4e4f534a) cut();
  return parseJson(strFromU8(bytes.subarray(20, 20 + length)), file);
}

/** The same file without extensions that it asks for, which the reader would refuse though nothing of them is needed here. */
function withoutNeeds(bytes: Uint8Array, json: GltfJson): Uint8Array<ArrayBuffer> {
  const own = new Uint8Array(bytes);
  if (!json.extensionsRequired?.length) return own;
  const length = new DataView(own.buffer).getUint32(12, true);
  const text = strToU8(JSON.stringify({ ...json, extensionsRequired: undefined }));
  own.fill(0x20, 20, 20 + length);
  own.set(text.subarray(0, length), 20);
  return own;
}

function check(json: GltfJson, file: string): void {
  if (json.asset?.version !== undefined && !json.asset.version.startsWith('2.'))
    throw new MediaError(file, `it is glTF ${json.asset.version}; version 2 is read`);
  const needs = json.extensionsRequired ?? [];
  if (needs.some((n) => PACKED.includes(n)))
    throw new MediaError(file, 'its geometry is compressed: save it without compression of meshes');
  const other = needs.find((n) => !KNOWN.includes(n));
  if (other) throw new MediaError(file, `it cannot be read without ${other}, which is not known here`);
  const nodes = json.nodes ?? [];
  /** 1 while its children are walked, 2 afterwards. */
  const state = new Uint8Array(nodes.length);
  const open: number[] = [];
  for (let root = 0; root < nodes.length; root++) {
    open.push(root);
    while (open.length > 0) {
      const n = open[open.length - 1]!;
      if (state[n] === 0) {
        state[n] = 1;
        for (const c of nodes[n]?.children ?? []) {
          if (state[c] === 1) throw new MediaError(file, 'its nodes hang on each other in a ring: repair it where it was made');
          if (state[c] === 0) open.push(c);
        }
      } else {
        state[n] = 2;
        open.pop();
      }
    }
  }
}

/** A channel's value at a time: between its keys by a line, held, or by Hermite's cubic; turns by the shorter way. */
export function sampled(input: Accessor, output: Accessor, by: string, time: number, turns: boolean): number[] {
  const n = input.getCount();
  const at = (i: number): number => input.getScalar(i);
  const cubic = by === 'CUBICSPLINE';
  const value = (i: number, part = 1): number[] => output.getElement(cubic ? 3 * i + part : i, []);
  if (time <= at(0)) return value(0);
  if (time >= at(n - 1)) return value(n - 1);
  let i = 0;
  while (at(i + 1) < time) i++;
  const step = at(i + 1) - at(i);
  const t = (time - at(i)) / step;
  const [a, b] = [value(i), value(i + 1)];
  if (by === 'STEP') return t < 1 - 1e-6 ? a : b;
  if (cubic) {
    const [m, k] = [value(i, 2), value(i + 1, 0)];
    return a.map(
      (v, j) =>
        (2 * t ** 3 - 3 * t * t + 1) * v +
        step * (t ** 3 - 2 * t * t + t) * m[j]! +
        (3 * t * t - 2 * t ** 3) * b[j]! +
        step * (t ** 3 - t * t) * k[j]!,
    );
  }
  if (!turns) return a.map((v, j) => v + t * (b[j]! - v));
  let dot = a.reduce((s, v, j) => s + v * b[j]!, 0);
  const end = dot < 0 ? b.map((v) => -v) : b;
  dot = Math.min(1, Math.abs(dot));
  const angle = Math.acos(dot);
  if (angle < 1e-6) return a;
  return a.map((v, j) => (Math.sin((1 - t) * angle) * v + Math.sin(t * angle) * end[j]!) / Math.sin(angle));
}
