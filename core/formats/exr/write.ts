import { strToU8 } from 'fflate';
import type { Kernels, Plane } from '@/kernels';
import type { Rect } from '../../geometry/rect';
import type { Format } from '../../picture';
import { rect } from '../../geometry/rect';
import type { BlockChannel } from './blocks';
import { channelsOf } from './blocks';
import { encodePiz } from './codecs/piz';
import { deflate, predict, rle } from './codecs/zip';
import { lineOrder } from './expand';
import type { Compression, PixelType } from './header';
import { COMPRESSIONS, LINES, PIXEL_TYPES, bytesOf } from './header';

/** Compressions that can be written: the lossless ones but PXR24's. */
export const WRITTEN = ['NONE', 'RLE', 'ZIPS', 'ZIP', 'PIZ'] as const satisfies readonly Compression[];
export type WrittenCompression = (typeof WRITTEN)[number];

export interface ExrOutput {
  format: Format;
  /** The data window, relative to the format's corner. */
  bounds: Rect;
  channels: readonly { name: string; type: PixelType; plane: Plane }[];
  compression: WrittenCompression;
  /** Text, a time code as its two words, `framesPerSecond` as a fraction, or chromaticities as eight numbers. */
  attributes?: Record<string, string | readonly number[]>;
}

/**
 * Writes a single-part scan-line OpenEXR file, lines in increasing order, channels sorted by name, names in UTF-8. `poll` is called
 * before each block, and its error ends the work.
 */
export function writeExr(out: ExrOutput, kernels: Kernels, poll: () => void = () => undefined): Uint8Array {
  const channels = [...out.channels].sort((a, b) => (a.name < b.name ? -1 : 1));
  const { bounds: b, format } = out;
  const w = b.x1 - b.x0;
  const h = b.y1 - b.y0;
  const lines = LINES[out.compression];
  const lineBytes = channels.reduce((sum, c) => sum + w * bytesOf(c.type), 0);
  const head = new Writer();
  head.u32(20000630);
  head.u32(2 | (channels.some((c) => strToU8(c.name).length > 31) ? 0x400 : 0));
  const list = new Writer();
  for (const c of channels) {
    list.text(c.name);
    list.u32(PIXEL_TYPES.indexOf(c.type));
    list.u32(0);
    list.u32(1);
    list.u32(1);
  }
  list.bytes.push(0);
  head.attribute('channels', 'chlist', list.bytes);
  head.attribute('compression', 'compression', [COMPRESSIONS.indexOf(out.compression)]);
  head.attribute('dataWindow', 'box2i', ints(b.x0, b.y0, b.x1 - 1, b.y1 - 1));
  head.attribute('displayWindow', 'box2i', ints(0, 0, format.width - 1, format.height - 1));
  head.attribute('lineOrder', 'lineOrder', [0]);
  head.attribute('pixelAspectRatio', 'float', floats(format.pixelAspect));
  head.attribute('screenWindowCenter', 'v2f', floats(0, 0));
  head.attribute('screenWindowWidth', 'float', floats(1));
  for (const [name, value] of Object.entries(out.attributes ?? {})) {
    if (typeof value === 'string') head.attribute(name, 'string', [...strToU8(value)]);
    else if (name === 'framesPerSecond') head.attribute(name, 'rational', ints(...value));
    else if (value.length === 8) head.attribute(name, 'chromaticities', floats(...value));
    else head.attribute(name, 'timecode', ints(...value));
  }
  head.bytes.push(0);

  const raw = kernels.bytes(lineBytes * lines + 16);
  const starts = Array.from({ length: Math.ceil(h / lines) }, (_, i) => i * lines);
  const rowsFrom = (y: number): number => Math.min(lines, h - y);
  /** A block as it is unpacked, until the next one is made. */
  const plainBlock = (y: number): Uint8Array => {
    for (let row = 0; row < rowsFrom(y); row++) {
      let at = row * lineBytes;
      for (const c of channels) {
        packLine(kernels, c.type, c.plane, (y + row) * w, raw, at, w);
        at += w * bytesOf(c.type);
      }
    }
    return raw.subarray(0, lineBytes * rowsFrom(y));
  };
  // Without compression the sizes are known before, and each block goes into the file as it is made.
  const packed =
    out.compression !== 'NONE' &&
    starts.map((y) => {
      poll();
      const plain = plainBlock(y).slice();
      const data = pack(plain, out, channels, rect(b.x0, b.y0 + y, b.x1, b.y0 + y + rowsFrom(y)), kernels);
      return data.length < plain.length ? data : plain;
    });
  const sizes = packed ? packed.map((data) => data.length) : starts.map((y) => lineBytes * rowsFrom(y));

  let at = head.bytes.length + 8 * starts.length;
  const file = kernels.fileBytes(sizes.reduce((sum, size) => sum + 8 + size, at));
  const view = new DataView(file.buffer);
  file.set(head.bytes);
  starts.forEach((y, i) => {
    view.setBigUint64(head.bytes.length + 8 * i, BigInt(at), true);
    view.setInt32(at, y + b.y0, true);
    view.setUint32(at + 4, sizes[i]!, true);
    file.set(packed ? packed[i]! : plainBlock(y), at + 8);
    at += 8 + sizes[i]!;
  });
  kernels.give(raw);
  return file;
}

/** A block's bytes, packed; not smaller where that does not help. */
function pack(plain: Uint8Array, out: ExrOutput, channels: ExrOutput['channels'], region: Rect, kernels: Kernels): Uint8Array {
  switch (out.compression) {
    case 'RLE':
      return rle(predict(plain, kernels));
    case 'PIZ': {
      const part = { channels: channels.map((c) => ({ name: c.name, type: c.type, linear: false, xSampling: 1, ySampling: 1 })) };
      const shares: BlockChannel[] = channelsOf(part, region);
      return encodePiz(plain, shares, lineOrder(part, region), kernels);
    }
    default:
      return deflate(predict(plain, kernels));
  }
}

function packLine(kernels: Kernels, type: PixelType, plane: Plane, from: number, raw: Uint8Array, at: number, w: number): void {
  if (type === 'half') {
    kernels.fn.floatToHalf(plane.byteOffset + 4 * from, raw.byteOffset + at, w);
    return;
  }
  const values = plane.slice(from, from + w);
  const words = type === 'float' ? values : Uint32Array.from(values, (v) => Math.max(0, Math.round(v)));
  raw.set(new Uint8Array(words.buffer, words.byteOffset, 4 * w), at);
}

const ints = (...v: number[]): number[] => [...new Uint8Array(Int32Array.from(v).buffer)];
const floats = (...v: number[]): number[] => [...new Uint8Array(Float32Array.from(v).buffer)];

class Writer {
  readonly bytes: number[] = [];
  u32(v: number): void {
    this.bytes.push(v & 255, (v >> 8) & 255, (v >> 16) & 255, (v >> 24) & 255);
  }
  text(s: string): void {
    this.bytes.push(...strToU8(s), 0);
  }
  attribute(name: string, type: string, value: readonly number[]): void {
    this.text(name);
    this.text(type);
    this.u32(value.length);
    this.bytes.push(...value);
  }
}
