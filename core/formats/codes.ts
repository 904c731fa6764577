import { decode as decodePng, convertIndexedToRgb } from 'fast-png';
import { Zlib } from 'fflate';
import { crc32 } from '../crc32';
import { MediaError, messageOf } from '../errors';
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

/** Reads an 8 or 16 bit PNG. Throws MediaError. */
export function readPng(bytes: Uint8Array, file: string): CodePicture {
  const { type } = inspectPng(bytes, file);
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
