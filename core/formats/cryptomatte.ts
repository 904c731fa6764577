import { strToU8 } from 'fflate';
import { MediaError } from '../errors';

/**
 * ID mattes after the Cryptomatte specification 1.2 (Friedman and Jones, Psyop, 2015): the channels of the layers NAME00,
 * NAME01, … hold pairs of an id, the bits of a float32, and its coverage; header attributes tell which layers these are and, in a
 * manifest, which names the ids stand for.
 */
export interface IdLayer {
  /** Its attributes begin with this: `cryptomatte/1234567/`. */
  key: string;
  /** The layers' common name, `CryptoObject`. */
  name: string;
  /** Pairs of channels, most coverage first: `[id, coverage]`. */
  ranks: readonly (readonly [string, string])[];
  /** Names by id, as 8 hex digits; empty where the file has no manifest. */
  manifest: Readonly<Record<string, string>>;
  /** A file beside this one that holds the manifest. */
  sidecar?: string;
}

/** MurmurHash3_x86_32 (Appleby 2011) with seed 0 of a text's UTF-8 bytes. */
export function murmur3(text: string): number {
  const bytes = strToU8(text);
  const scramble = (k: number): number => {
    const a = Math.imul(k, 0xcc9e2d51);
    return Math.imul((a << 15) | (a >>> 17), 0x1b873593);
  };
  let h = 0;
  const whole = bytes.length & ~3;
  for (let i = 0; i < whole; i += 4) {
    h ^= scramble(bytes[i]! | (bytes[i + 1]! << 8) | (bytes[i + 2]! << 16) | (bytes[i + 3]! << 24));
    h = (h << 13) | (h >>> 19);
    h = (Math.imul(h, 5) + 0xe6546b64) | 0;
  }
  let tail = 0;
  for (let i = bytes.length - 1; i >= whole; i--) tail = (tail << 8) | bytes[i]!;
  if (whole < bytes.length) h ^= scramble(tail);
  h ^= bytes.length;
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return (h ^ (h >>> 16)) >>> 0;
}

/** The id of a name: its hash, with the exponent's lowest bit turned where that would make no finite, normal float. */
export function idOfName(name: string): number {
  const h = murmur3(name);
  const exponent = (h >>> 23) & 255;
  return (exponent === 0 || exponent === 255 ? h ^ (1 << 23) : h) >>> 0;
}

const bits = new DataView(new ArrayBuffer(4));

/** The float32 whose bits are the id, as it stands in the picture. */
export function floatOfId(id: number): number {
  bits.setUint32(0, id);
  return bits.getFloat32(0);
}

export const hexOfId = (id: number): string => (id >>> 0).toString(16).padStart(8, '0');

/** The attributes of a header that describe a set of ID layers. The key in them is the first seven digits of the name's hash. */
export function idAttributes(name: string, objects: readonly string[]): Record<string, string> {
  const key = `cryptomatte/${hexOfId(murmur3(name)).slice(0, 7)}`;
  return {
    [`${key}/name`]: name,
    [`${key}/hash`]: 'MurmurHash3_32',
    [`${key}/conversion`]: 'uint32_to_float32',
    [`${key}/manifest`]: JSON.stringify(Object.fromEntries(objects.map((o) => [o, hexOfId(idOfName(o))]))),
  };
}

/** The ID layers that a header's attributes name and its channels hold. */
export function idLayers(attributes: Readonly<Record<string, unknown>>, channels: readonly string[]): IdLayer[] {
  const found: IdLayer[] = [];
  for (const [key, value] of Object.entries(attributes)) {
    const at = /^cryptomatte\/([^/]+)\/name$/.exec(key);
    if (!at || typeof value !== 'string') continue;
    const about = (what: string): string | undefined => {
      const v = attributes[`cryptomatte/${at[1]}/${what}`];
      return typeof v === 'string' ? v : undefined;
    };
    const ranks = ranksOf(value, channels);
    if (ranks.length === 0) continue;
    const sidecar = about('manif_file');
    found.push({
      key: `cryptomatte/${at[1]}/`,
      name: value,
      ranks,
      manifest: manifestOf(about('manifest')),
      ...(sidecar !== undefined && { sidecar }),
    });
  }
  return found;
}

function ranksOf(name: string, channels: readonly string[]): [string, string][] {
  const ranks: [string, string][] = [];
  for (let level = 0; ; level++) {
    const layer = `${name}${String(level).padStart(2, '0')}`;
    // Both spellings of channel names are in use.
    const spelling = [
      ['R', 'G', 'B', 'A'],
      ['red', 'green', 'blue', 'alpha'],
    ].find((s) => s.every((c) => channels.includes(`${layer}.${c}`)));
    if (!spelling) return ranks;
    const [r, g, b, a] = spelling.map((c) => `${layer}.${c}`) as [string, string, string, string];
    ranks.push([r, g], [b, a]);
  }
}

/** Names by id of a manifest, JSON of ids by name; damaged ones count as empty. */
function manifestOf(text: string | undefined): Record<string, string> {
  try {
    return text === undefined ? {} : readManifest(text, 'manifest');
  } catch {
    return {};
  }
}

/** Names by id of a manifest's JSON, of an attribute or of a file beside the picture. Throws MediaError. */
export function readManifest(text: string, file: string): Record<string, string> {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    throw new MediaError(file, 'this is no manifest: it is not JSON');
  }
  if (typeof json !== 'object' || json === null || Array.isArray(json)) {
    throw new MediaError(file, 'this is no manifest: it holds no names');
  }
  const names: Record<string, string> = {};
  for (const [name, id] of Object.entries(json)) {
    if (typeof id !== 'string' || !/^[0-9a-f]{8}$/i.test(id)) throw new MediaError(file, `the id of "${name}" is not 8 hex digits`);
    names[id.toLowerCase()] = name;
  }
  return names;
}
