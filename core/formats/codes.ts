import { decode as decodePng, encode as encodePng, convertIndexedToRgb } from 'fast-png';
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

export const writePng = (p: CodePicture): Uint8Array =>
  encodePng(
    { width: p.width, height: p.height, depth: p.bits === 8 ? 8 : 16, channels: p.channels, data: p.data as Uint8Array },
    { zlib: { level: 3 } },
  );
