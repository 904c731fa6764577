import { strFromU8, strToU8 } from 'fflate';
import type { Kernels, Plane } from '@/kernels';
import { MediaError } from '../errors';
import type { Format, Picture, Tile } from '../picture';
import { COLOUR, formatRect } from '../picture';
import { MAX_PIXELS } from './exr/header';

// Radiance's picture format: text lines, a resolution line, then mantissas of red, green and blue with a common exponent (Ward 1991).

const isText = (bytes: Uint8Array, text: string): boolean => [...text].every((c, i) => bytes[i] === c.charCodeAt(0));

export const isRadiance = (bytes: Uint8Array): boolean => isText(bytes, '#?RADIANCE') || isText(bytes, '#?RGBE');

interface RadianceHeader {
  format: Format;
  /** Where the pixels begin. */
  offset: number;
}

/** Throws MediaError. */
export function inspectRadiance(bytes: Uint8Array, file: string): RadianceHeader {
  if (!isRadiance(bytes)) throw new MediaError(file, 'this is not a Radiance file');
  let at = 0;
  const line = (): string => {
    const end = bytes.indexOf(10, at);
    if (end < 0 || end - at > 4096) throw new MediaError(file, 'the file is cut short: it ends in the middle of its header');
    const text = strFromU8(bytes.subarray(at, end));
    at = end + 1;
    return text;
  };
  for (let text = line(); text !== ''; text = line()) {
    if (text.startsWith('FORMAT=') && text !== 'FORMAT=32-bit_rle_rgbe')
      throw new MediaError(file, `its pixels (${text.slice(7)}) cannot be read; RGBE can`);
  }
  const size = /^-Y (\d+) \+X (\d+)$/.exec(line());
  if (!size) throw new MediaError(file, 'its lines do not run from the top left, which cannot be read');
  const [height, width] = [Number(size[1]), Number(size[2])];
  if (width < 1 || height < 1) throw new MediaError(file, `its size of ${width}×${height} is empty`);
  if (width * height > MAX_PIXELS) throw new MediaError(file, `its size of ${width}×${height} pixels is too large to open`);
  return { format: { width, height, pixelAspect: 1 }, offset: at };
}

/** Reads R, G and B as scene-linear light. Throws MediaError. */
export function readRadiance(bytes: Uint8Array, file: string, kernels: Kernels): Picture {
  const { format, offset } = inspectRadiance(bytes, file);
  const { width: w, height: h } = format;
  const short = (): MediaError => new MediaError(file, 'the file is cut short: pixels are missing');
  // A line takes at least four bytes: a size that the file cannot hold is found before memory is taken.
  if (bytes.length - offset < 4 * h) throw short();
  const planes: Record<string, Plane> = {};
  for (const c of COLOUR) planes[c] = kernels.take(w * h);
  const row = new Uint8Array(4 * w);
  let at = offset;
  try {
    for (let y = 0; y < h; y++) {
      at = readLine(bytes, at, row, w, short);
      for (let x = 0; x < w; x++) {
        const e = row[3 * w + x]!;
        const scale = e === 0 ? 0 : 2 ** (e - 136);
        COLOUR.forEach((c, k) => (planes[c]![y * w + x] = row[k * w + x]! * scale));
      }
    }
  } catch (e) {
    Object.values(planes).forEach((p) => kernels.give(p));
    throw e;
  }
  return { format, bounds: formatRect(format), channels: [...COLOUR], planes };
}

/** One line as four runs of bytes: all reds, greens, blues, exponents. Returns the place behind it. */
function readLine(bytes: Uint8Array, from: number, row: Uint8Array, w: number, short: () => Error): number {
  let at = from;
  if (at + 4 > bytes.length) throw short();
  const coded = w >= 8 && w < 32768 && bytes[at] === 2 && bytes[at + 1] === 2 && bytes[at + 2]! * 256 + bytes[at + 3]! === w;
  if (!coded) {
    if (at + 4 * w > bytes.length) throw short();
    for (let x = 0; x < w; x++) for (let k = 0; k < 4; k++) row[k * w + x] = bytes[at + 4 * x + k]!;
    return at + 4 * w;
  }
  at += 4;
  for (let i = 0; i < 4 * w;) {
    const end = (Math.floor(i / w) + 1) * w;
    const n = bytes[at++];
    if (n === undefined) throw short();
    const count = n > 128 ? n - 128 : n;
    if (count === 0 || i + count > end || at + (n > 128 ? 1 : count) > bytes.length) throw short();
    if (n > 128) row.fill(bytes[at++]!, i, i + count);
    else {
      row.set(bytes.subarray(at, at + count), i);
      at += count;
    }
    i += count;
  }
  return at;
}

/** Writes a tile's R, G and B; what is negative becomes 0. Lines of 8 to 32,767 pixels are packed. */
export function writeRadiance({ region, planes }: Tile): Uint8Array {
  const [w, h] = [region.x1 - region.x0, region.y1 - region.y0];
  const out: number[] = [...strToU8(`#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y ${h} +X ${w}\n`)];
  const row = new Uint8Array(4 * w);
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const rgb = COLOUR.map((c) => Math.max(0, planes[c]![y * w + x]!) || 0);
      const most = Math.min(Math.max(...rgb), 2 ** 126);
      const e = most > 1e-32 ? Math.floor(Math.log2(most)) + 1 : -128;
      const scale = e === -128 ? 0 : 2 ** (8 - e);
      rgb.forEach((v, k) => (row[k * w + x] = Math.min(255, Math.round(v * scale))));
      row[3 * w + x] = e + 128;
    }
    if (w < 8 || w > 32767) {
      for (let x = 0; x < w; x++) for (let k = 0; k < 4; k++) out.push(row[k * w + x]!);
      continue;
    }
    out.push(2, 2, w >> 8, w & 255);
    for (let k = 0; k < 4; k++) packRun(row.subarray(k * w, (k + 1) * w), out);
  }
  return Uint8Array.from(out);
}

/** Runs of three and more as length and value, the rest as they are. */
function packRun(line: Uint8Array, out: number[]): void {
  for (let i = 0; i < line.length;) {
    let run = 1;
    while (i + run < line.length && run < 127 && line[i + run] === line[i]) run++;
    if (run > 2) {
      out.push(128 + run, line[i]!);
      i += run;
      continue;
    }
    const from = i;
    while (i < line.length && i - from < 128 && !(line[i] === line[i + 1] && line[i] === line[i + 2])) i++;
    out.push(i - from, ...line.subarray(from, i));
  }
}
