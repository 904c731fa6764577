import { strFromU8 } from 'fflate';
import type { Kernels } from '@/kernels';
import { splitChannel } from '../../../picture';
import type { BlockChannel } from '../blocks';
import type { ExrChannel, PixelType } from '../header';
import { PIXEL_TYPES } from '../header';
import { halfOf, halfValue } from './half';
import type { LineOrder } from './lines';
import { inLines } from './lines';
import { huffmanDecode } from './piz';
import { inflate, unRle, unpredict } from './zip';

// DWAA and DWAB: colour by 8×8 cosine transforms whose factors are quantised halves, alpha by run lengths, the rest by zlib
// (OpenEXR's documentation of the format; the classification of channels by name is stored in each block since version 2).

type Scheme = 'unknown' | 'dct' | 'rle';
interface Rule {
  suffix: string;
  scheme: Scheme;
  type: PixelType;
  /** 0, 1, 2 in a red, green, blue triple, else −1. */
  colour: number;
  anyCase: boolean;
}

const both = (suffix: string, colour: number): Rule[] =>
  (['half', 'float'] as const).map((type) => ({ suffix, scheme: 'dct', type, colour, anyCase: false }));
const alpha = (suffix: string, anyCase: boolean): Rule[] =>
  PIXEL_TYPES.map((type) => ({ suffix, scheme: 'rle', type, colour: -1, anyCase }));

/** The rules of files before version 2. */
const LEGACY: readonly Rule[] = [
  ...['r', 'red'].flatMap((s) => both(s, 0)),
  ...['g', 'grn', 'green'].flatMap((s) => both(s, 1)),
  ...['b', 'blu', 'blue'].flatMap((s) => both(s, 2)),
  ...['y', 'by', 'ry'].flatMap((s) => both(s, -1)),
  ...alpha('a', true),
].map((r) => ({ ...r, anyCase: true }));

const FIELDS = [
  'version',
  'unknownSize',
  'unknownPacked',
  'acPacked',
  'dcPacked',
  'rlePacked',
  'rleUnpacked',
  'rleRaw',
  'acCount',
  'dcCount',
  'acCompression',
] as const;
type Fields = Record<(typeof FIELDS)[number], number>;

/** Order of a block's factors: from the lowest frequency along the diagonals. */
const ZIGZAG = zigzag();
function zigzag(): number[] {
  const order: number[] = [];
  for (let d = 0; d < 15; d++) {
    for (let i = 0; i <= d; i++) {
      const [y, x] = d % 2 ? [i, d - i] : [d - i, i];
      if (x < 8 && y < 8) order.push(8 * y + x);
    }
  }
  return order;
}

/** cos((2x + 1)·u·π/16)/2, with u = 0 scaled by √½: rows of the orthonormal inverse transform. */
const COSINES = Float32Array.from({ length: 64 }, (_, i) => {
  const [x, u] = [i >> 3, i & 7];
  return 0.5 * (u === 0 ? Math.SQRT1_2 : 1) * Math.cos(((2 * x + 1) * u * Math.PI) / 16);
});

let linear: Uint16Array | undefined;
let values: Float32Array | undefined;
/** From the perceptual scale in which factors are quantised to linear light, both as halves. */
function linearTable(): Uint16Array {
  linear ??= Uint16Array.from({ length: 65536 }, (_, h) => {
    const v = halfValue(h);
    if (h === 0 || !Number.isFinite(v)) return 0;
    const a = Math.abs(v);
    return halfOf(Math.sign(v) * (a <= 1 ? a ** 2.2 : Math.exp(2.2) ** (a - 1)));
  });
  return linear;
}
function valueTable(): Float32Array {
  values ??= Float32Array.from({ length: 65536 }, (_, h) => halfValue(h));
  return values;
}

/** A block's bytes, line by line and channel by channel. Throws where the data is damaged. */
export function decodeDwa(
  data: Uint8Array,
  channels: readonly BlockChannel[],
  list: readonly ExrChannel[],
  lines: LineOrder,
  kernels: Kernels,
): Uint8Array {
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
  const f = Object.fromEntries(FIELDS.map((name, i) => [name, Number(view.getBigUint64(8 * i, true))])) as Fields;
  let at = 8 * FIELDS.length;
  let rules = LEGACY;
  if (f.version >= 2) {
    const size = view.getUint16(at, true);
    rules = readRules(data.subarray(at + 2, at + size));
    at += size;
  }
  const take = (n: number): Uint8Array => {
    if (at + n > data.length) throw new Error('the block is too short');
    at += n;
    return data.subarray(at - n, at);
  };
  const raw = channels.reduce((sum, c) => sum + c.width * c.height * c.bytes, 0);
  const limit = 4 * raw + 65536;
  for (const size of [f.unknownSize, f.rleUnpacked, f.rleRaw, 2 * f.acCount, 2 * f.dcCount]) {
    if (size > limit) throw new Error('the block claims more than it can hold');
  }
  const unknown = f.unknownPacked ? inflate(take(f.unknownPacked), f.unknownSize, kernels) : new Uint8Array();
  const packedAc = take(f.acPacked);
  const ac =
    f.acCount === 0
      ? new Uint16Array()
      : f.acCompression === 1
        ? words(inflate(packedAc, 2 * f.acCount, kernels))
        : huffmanDecode(packedAc, f.acCount, kernels);
  const dc = f.dcCount === 0 ? new Uint16Array() : words(unpredict(inflate(take(f.dcPacked), 2 * f.dcCount, kernels), kernels));
  const runs = f.rlePacked ? unRle(inflate(take(f.rlePacked), f.rleUnpacked, kernels), f.rleRaw) : new Uint8Array();

  const planes: (Uint8Array | undefined)[] = channels.map(() => undefined);
  const kinds = list.map((c) => ruleFor(rules, c));
  const source = { ac, dc, acAt: 0, dcAt: 0 };
  for (const group of groupsOf(list, kinds)) {
    decodeCosines(
      source,
      group.map((i) => channels[i]!),
      group.map((i) => list[i]!.type),
    ).forEach((bytes, k) => (planes[group[k]!] = bytes));
  }
  let [fromRuns, fromUnknown] = [0, 0];
  channels.forEach((c, i) => {
    const size = c.width * c.height * c.bytes;
    const scheme = kinds[i]?.scheme ?? 'unknown';
    if (scheme === 'rle') {
      planes[i] = interleave(slice(runs, fromRuns, size), c.bytes);
      fromRuns += size;
    } else if (scheme === 'unknown') {
      planes[i] = slice(unknown, fromUnknown, size);
      fromUnknown += size;
    }
  });
  return inLines(planes as Uint8Array[], channels, lines);
}

const words = (bytes: Uint8Array): Uint16Array => new Uint16Array(bytes.slice().buffer);

function slice(bytes: Uint8Array, from: number, size: number): Uint8Array {
  if (from + size > bytes.length) throw new Error('the block is too short');
  return bytes.subarray(from, from + size);
}

function readRules(bytes: Uint8Array): Rule[] {
  const rules: Rule[] = [];
  for (let at = 0; at < bytes.length;) {
    const end = bytes.indexOf(0, at);
    if (end < 0 || end + 2 >= bytes.length) throw new Error('its channel rules are damaged');
    const packed = bytes[end + 1]!;
    rules.push({
      suffix: strFromU8(bytes.subarray(at, end)),
      colour: (packed >> 4) - 1,
      scheme: (['unknown', 'dct', 'rle'] as const)[(packed >> 2) & 3] ?? 'unknown',
      anyCase: (packed & 1) !== 0,
      type: PIXEL_TYPES[bytes[end + 2]!] ?? 'half',
    });
    at = end + 3;
  }
  return rules;
}

function ruleFor(rules: readonly Rule[], c: ExrChannel): Rule | undefined {
  const { channel } = splitChannel(c.name);
  return rules.find((r) => r.type === c.type && (r.suffix === channel || (r.anyCase && r.suffix.toLowerCase() === channel.toLowerCase())));
}

/** Channels whose cosines are decoded together: the colour triples of a layer first, then the others one by one. */
function groupsOf(list: readonly ExrChannel[], kinds: readonly (Rule | undefined)[]): number[][] {
  const triples = new Map<string, number[]>();
  list.forEach((c, i) => {
    const rule = kinds[i];
    if (rule?.scheme !== 'dct' || rule.colour < 0) return;
    const { layer } = splitChannel(c.name);
    const triple = triples.get(layer) ?? [-1, -1, -1];
    triple[rule.colour] = i;
    triples.set(layer, triple);
  });
  const whole = [...triples.values()].filter((t) => t.every((i) => i >= 0));
  const inTriple = new Set(whole.flat());
  const alone = list.map((_, i) => i).filter((i) => kinds[i]?.scheme === 'dct' && !inTriple.has(i));
  return [...whole, ...alone.map((i) => [i])];
}

interface Factors {
  ac: Uint16Array;
  dc: Uint16Array;
  acAt: number;
  dcAt: number;
}

/** Decodes one channel, or three that are stored as luma and two colour differences; the bytes of each. */
function decodeCosines(source: Factors, channels: readonly BlockChannel[], types: readonly PixelType[]): Uint8Array[] {
  const { width, height } = channels[0]!;
  const [across, down] = [Math.ceil(width / 8), Math.ceil(height / 8)];
  const count = channels.length;
  const toLinear = linearTable();
  const value = valueTable();
  const out = channels.map(() => new Uint16Array(width * height));
  const blocks = channels.map(() => new Float32Array(64));
  const dcStart = source.dcAt;
  source.dcAt += count * across * down;
  if (source.dcAt > source.dc.length) throw new Error('the block is too short');
  for (let by = 0; by < down; by++) {
    for (let bx = 0; bx < across; bx++) {
      for (let c = 0; c < count; c++) {
        const dc = source.dc[dcStart + c * across * down + by * across + bx]!;
        if (readFactors(source, dc, blocks[c]!, value)) inverse(blocks[c]!);
      }
      if (count === 3) toRgb(blocks as [Float32Array, Float32Array, Float32Array]);
      for (let c = 0; c < count; c++) {
        const block = blocks[c]!;
        const to = out[c]!;
        for (let v = 0; v < Math.min(8, height - 8 * by); v++) {
          for (let u = 0; u < Math.min(8, width - 8 * bx); u++) {
            to[(8 * by + v) * width + 8 * bx + u] = toLinear[halfOf(block[8 * v + u]!)]!;
          }
        }
      }
    }
  }
  return out.map((halves, c) => {
    if (types[c] === 'half') return new Uint8Array(halves.buffer);
    return new Uint8Array(Float32Array.from(halves, (h) => value[h]!).buffer);
  });
}

/** One block's factors in their places; false where all but the first are 0, and the block is that value over 8 already. */
function readFactors(source: Factors, dc: number, block: Float32Array, value: Float32Array): boolean {
  block.fill(0);
  block[0] = value[dc]!;
  let some = false;
  for (let k = 1; k < 64;) {
    if (source.acAt >= source.ac.length) throw new Error('the block is too short');
    const v = source.ac[source.acAt++]!;
    if ((v & 0xff00) === 0xff00) k += v & 0xff || 64;
    else {
      block[ZIGZAG[k]!] = value[v]!;
      some = true;
      k++;
    }
  }
  if (!some) block.fill(block[0] / 8);
  return some;
}

const columns = new Float32Array(64);
/** The orthonormal inverse cosine transform of eight by eight, in place. */
function inverse(block: Float32Array): void {
  for (let x = 0; x < 8; x++) {
    for (let y = 0; y < 8; y++) {
      let sum = 0;
      for (let u = 0; u < 8; u++) sum += COSINES[8 * y + u]! * block[8 * u + x]!;
      columns[8 * y + x] = sum;
    }
  }
  for (let y = 0; y < 8; y++) {
    for (let x = 0; x < 8; x++) {
      let sum = 0;
      for (let u = 0; u < 8; u++) sum += COSINES[8 * x + u]! * columns[8 * y + u]!;
      block[8 * y + x] = sum;
    }
  }
}

/** Luma and colour differences of Rec.709 back to red, green and blue. */
function toRgb([a, b, c]: [Float32Array, Float32Array, Float32Array]): void {
  for (let i = 0; i < 64; i++) {
    const [y, cb, cr] = [a[i]!, b[i]!, c[i]!];
    a[i] = y + 1.5747 * cr;
    b[i] = y - 0.1873 * cb - 0.4682 * cr;
    c[i] = y + 1.8556 * cb;
  }
}

/** Bytes that were stored apart by significance, back to samples. */
function interleave(bytes: Uint8Array, size: number): Uint8Array {
  const n = bytes.length / size;
  const out = new Uint8Array(bytes.length);
  for (let b = 0; b < size; b++) for (let i = 0; i < n; i++) out[i * size + b] = bytes[b * n + i]!;
  return out;
}
