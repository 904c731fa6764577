import { decode as decodePng, convertIndexedToRgb } from 'fast-png';
import { Zlib } from 'fflate';
import type { Kernels } from '@/kernels';
import { OutOfMemory } from '@/kernels';
import { crc32 } from '../crc32';
import { MediaError, messageOf } from '../errors';
import { inflate } from './exr/codecs/zip';
import { MAX_PIXELS } from './exr/header';

/** Interleaved integer code values, as PNG, JPEG and WebP hold them. */
export interface CodePicture {
  width: number;
  height: number;
  bits: 8 | 10 | 12 | 16;
  /** 1 grey, 2 grey and alpha, 3 RGB, 4 RGBA. */
  channels: 1 | 2 | 3 | 4;
  data: Uint8Array | Uint8ClampedArray | Uint16Array;
}

const SIGNATURE = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a];

/** Size and channels from a PNG's header alone. Throws MediaError. */
export function inspectPng(bytes: Uint8Array, file: string): { width: number; height: number; bits: number; type: number } {
  if (!SIGNATURE.every((b, i) => bytes[i] === b)) throw new MediaError(file, 'this is not a PNG file');
  if (bytes.length < 33) throw new MediaError(file, 'the file is cut short: it ends in the middle of its header');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const [width, height] = [view.getUint32(16), view.getUint32(20)];
  if (width < 1 || height < 1) throw new MediaError(file, `its size of ${width}×${height} is empty`);
  if (width * height > MAX_PIXELS) throw new MediaError(file, `its size of ${width}×${height} pixels is too large to open`);
  return { width, height, bits: bytes[24]!, type: bytes[25]! };
}

/** Bytes that a byte of a deflated stream can stand for (RFC 1951): a size that is more than this is not believed. */
const MOST_PACKED = 1032;
/** Channels of PNG's colour types, those without a palette. */
const CHANNELS: Readonly<Record<number, 1 | 2 | 3 | 4>> = { 0: 1, 2: 3, 4: 2, 6: 4 };

/** Reads an 8 or 16 bit PNG. Throws MediaError. */
export function readPng(bytes: Uint8Array, file: string, kernels: Kernels): CodePicture {
  const header = inspectPng(bytes, file);
  try {
    const plain = readPlain(bytes, header, kernels);
    if (plain) return plain;
  } catch (e) {
    if (e instanceof OutOfMemory) throw e;
    const why = /checksum/.test(messageOf(e)) ? 'its data is damaged (a checksum is wrong)' : 'the file is cut short or damaged';
    throw new MediaError(file, why);
  }
  return readAnyPng(bytes, file, header.type);
}

/**
 * A PNG without palette, interlacing and colours that stand for nothing, or null where it is none: the same as the reader of all
 * kinds, many times as fast. Throws where it is damaged.
 */
function readPlain(bytes: Uint8Array, header: ReturnType<typeof inspectPng>, kernels: Kernels): CodePicture | null {
  const { width, height, bits, type } = header;
  const channels = CHANNELS[type];
  if (!channels || (bits !== 8 && bits !== 16) || bytes[28] !== 0) return null;
  const parts = pngChunks(bytes);
  if (parts.some((p) => p.type === 'tRNS')) return null;
  const data = parts.filter((p) => p.type === 'IDAT').map((p) => p.data);
  const packed = new Uint8Array(data.reduce((sum, d) => sum + d.length, 0));
  let at = 0;
  for (const d of data) {
    packed.set(d, at);
    at += d.length;
  }
  const pixel = (channels * bits) / 8;
  const stride = width * pixel;
  if (packed.length * MOST_PACKED < height * stride) throw new Error('pixels are missing');
  const rows = inflate(packed, height * (stride + 1), kernels);
  const [from, to] = [kernels.bytes(rows.length), kernels.bytes(height * stride)];
  try {
    from.set(rows);
    if (!kernels.fn.unfilterPng(from.byteOffset, to.byteOffset, height, stride, pixel)) throw new Error('unknown filter');
    if (bits === 8) return { width, height, bits, channels, data: to.slice(0, height * stride) };
    const wide = new Uint16Array(width * height * channels);
    for (let i = 0; i < wide.length; i++) wide[i] = (to[2 * i]! << 8) | to[2 * i + 1]!;
    return { width, height, bits, channels, data: wide };
  } finally {
    [from, to].forEach((b) => kernels.give(b));
  }
}

/** The chunks of a PNG in their order, up to its end. Throws where one is cut short, damaged or missing. */
function pngChunks(bytes: Uint8Array): { type: string; data: Uint8Array }[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const chunks: { type: string; data: Uint8Array }[] = [];
  for (let at = SIGNATURE.length; ;) {
    const end = at + 8 + view.getUint32(at);
    const type = String.fromCharCode(...bytes.subarray(at + 4, at + 8));
    if (view.getUint32(end) !== crc32(bytes.subarray(at + 4, end))) throw new Error('a checksum is wrong');
    chunks.push({ type, data: bytes.subarray(at + 8, end) });
    if (type === 'IEND') return chunks;
    at = end + 4;
  }
}

function readAnyPng(bytes: Uint8Array, file: string, type: number): CodePicture {
  let png: ReturnType<typeof decodePng>;
  try {
    png = decodePng(bytes, { checkCrc: true });
  } catch (e) {
    const why = /crc/i.test(messageOf(e)) ? 'its data is damaged (a checksum is wrong)' : 'the file is cut short or damaged';
    throw new MediaError(file, why);
  }
  const { width, height } = png;
  if (type === 3 && png.palette) {
    const data = convertIndexedToRgb(png) as Uint8Array;
    return { width, height, bits: 8, channels: (data.length / (width * height)) as 3 | 4, data };
  }
  if (png.depth !== 8 && png.depth !== 16) throw new MediaError(file, `a PNG of ${png.depth} bits a channel cannot be read yet`);
  if (png.data.length < width * height * png.channels) throw new MediaError(file, 'the file is cut short: pixels are missing');
  return { width, height, bits: png.depth, channels: png.channels as 1 | 2 | 3 | 4, data: png.data as Uint8Array };
}

/** Bytes of rows that are packed at a time. */
const BAND = 2 ** 19;

/**
 * Writes 8 or 16 bits a channel, each row told from the one above (PNG filter 2). `poll` is called between some rows, and its
 * error ends the work. Source: PNG specification, third edition.
 */
export function writePng({ width, height, bits, channels, data }: CodePicture, poll: () => void = () => undefined): Uint8Array {
  const size = bits === 8 ? 1 : 2;
  const stride = width * channels * size;
  const packed: Uint8Array[] = [];
  const zip = new Zlib({ level: 3 }, (chunk) => packed.push(chunk));
  let above = new Uint8Array(stride);
  let row = new Uint8Array(stride);
  const rows = Math.max(1, Math.floor(BAND / (stride + 1)));
  for (let y = 0; y < height; y += rows) {
    poll();
    const count = Math.min(rows, height - y);
    const band = new Uint8Array(count * (stride + 1));
    for (let k = 0; k < count; k++) {
      const from = (y + k) * width * channels;
      if (size === 1) row.set(data.subarray(from, from + stride));
      else {
        for (let i = 0; i < width * channels; i++) {
          row[2 * i] = data[from + i]! >> 8;
          row[2 * i + 1] = data[from + i]! & 255;
        }
      }
      const to = k * (stride + 1);
      band[to] = 2;
      for (let i = 0; i < stride; i++) band[to + 1 + i] = row[i]! - above[i]!;
      [row, above] = [above, row];
    }
    zip.push(band, y + count >= height);
  }
  const head = new Uint8Array(13);
  new DataView(head.buffer).setUint32(0, width);
  new DataView(head.buffer).setUint32(4, height);
  head.set([bits === 8 ? 8 : 16, [0, 0, 4, 2, 6][channels]!], 8);
  const chunks = [pngChunk('IHDR', [head]), pngChunk('IDAT', packed), pngChunk('IEND', [])];
  const file = new Uint8Array(chunks.reduce((sum, c) => sum + c.length, SIGNATURE.length));
  file.set(SIGNATURE);
  let at = SIGNATURE.length;
  for (const c of chunks) {
    file.set(c, at);
    at += c.length;
  }
  return file;
}

function pngChunk(type: string, parts: readonly Uint8Array[]): Uint8Array {
  const length = parts.reduce((sum, p) => sum + p.length, 0);
  const chunk = new Uint8Array(length + 12);
  const view = new DataView(chunk.buffer);
  view.setUint32(0, length);
  for (let i = 0; i < 4; i++) chunk[4 + i] = type.charCodeAt(i);
  let at = 8;
  for (const p of parts) {
    chunk.set(p, at);
    at += p.length;
  }
  view.setUint32(at, crc32(chunk.subarray(4, at)));
  return chunk;
}
