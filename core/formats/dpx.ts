import { strToU8 } from 'fflate';
import type { ColourSpace } from '../document/types';
import { MediaError } from '../errors';
import type { CodePicture } from './codes';
import { MAX_PIXELS } from './exr/header';

// SMPTE ST 268-1: the generic file, image and element headers at their fixed places.

const HEADER = 2048;
const [PACKED, LEFT, RIGHT] = [0, 1, 2] as const;

export interface DpxHeader {
  width: number;
  height: number;
  channels: 1 | 3 | 4;
  bits: 8 | 10 | 12 | 16;
  /** How the header says light was made codes. */
  transfer: number;
  colourSpace: ColourSpace;
  packing: number;
  /** Where the pixels begin. */
  offset: number;
  littleEndian: boolean;
  /** Bytes behind each line. */
  padding: number;
}

/** Transfer characteristics of the standard; what is not named is taken for printing density in 10 bits and for video otherwise. */
function spaceOf(transfer: number, bits: number): ColourSpace {
  if (transfer === 2) return 'linear';
  if (transfer === 1 || transfer === 3) return 'Cineon';
  if (transfer >= 4 && transfer <= 9) return 'Rec.709';
  return bits === 10 ? 'Cineon' : 'Rec.709';
}

export const isDpx = (b: Uint8Array): boolean =>
  (b[0] === 0x53 && b[1] === 0x44 && b[2] === 0x50 && b[3] === 0x58) || (b[0] === 0x58 && b[1] === 0x50 && b[2] === 0x44 && b[3] === 0x53);

/** Throws MediaError. */
export function inspectDpx(bytes: Uint8Array, file: string): DpxHeader {
  if (!isDpx(bytes)) throw new MediaError(file, 'this is not a DPX file');
  if (bytes.length < 832) throw new MediaError(file, 'the file is cut short: it ends in the middle of its header');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const littleEndian = bytes[0] === 0x58;
  const u32 = (at: number): number => view.getUint32(at, littleEndian);
  const u16 = (at: number): number => view.getUint16(at, littleEndian);
  const [width, height] = [u32(772), u32(776)];
  if (width < 1 || height < 1) throw new MediaError(file, `its size of ${width}×${height} is empty`);
  if (width * height > MAX_PIXELS) throw new MediaError(file, `its size of ${width}×${height} pixels is too large to open`);
  const [descriptor, transfer, bits] = [bytes[800]!, bytes[801]!, bytes[803]!];
  const channels = descriptor === 50 ? 3 : descriptor === 51 ? 4 : descriptor === 6 ? 1 : 0;
  if (channels === 0) throw new MediaError(file, `its kind of pixel (descriptor ${descriptor}) cannot be read; RGB, RGBA and luma can`);
  if (bits !== 8 && bits !== 10 && bits !== 12 && bits !== 16)
    throw new MediaError(file, `its ${bits} bits a channel cannot be read; 8, 10, 12 and 16 can`);
  if (u16(806) === 1) throw new MediaError(file, 'its pixels are stored as run lengths, which cannot be read');
  if (u32(780) === 1) throw new MediaError(file, 'its codes are signed, which cannot be read');
  const packing = u16(804);
  const offset = u32(808) || u32(4);
  const padding = u32(812) === 0xffffffff ? 0 : u32(812);
  return { width, height, channels, bits, transfer, colourSpace: spaceOf(transfer, bits), packing, offset, littleEndian, padding };
}

/** Bytes of a line. Codes of 8 and 16 bits follow each other without gaps; others begin each line on a 32-bit word. */
function lineBytes({ width, channels, bits, packing }: Pick<DpxHeader, 'width' | 'channels' | 'bits' | 'packing'>): number {
  const n = width * channels;
  if (bits === 10 && packing !== PACKED) return Math.ceil(n / 3) * 4;
  if (bits === 12 && packing !== PACKED) return 2 * n;
  return bits % 8 === 0 ? (n * bits) / 8 : Math.ceil((n * bits) / 32) * 4;
}

/** Reads the first element's code values. Throws MediaError. */
export function readDpx(bytes: Uint8Array, file: string): CodePicture {
  const h = inspectDpx(bytes, file);
  const n = h.width * h.channels;
  const tight = lineBytes(h) + h.padding;
  // Some writers fill lines up to words all the same: the file's length tells.
  const filled = Math.ceil(tight / 4) * 4;
  const line = bytes.length - h.offset === filled * h.height ? filled : tight;
  if (h.offset + line * (h.height - 1) + lineBytes(h) > bytes.length)
    throw new MediaError(file, 'the file is cut short: pixels are missing');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const data = h.bits === 8 ? new Uint8Array(n * h.height) : new Uint16Array(n * h.height);
  const code = reader(h, view);
  for (let y = 0; y < h.height; y++) {
    const from = h.offset + y * line;
    for (let i = 0; i < n; i++) data[y * n + i] = code(from, i);
  }
  return { width: h.width, height: h.height, bits: h.bits, channels: h.channels, data };
}

/** The i-th code of the line that begins at `from`. */
function reader({ bits, packing, littleEndian }: DpxHeader, view: DataView): (from: number, i: number) => number {
  if (bits === 8) return (from, i) => view.getUint8(from + i);
  if (bits === 16) return (from, i) => view.getUint16(from + 2 * i, littleEndian);
  if (packing === PACKED) {
    // Codes follow each other from the lowest bit of each word on.
    const mask = 2 ** bits - 1;
    return (from, i) => {
      const bit = i * bits;
      const at = from + 4 * (bit >> 5);
      const shift = bit & 31;
      const low = view.getUint32(at, littleEndian) >>> shift;
      if (shift + bits <= 32) return low & mask;
      return (low | (view.getUint32(at + 4, littleEndian) << (32 - shift))) & mask;
    };
  }
  if (bits === 12) return (from, i) => (view.getUint16(from + 2 * i, littleEndian) >> (packing === RIGHT ? 0 : 4)) & 4095;
  const spare = packing === RIGHT ? 0 : 2;
  return (from, i) => (view.getUint32(from + 4 * Math.floor(i / 3), littleEndian) >>> (spare + 10 * (2 - (i % 3)))) & 1023;
}

/** Writes RGB codes of 10 bits (filled from the left) or 16, most significant byte first. `transfer` is the standard's number. */
export function writeDpx(p: { width: number; height: number; bits: 10 | 16; data: Uint16Array; transfer: number }): Uint8Array {
  const line = lineBytes({ width: p.width, channels: 3, bits: p.bits, packing: LEFT });
  const bytes = new Uint8Array(HEADER + line * p.height);
  const view = new DataView(bytes.buffer);
  // What is not said is filled with ones, as the standard wants it.
  bytes.fill(255, 0, HEADER);
  const text = (at: number, size: number, s: string): void => {
    bytes.fill(0, at, at + size);
    bytes.set(strToU8(s).subarray(0, size - 1), at);
  };
  text(0, 5, 'SDPX');
  view.setUint32(4, HEADER);
  text(8, 8, 'V2.0');
  view.setUint32(16, bytes.length);
  [20, 24, 28].forEach((at, i) => view.setUint32(at, [1, 1664, 384][i]!));
  for (const [at, size] of [
    [36, 100],
    [136, 24],
    [160, 100],
    [260, 200],
    [460, 200],
  ] as const) {
    text(at, size, at === 160 ? 'Ostracon' : '');
  }
  view.setUint16(768, 0);
  view.setUint16(770, 1);
  view.setUint32(772, p.width);
  view.setUint32(776, p.height);
  view.setUint32(780, 0);
  view.setUint32(784, 0);
  view.setUint32(792, 2 ** p.bits - 1);
  bytes.set([50, p.transfer, p.transfer === 2 ? 2 : 6, p.bits], 800);
  view.setUint16(804, p.bits === 10 ? LEFT : PACKED);
  view.setUint16(806, 0);
  view.setUint32(808, HEADER);
  view.setUint32(812, 0);
  view.setUint32(816, 0);
  const n = 3 * p.width;
  for (let y = 0; y < p.height; y++) {
    for (let i = 0; i < n; i++) {
      const code = p.data[y * n + i]!;
      const from = HEADER + y * line;
      if (p.bits === 16) view.setUint16(from + 2 * i, code);
      else {
        const at = from + 4 * Math.floor(i / 3);
        view.setUint32(at, (view.getUint32(at) | (code << (22 - 10 * (i % 3)))) >>> 0);
      }
    }
  }
  return bytes;
}

/** The standard's number of the transfer that a space's codes have. */
export const dpxTransfer = (space: ColourSpace): number => (space === 'linear' ? 2 : space === 'Cineon' ? 1 : space === 'Rec.709' ? 6 : 0);
