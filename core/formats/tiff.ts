import { zlibSync } from 'fflate';
import { decode } from 'tiff';
import type { Kernels, Plane } from '@/kernels';
import { MediaError, messageOf } from '../errors';
import type { Format, Picture } from '../picture';
import { COLOUR, formatRect } from '../picture';
import type { CodePicture } from './codes';
import { MAX_PIXELS } from './exr/header';

export interface TiffHeader {
  width: number;
  height: number;
  bits: number;
  float: boolean;
  samples: number;
  /** Of its last sample: none, premultiplied or straight. */
  alpha: 'none' | 'premultiplied' | 'straight';
}

/** Bytes of a value of each field type of TIFF 6.0. */
const SIZES = [0, 1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8];
const TAG = { width: 256, height: 257, bits: 258, photometric: 262, samples: 277, extra: 338, format: 339 } as const;

export const isTiff = (b: Uint8Array): boolean =>
  (b[0] === 0x49 && b[1] === 0x49 && b[2] === 42 && b[3] === 0) || (b[0] === 0x4d && b[1] === 0x4d && b[2] === 0 && b[3] === 42);

/** Size and samples of a file's first picture; all fields are checked to lie inside the file. Throws MediaError. */
export function inspectTiff(bytes: Uint8Array, file: string): TiffHeader {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const little = bytes[0] === 0x49;
  const cut = (what: string): never => {
    throw new MediaError(file, `the file is cut short or damaged: its ${what} lies outside it`);
  };
  const fields = new Map<number, number[]>();
  if (bytes.length < 8) cut('header');
  const at = view.getUint32(4, little);
  if (at + 2 > bytes.length) cut('directory');
  const count = view.getUint16(at, little);
  if (at + 2 + 12 * count + 4 > bytes.length) cut('directory');
  for (let i = 0; i < count; i++) {
    const entry = at + 2 + 12 * i;
    const [tag, type, values] = [view.getUint16(entry, little), view.getUint16(entry + 2, little), view.getUint32(entry + 4, little)];
    const size = SIZES[type] ?? 0;
    const from = size * values > 4 ? view.getUint32(entry + 8, little) : entry + 8;
    if (from + size * values > bytes.length) cut('header');
    if (type !== 3 && type !== 4) continue;
    const read = (k: number): number => (type === 3 ? view.getUint16(from + 2 * k, little) : view.getUint32(from + 4 * k, little));
    fields.set(
      tag,
      Array.from({ length: Math.min(values, 8) }, (_, k) => read(k)),
    );
  }
  const one = (tag: number, otherwise: number): number => fields.get(tag)?.[0] ?? otherwise;
  const [width, height] = [one(TAG.width, 0), one(TAG.height, 0)];
  if (width < 1 || height < 1) throw new MediaError(file, `its size of ${width}×${height} is empty`);
  if (width * height > MAX_PIXELS) throw new MediaError(file, `its size of ${width}×${height} pixels is too large to open`);
  const samples = one(TAG.samples, 1);
  const colours = one(TAG.photometric, 1) === 2 || one(TAG.photometric, 1) === 3 ? 3 : 1;
  const extra = one(TAG.extra, samples === colours + 1 ? 2 : 0);
  const bits = one(TAG.bits, 1);
  const float = one(TAG.format, 1) === 3;
  if (![8, 16, 32].includes(bits) || float !== (bits === 32)) {
    throw new MediaError(
      file,
      `a TIFF of ${bits} bits${float ? ' in floating point' : ''} a sample cannot be read; 8, 16 and 32 bit float can`,
    );
  }
  if (samples > 4) throw new MediaError(file, `a TIFF of ${samples} samples a pixel cannot be read; up to four can`);
  return { width, height, bits, float, samples, alpha: extra === 1 ? 'premultiplied' : extra === 2 ? 'straight' : 'none' };
}

/** The samples of a file's first picture, interleaved; where alpha was premultiplied, colour is divided by it. Throws MediaError. */
function samplesOf(bytes: Uint8Array, file: string, header: TiffHeader): { data: ArrayLike<number>; channels: number } {
  let data: Uint8Array | Uint16Array | Float32Array | Float64Array;
  let palette: [number, number, number][] | undefined;
  try {
    const [page] = decode(bytes, { pages: [0] });
    ({ data, palette } = page!);
  } catch (e) {
    const why = messageOf(e);
    const unknown = /unsupported/i.test(why);
    throw new MediaError(file, unknown ? `this kind of TIFF cannot be read (${why.toLowerCase()})` : 'its data is cut short or damaged');
  }
  const n = header.width * header.height;
  if (palette) {
    const codes = Uint16Array.from({ length: 3 * n }, (_, i) => palette[data[Math.floor(i / 3)]!]?.[i % 3] ?? 0);
    return { data: codes, channels: 3 };
  }
  if (data.length < n * header.samples) throw new MediaError(file, 'the file is cut short: pixels are missing');
  return { data, channels: header.samples };
}

/** Reads a TIFF of 8 or 16 bit integers. Throws MediaError. */
export function readTiffCodes(bytes: Uint8Array, file: string): CodePicture {
  const header = inspectTiff(bytes, file);
  const { data, channels } = samplesOf(bytes, file, header);
  const { width, height } = header;
  const bits = data instanceof Uint16Array ? 16 : 8;
  return { width, height, bits, channels: channels as 1 | 2 | 3 | 4, data: data as Uint8Array | Uint16Array };
}

/** Reads a TIFF of 32 bit floating point into planes, colour as it stands, alpha straight. Throws MediaError. */
export function readTiffFloat(bytes: Uint8Array, file: string, kernels: Kernels): Picture {
  const header = inspectTiff(bytes, file);
  const { data, channels } = samplesOf(bytes, file, header);
  const format: Format = { width: header.width, height: header.height, pixelAspect: 1 };
  const n = format.width * format.height;
  const planes: Record<string, Plane> = {};
  const take = (name: string, index: number): void => {
    const plane = (planes[name] = kernels.take(n));
    for (let i = 0; i < n; i++) plane[i] = data[i * channels + index]!;
  };
  COLOUR.forEach((c, i) => take(c, channels >= 3 ? i : 0));
  if (channels % 2 === 0) take('A', channels - 1);
  return { format, bounds: formatRect(format), channels: Object.keys(planes), planes };
}

/** Rows a strip: about 64 KB of 8 bit RGB, so that readers need little memory. */
const STRIP_ROWS = 16;

/**
 * Writes RGB or RGBA as TIFF 6.0, little-endian, in strips of deflated rows (compression 8). Alpha is straight. `data` holds
 * interleaved samples: bytes, 16 bit codes, or floats.
 */
export function writeTiff(
  p: { width: number; height: number; channels: 3 | 4; data: Uint8Array | Uint16Array | Float32Array },
  poll: () => void = () => undefined,
): Uint8Array {
  const { width, height, channels, data } = p;
  const size = data.BYTES_PER_ELEMENT;
  const row = width * channels;
  const strips: Uint8Array[] = [];
  for (let y = 0; y < height; y += STRIP_ROWS) {
    const part = data.subarray(y * row, Math.min(height, y + STRIP_ROWS) * row);
    poll();
    strips.push(zlibSync(new Uint8Array(part.buffer, part.byteOffset, part.byteLength), { level: 4 }));
  }
  const offsets: number[] = [];
  let end = 8;
  for (const s of strips) {
    offsets.push(end);
    end += s.length + (s.length & 1);
  }
  const short = 3;
  const long = 4;
  const fields: [tag: number, type: number, values: readonly number[]][] = [
    [TAG.width, long, [width]],
    [TAG.height, long, [height]],
    [TAG.bits, short, Array<number>(channels).fill(8 * size)],
    [259, short, [8]],
    [TAG.photometric, short, [2]],
    [273, long, offsets],
    [TAG.samples, short, [channels]],
    [278, long, [STRIP_ROWS]],
    [279, long, strips.map((s) => s.length)],
    [284, short, [1]],
    ...(channels === 4 ? [[TAG.extra, short, [2]] as [number, number, number[]]] : []),
    [TAG.format, short, Array<number>(channels).fill(size === 4 ? 3 : 1)],
  ];
  const long1 = fields.reduce((sum, [, type, v]) => sum + (v.length * SIZES[type]! > 4 ? v.length * SIZES[type]! + 2 : 0), 0);
  const out = new Uint8Array(end + 2 + 12 * fields.length + 4 + long1);
  const view = new DataView(out.buffer);
  out.set([0x49, 0x49, 42, 0]);
  view.setUint32(4, end, true);
  strips.forEach((s, i) => out.set(s, offsets[i]));
  view.setUint16(end, fields.length, true);
  let spare = end + 2 + 12 * fields.length + 4;
  fields.forEach(([tag, type, values], i) => {
    const entry = end + 2 + 12 * i;
    view.setUint16(entry, tag, true);
    view.setUint16(entry + 2, type, true);
    view.setUint32(entry + 4, values.length, true);
    const inline = values.length * SIZES[type]! <= 4;
    const at = inline ? entry + 8 : spare;
    if (!inline) {
      view.setUint32(entry + 8, spare, true);
      spare += values.length * SIZES[type]! + ((values.length * SIZES[type]!) & 1);
    }
    values.forEach((v, k) => (type === short ? view.setUint16(at + 2 * k, v, true) : view.setUint32(at + 4 * k, v, true)));
  });
  return out;
}
