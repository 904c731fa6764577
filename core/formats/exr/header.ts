import { MediaError } from '../../errors';
import type { Rect } from '../../geometry/rect';
import { rect } from '../../geometry/rect';
import type { Reader } from '../reader';

export type PixelType = 'uint' | 'half' | 'float';
export const PIXEL_TYPES: readonly PixelType[] = ['uint', 'half', 'float'];
export const bytesOf = (t: PixelType): number => (t === 'half' ? 2 : 4);

export interface ExrChannel {
  name: string;
  type: PixelType;
}

export const COMPRESSIONS = ['NONE', 'RLE', 'ZIPS', 'ZIP', 'PIZ', 'PXR24', 'B44', 'B44A', 'DWAA', 'DWAB'] as const;
export type Compression = (typeof COMPRESSIONS)[number];

/** Scan lines in a block. */
export const LINES: Partial<Record<Compression, number>> = { NONE: 1, RLE: 1, ZIPS: 1, ZIP: 16 };

export interface ExrHeader {
  channels: ExrChannel[];
  compression: Compression;
  /** Half-open, in the file's own coordinates. */
  dataWindow: Rect;
  displayWindow: Rect;
  pixelAspect: number;
  lineOrder: number;
  /** Text and number attributes, as read. */
  attributes: Record<string, string | number>;
}

/** A picture larger than this is refused before anything is allocated. */
export const MAX_PIXELS = 2 ** 28;

const MAGIC = 20000630;

/** Reads the header of a single-part scan-line file (OpenEXR file layout). Throws MediaError. */
export function readExrHeader(r: Reader): ExrHeader {
  if (r.bytes.length < 8 || r.u32('header') !== MAGIC) throw new MediaError(r.file, 'this is not an OpenEXR file');
  const version = r.u32('header');
  if ((version & 0xff) !== 2) throw new MediaError(r.file, `OpenEXR version ${version & 0xff} is not known here`);
  if (version & 0x800) throw new MediaError(r.file, 'it holds deep data, which cannot be read');
  if (version & 0x1000) throw new MediaError(r.file, 'it has several parts, which cannot be read yet');
  if (version & 0x200) throw new MediaError(r.file, 'it is tiled, and only scan-line files can be read yet');
  const found: Partial<ExrHeader> = {};
  const attributes: Record<string, string | number> = {};
  for (;;) {
    const name = r.text('header');
    if (name === '') break;
    const type = r.text('header');
    const size = r.u32('header');
    const end = r.at + size;
    readAttribute(r, name, type, size, found, attributes);
    r.at = end;
    if (end > r.bytes.length) throw new MediaError(r.file, 'the file is cut short: it ends in the middle of its header');
  }
  const { channels, compression, dataWindow, displayWindow } = found;
  for (const [what, has] of Object.entries({ channels, compression, dataWindow, displayWindow })) {
    if (has === undefined) throw new MediaError(r.file, `its header has no "${what}"`);
  }
  return {
    channels: channels!,
    compression: compression!,
    dataWindow: dataWindow!,
    displayWindow: displayWindow!,
    pixelAspect: found.pixelAspect ?? 1,
    lineOrder: found.lineOrder ?? 0,
    attributes,
  };
}

function readAttribute(
  r: Reader,
  name: string,
  type: string,
  size: number,
  found: Partial<ExrHeader>,
  attributes: Record<string, string | number>,
): void {
  if (name === 'channels') found.channels = readChannels(r);
  else if (name === 'compression') {
    const code = r.u8('header');
    const compression = COMPRESSIONS[code];
    if (!compression) throw new MediaError(r.file, `its compression has the unknown number ${code}`);
    found.compression = compression;
  } else if (name === 'dataWindow') found.dataWindow = readBox(r, name);
  else if (name === 'displayWindow') found.displayWindow = readBox(r, name);
  else if (name === 'pixelAspectRatio') {
    const aspect = r.f32('header');
    found.pixelAspect = aspect > 0.01 && aspect < 100 ? aspect : 1;
  } else if (name === 'lineOrder') found.lineOrder = r.u8('header');
  else if (type === 'string') attributes[name] = String.fromCharCode(...r.take(Math.min(size, 4096), 'header'));
  else if (type === 'float') attributes[name] = r.f32('header');
  else if (type === 'int') attributes[name] = r.i32('header');
}

function readBox(r: Reader, name: string): Rect {
  const [x0, y0, x1, y1] = [r.i32('header'), r.i32('header'), r.i32('header'), r.i32('header')];
  const box = rect(x0, y0, x1 + 1, y1 + 1);
  const [w, h] = [box.x1 - box.x0, box.y1 - box.y0];
  if (w < 1 || h < 1) throw new MediaError(r.file, `its ${name} is empty (${w}×${h})`);
  if (w * h > MAX_PIXELS) throw new MediaError(r.file, `its ${name} of ${w}×${h} pixels is too large to open`);
  return box;
}

function readChannels(r: Reader): ExrChannel[] {
  const channels: ExrChannel[] = [];
  for (;;) {
    const name = r.text('channel list');
    if (name === '') break;
    const type = PIXEL_TYPES[r.i32('channel list')];
    if (!type) throw new MediaError(r.file, `its channel "${name}" has an unknown pixel type`);
    r.take(4, 'channel list');
    const [sx, sy] = [r.i32('channel list'), r.i32('channel list')];
    if (sx !== 1 || sy !== 1) throw new MediaError(r.file, `its channel "${name}" is sub-sampled, which cannot be read yet`);
    channels.push({ name, type });
    if (channels.length > 1024) throw new MediaError(r.file, 'it lists more than 1024 channels');
  }
  if (channels.length === 0) throw new MediaError(r.file, 'it has no channels');
  return channels;
}
