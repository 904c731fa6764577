import { MediaError } from '../../errors';
import type { Rect } from '../../geometry/rect';
import { rect } from '../../geometry/rect';
import type { Reader } from '../reader';
import type { Attribute } from './attributes';
import { readAttribute } from './attributes';

export type PixelType = 'uint' | 'half' | 'float';
export const PIXEL_TYPES: readonly PixelType[] = ['uint', 'half', 'float'];
export const bytesOf = (t: PixelType): number => (t === 'half' ? 2 : 4);

export interface ExrChannel {
  name: string;
  type: PixelType;
  /** Stored in a perceptual scale by B44. */
  linear: boolean;
  /** One sample for every xSampling×ySampling pixels. */
  xSampling: number;
  ySampling: number;
}

export const COMPRESSIONS = ['NONE', 'RLE', 'ZIPS', 'ZIP', 'PIZ', 'PXR24', 'B44', 'B44A', 'DWAA', 'DWAB'] as const;
export type Compression = (typeof COMPRESSIONS)[number];

/** Scan lines in a block. */
export const LINES: Record<Compression, number> = {
  NONE: 1,
  RLE: 1,
  ZIPS: 1,
  ZIP: 16,
  PIZ: 32,
  PXR24: 16,
  B44: 32,
  B44A: 32,
  DWAA: 32,
  DWAB: 256,
};

export interface ExrTiles {
  width: number;
  height: number;
  levels: 'one' | 'mipmap' | 'ripmap';
  roundUp: boolean;
}

export interface ExrPart {
  /** Empty in a file of one part without a name. */
  name: string;
  channels: ExrChannel[];
  compression: Compression;
  /** Half-open, in the file's own coordinates. */
  dataWindow: Rect;
  displayWindow: Rect;
  pixelAspect: number;
  lineOrder: 'increasing' | 'decreasing' | 'random';
  tiles: ExrTiles | null;
  /** Everything else that the header says, as read. */
  attributes: Record<string, Attribute>;
}

export interface ExrHeader {
  parts: ExrPart[];
  /** Blocks name their part. */
  multiPart: boolean;
}

/** A picture larger than this many pixels is refused before anything is allocated. */
export const MAX_PIXELS = 2 ** 28;

const MAGIC = 20000630;
const TILED = 0x200;
const DEEP = 0x800;
const MULTI_PART = 0x1000;
const MAX_PARTS = 256;

/** Reads all headers of a file (OpenEXR file layout, version 2). `limit` bounds a part's pixels. Throws MediaError. */
export function readExrHeader(r: Reader, limit = MAX_PIXELS): ExrHeader {
  if (r.bytes.length < 8 || r.u32('header') !== MAGIC) throw new MediaError(r.file, 'this is not an OpenEXR file');
  const version = r.u32('header');
  if ((version & 0xff) !== 2) throw new MediaError(r.file, `OpenEXR version ${version & 0xff} is not known here`);
  if (version & DEEP) throw new MediaError(r.file, 'it holds deep data, which cannot be read: flatten it first');
  const multiPart = (version & MULTI_PART) !== 0;
  const parts: ExrPart[] = [];
  do {
    if (parts.length >= MAX_PARTS) throw new MediaError(r.file, `it has more than ${MAX_PARTS} parts`);
    parts.push(readPart(r, multiPart ? null : (version & TILED) !== 0, limit));
    // The headers of a file of several parts end with an empty one.
  } while (multiPart && r.bytes[r.at] !== 0);
  if (multiPart) r.u8('header');
  return { parts, multiPart };
}

/** Of a file of one part the version's flags say whether it is tiled, whatever its attribute `type` says; of several it is `type`. */
function readPart(r: Reader, flagged: boolean | null, limit: number): ExrPart {
  const found: Partial<ExrPart> = {};
  const attributes: Record<string, Attribute> = {};
  let type = '';
  for (;;) {
    const name = r.text('header');
    if (name === '') break;
    const kind = r.text('header');
    const size = r.u32('header');
    const end = r.at + size;
    if (end > r.bytes.length) throw new MediaError(r.file, 'the file is cut short: it ends in the middle of its header');
    if (!readNeeded(r, name, found, limit)) {
      const value = readAttribute(r, kind, size);
      if (name === 'type' && typeof value === 'string') type = value;
      else if (name === 'name' && typeof value === 'string') found.name = value;
      else if (value !== null) attributes[name] = value;
    }
    r.at = end;
  }
  const tiled = flagged ?? type === 'tiledimage';
  if (flagged === null && type.startsWith('deep'))
    throw new MediaError(r.file, 'it holds deep data, which cannot be read: flatten it first');
  const { channels, compression, dataWindow, displayWindow } = found;
  for (const [what, has] of Object.entries({ channels, compression, dataWindow, displayWindow })) {
    if (has === undefined) throw new MediaError(r.file, `its header has no "${what}"`);
  }
  if (tiled && !found.tiles) throw new MediaError(r.file, 'its header has no "tiles"');
  return {
    name: found.name ?? '',
    channels: channels!,
    compression: compression!,
    dataWindow: dataWindow!,
    displayWindow: displayWindow!,
    pixelAspect: found.pixelAspect ?? 1,
    lineOrder: found.lineOrder ?? 'increasing',
    tiles: tiled ? found.tiles! : null,
    attributes,
  };
}

/** Reads an attribute that pixels depend on; false for any other. */
function readNeeded(r: Reader, name: string, found: Partial<ExrPart>, limit: number): boolean {
  if (name === 'channels') found.channels = readChannels(r);
  else if (name === 'compression') {
    const code = r.u8('header');
    const compression = COMPRESSIONS[code];
    if (!compression) throw new MediaError(r.file, `its compression has the unknown number ${code}`);
    found.compression = compression;
  } else if (name === 'dataWindow') found.dataWindow = readBox(r, name, limit);
  else if (name === 'displayWindow') found.displayWindow = readBox(r, name, limit);
  else if (name === 'pixelAspectRatio') {
    const aspect = r.f32('header');
    found.pixelAspect = aspect > 0.01 && aspect < 100 ? aspect : 1;
  } else if (name === 'lineOrder') found.lineOrder = (['increasing', 'decreasing', 'random'] as const)[r.u8('header')] ?? 'random';
  else if (name === 'tiles') found.tiles = readTiles(r);
  else return false;
  return true;
}

function readTiles(r: Reader): ExrTiles {
  const [width, height] = [r.u32('header'), r.u32('header')];
  const mode = r.u8('header');
  if (width < 1 || height < 1 || width * height > MAX_PIXELS) throw new MediaError(r.file, `its tiles of ${width}×${height} make no sense`);
  const levels = (['one', 'mipmap', 'ripmap'] as const)[mode & 15];
  if (!levels) throw new MediaError(r.file, `its tiles have the unknown level mode ${mode & 15}`);
  return { width, height, levels, roundUp: mode >> 4 === 1 };
}

function readBox(r: Reader, name: string, limit: number): Rect {
  const [x0, y0, x1, y1] = [r.i32('header'), r.i32('header'), r.i32('header'), r.i32('header')];
  const box = rect(x0, y0, x1 + 1, y1 + 1);
  const [w, h] = [box.x1 - box.x0, box.y1 - box.y0];
  if (w < 1 || h < 1) throw new MediaError(r.file, `its ${name} is empty (${w}×${h})`);
  if (w * h > limit) throw new MediaError(r.file, `its ${name} of ${w}×${h} pixels is too large to open (the limit is ${limit} pixels)`);
  return box;
}

function readChannels(r: Reader): ExrChannel[] {
  const channels: ExrChannel[] = [];
  for (;;) {
    const name = r.text('channel list');
    if (name === '') break;
    const type = PIXEL_TYPES[r.i32('channel list')];
    if (!type) throw new MediaError(r.file, `its channel "${name}" has an unknown pixel type`);
    const linear = r.u8('channel list') !== 0;
    r.take(3, 'channel list');
    const [xSampling, ySampling] = [r.i32('channel list'), r.i32('channel list')];
    if (xSampling < 1 || ySampling < 1 || xSampling > 64 || ySampling > 64) {
      throw new MediaError(r.file, `its channel "${name}" has a sampling of ${xSampling}×${ySampling}, which makes no sense`);
    }
    if (channels.some((c) => c.name === name)) throw new MediaError(r.file, `it lists its channel "${name}" twice`);
    channels.push({ name, type, linear, xSampling, ySampling });
    if (channels.length > 1024) throw new MediaError(r.file, 'it lists more than 1024 channels');
  }
  if (channels.length === 0) throw new MediaError(r.file, 'it has no channels');
  return channels;
}
