import type { Kernels, Plane } from '@/kernels';
import { MediaError } from '../../errors';
import { copyShared } from '../../filters/copy';
import type { Rect } from '../../geometry/rect';
import { area, rect, union, width } from '../../geometry/rect';
import type { Picture } from '../../picture';
import { COLOUR } from '../../picture';
import { Reader } from '../reader';
import type { Block } from './blocks';
import { blocksOf, channelsOf, readOffsets, samplesIn, sizeOf } from './blocks';
import { expandBlock, lineOrder } from './expand';
import type { ExrChannel, ExrHeader, ExrPart } from './header';
import { MAX_PIXELS, bytesOf, readExrHeader } from './header';
import { LUMA_CHROMA, toColour, upsample } from './luma-chroma';

/** The headers alone. Throws MediaError. */
export const inspectExr = (bytes: Uint8Array, file: string, limit?: number): ExrHeader => readExrHeader(new Reader(bytes, file), limit);

/** A channel of a file as it is called here, and where it is stored. */
export interface ExrSource {
  name: string;
  part: number;
  /** Names inside the part: one, or luma and its two chroma channels for R, G and B made of them. */
  stored: readonly string[];
}

/**
 * The channels of all parts. Those of the first part keep their names; those of others get their part's name as layer where
 * they do not have it already. Luma with both chroma channels, and luma alone, is seen as R, G and B.
 */
export function exrChannels(header: ExrHeader): ExrSource[] {
  const all: ExrSource[] = [];
  const taken = new Set<string>();
  header.parts.forEach((part, index) => {
    const names = part.channels.map((c) => c.name);
    const chroma = LUMA_CHROMA.every((n) => names.includes(n));
    // Luma alone is a grey picture: it is seen as such, and as the channel that it is.
    const grey = index === 0 && !chroma && names.includes('Y') && !COLOUR.some((c) => names.includes(c));
    const own = chroma ? [...names.filter((n) => !LUMA_CHROMA.includes(n)), ...COLOUR] : grey ? [...names, ...COLOUR] : names;
    for (const n of own) {
      const plain = index === 0 || part.name === '' || n.startsWith(`${part.name}.`);
      let name = plain ? n : `${part.name}.${n}`;
      if (taken.has(name)) name = `part${index + 1}.${n}`;
      taken.add(name);
      all.push({ name, part: index, stored: names.includes(n) ? [n] : chroma ? LUMA_CHROMA : ['Y'] });
    }
  });
  return all;
}

/**
 * Reads the named channels (all without a list) of an OpenEXR file as float32 planes: scan lines or the largest level of tiles,
 * any of the ten compressions, one part or several. The first part's display window gives the format and the origin, the parts' data
 * windows together the bounds. Throws MediaError.
 */
export function readExr(bytes: Uint8Array, file: string, kernels: Kernels, wanted?: readonly string[]): Picture {
  const r = new Reader(bytes, file);
  const header = readExrHeader(r);
  const offsets = readOffsets(r, header);
  const chosen = exrChannels(header).filter((c) => !wanted || wanted.includes(c.name));
  const { displayWindow: win, pixelAspect } = header.parts[0]!;
  const used = header.parts.filter((_, i) => chosen.some((c) => c.part === i));
  const bounds = (used.length ? used : header.parts.slice(0, 1)).reduce<Rect>((b, p) => union(b, p.dataWindow), rect(0, 0, 0, 0));
  if (area(bounds) > MAX_PIXELS) throw new MediaError(file, 'its parts lie too far apart to be opened as one picture');
  const planes: Record<string, Plane> = {};
  try {
    header.parts.forEach((part, index) => {
      const own = chosen.filter((c) => c.part === index);
      if (own.length === 0) return;
      const stored = readPart(r, header, index, offsets[index]!, new Set(own.flatMap((c) => c.stored)), kernels);
      try {
        settle(part, own, stored, bounds, planes, kernels);
      } finally {
        for (const plane of stored.values()) kernels.give(plane);
      }
    });
  } catch (e) {
    Object.values(planes).forEach((p) => kernels.give(p));
    throw e;
  }
  return {
    format: { width: win.x1 - win.x0, height: win.y1 - win.y0, pixelAspect },
    bounds: rect(bounds.x0 - win.x0, bounds.y0 - win.y0, bounds.x1 - win.x0, bounds.y1 - win.y0),
    channels: chosen.map((c) => c.name),
    planes,
  };
}

/** Turns a part's stored planes into those asked for, over the bounds of the whole picture. Adds to `planes`. */
function settle(
  part: ExrPart,
  own: readonly ExrSource[],
  stored: Map<string, Plane>,
  bounds: Rect,
  planes: Record<string, Plane>,
  kernels: Kernels,
): void {
  const { dataWindow: dw } = part;
  for (const c of part.channels) {
    const plane = stored.get(c.name);
    if (!plane || (c.xSampling === 1 && c.ySampling === 1)) continue;
    stored.set(c.name, upsample(kernels, plane, c, dw));
    kernels.give(plane);
  }
  const colour = own.some((c) => c.stored.length > 1);
  if (colour) toColour(stored, part.attributes.chromaticities, kernels);
  for (const c of own) {
    const name = c.stored.length > 1 ? c.name.slice(c.name.lastIndexOf('.') + 1) : c.stored[0]!;
    const given = stored.get(name);
    if (!given) {
      // Grey: another of these has the plane already, and each is changed by itself later.
      const same = own.find((o) => o.stored[0] === name && planes[o.name])!;
      planes[c.name] = kernels.copy(planes[same.name]!);
      continue;
    }
    const plane = given;
    if (width(bounds) === width(dw) && area(bounds) === area(dw)) {
      planes[c.name] = plane;
      stored.delete(name);
    } else {
      planes[c.name] = kernels.zeros(area(bounds));
      copyShared(kernels, plane, dw, planes[c.name]!, bounds);
    }
  }
}

/** No picture is packed further than this: deflate ends at 1032, and run lengths of Huffman codes not far above. */
const MOST_RATIO = 4096;

/** Throws MediaError where blocks lie over each other or hold far less than their pixels need. */
function checkBlocks(file: string, part: ExrPart, blocks: readonly Block[]): void {
  const places = blocks.map(({ data }) => [data.byteOffset, data.length] as const).sort((a, b) => a[0] - b[0]);
  const over = places.some(([at], i) => i > 0 && at < places[i - 1]![0] + places[i - 1]![1]);
  if (over) throw new MediaError(file, 'its pixel data is damaged: blocks lie over each other');
  const stored = places.reduce((sum, [, size]) => sum + size, 0);
  const needed = blocks.reduce((sum, b) => sum + sizeOf(channelsOf(part, b.region)), 0);
  if (needed > MOST_RATIO * stored + 2 ** 20)
    throw new MediaError(file, 'its pixel data is damaged: there is too little of it for its size');
}

/** The named channels of a part, each as it is sampled. */
function readPart(
  r: Reader,
  header: ExrHeader,
  index: number,
  offsets: readonly number[],
  names: ReadonlySet<string>,
  kernels: Kernels,
): Map<string, Plane> {
  const part = header.parts[index]!;
  const { dataWindow: dw } = part;
  // Every block is looked up before a pixel is allocated: a small file must not ask for much memory.
  const blocks = [...blocksOf(r, header, index, offsets)];
  checkBlocks(r.file, part, blocks);
  const planes = new Map<string, Plane>();
  let raw: Uint8Array | undefined;
  try {
    for (const c of part.channels) {
      if (!names.has(c.name)) continue;
      const n = samplesIn(dw.x0, dw.x1, c.xSampling) * samplesIn(dw.y0, dw.y1, c.ySampling);
      planes.set(c.name, kernels.zeros(n));
    }
    for (const { region, data } of blocks) {
      const channels = channelsOf(part, region);
      const size = sizeOf(channels);
      if (!raw || raw.length < size + 16) {
        if (raw) kernels.give(raw);
        raw = undefined;
        raw = kernels.bytes(size + 16);
      }
      try {
        raw.set(expandBlock(data, part, region, channels, size, kernels));
      } catch {
        throw new MediaError(r.file, 'its pixel data is damaged: a block does not unpack');
      }
      unpack(part, region, raw, planes, kernels);
    }
    return planes;
  } catch (e) {
    for (const plane of planes.values()) kernels.give(plane);
    throw e;
  } finally {
    if (raw) kernels.give(raw);
  }
}

/** A block's lines into the planes of their channels. */
function unpack(part: ExrPart, region: Rect, raw: Uint8Array, planes: Map<string, Plane>, kernels: Kernels): void {
  const { dataWindow: dw } = part;
  const about = part.channels.map((c) => ({
    c,
    plane: planes.get(c.name),
    n: samplesIn(region.x0, region.x1, c.xSampling),
    stride: samplesIn(dw.x0, dw.x1, c.xSampling),
    left: samplesIn(dw.x0, region.x0, c.xSampling),
  }));
  let from = 0;
  lineOrder(
    part,
    region,
  )((i, y) => {
    const { c, plane, n, stride, left } = about[i]!;
    if (plane) unpackLine(c, raw, from, plane, samplesIn(dw.y0, y, c.ySampling) * stride + left, n, kernels);
    from += n * bytesOf(c.type);
  });
}

function unpackLine(c: ExrChannel, raw: Uint8Array, from: number, plane: Plane, to: number, n: number, kernels: Kernels): void {
  if (c.type === 'half') {
    kernels.fn.halfToFloat(raw.byteOffset + from, plane.byteOffset + 4 * to, n);
    return;
  }
  const bytes = raw.slice(from, from + 4 * n);
  plane.set(c.type === 'float' ? new Float32Array(bytes.buffer) : new Uint32Array(bytes.buffer), to);
}
