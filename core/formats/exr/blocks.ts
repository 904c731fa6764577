import { MediaError } from '../../errors';
import type { Rect } from '../../geometry/rect';
import { rect } from '../../geometry/rect';
import type { Reader } from '../reader';
import type { ExrHeader, ExrPart } from './header';
import { LINES, bytesOf } from './header';

/** A channel's samples inside a block: sub-sampled ones have fewer than the block has pixels. */
export interface BlockChannel {
  /** Index in the part's channel list. */
  index: number;
  width: number;
  height: number;
  bytes: number;
}

/** A stored block of a part: some scan lines or a tile. */
export interface Block {
  /** Half-open, in the file's coordinates. */
  region: Rect;
  data: Uint8Array;
}

const floorDiv = (a: number, b: number): number => Math.floor(a / b);

/** How many samples at multiples of `sampling` lie in [low, high). */
export const samplesIn = (low: number, high: number, sampling: number): number =>
  floorDiv(high - 1, sampling) - floorDiv(low - 1, sampling);

/** The channels' shares of a block, in the file's order. */
export function channelsOf(part: Pick<ExrPart, 'channels'>, region: Rect): BlockChannel[] {
  return part.channels.map((c, index) => ({
    index,
    width: samplesIn(region.x0, region.x1, c.xSampling),
    height: samplesIn(region.y0, region.y1, c.ySampling),
    bytes: bytesOf(c.type),
  }));
}

export const sizeOf = (channels: readonly BlockChannel[]): number => channels.reduce((sum, c) => sum + c.width * c.height * c.bytes, 0);

/** Tiles of the first level across and down. */
function tileCounts(part: ExrPart): [number, number] {
  const { dataWindow: w, tiles } = part;
  return [Math.ceil((w.x1 - w.x0) / tiles!.width), Math.ceil((w.y1 - w.y0) / tiles!.height)];
}

/** How many blocks a part stores: for mip and rip maps all levels count. */
function blockCount(part: ExrPart): number {
  const { dataWindow: w, tiles, compression } = part;
  const [width, height] = [w.x1 - w.x0, w.y1 - w.y0];
  if (!tiles) return Math.ceil(height / LINES[compression]);
  const round = (v: number): number => (tiles.roundUp ? Math.ceil(v) : Math.floor(v));
  const levels = (size: number): number => round(Math.log2(size)) + 1;
  const at = (size: number, level: number, tile: number): number => Math.ceil(Math.max(1, round(size / 2 ** level)) / tile);
  if (tiles.levels === 'one') return at(width, 0, tiles.width) * at(height, 0, tiles.height);
  let sum = 0;
  if (tiles.levels === 'mipmap') {
    for (let l = 0; l < levels(Math.max(width, height)); l++) sum += at(width, l, tiles.width) * at(height, l, tiles.height);
  } else {
    for (let v = 0; v < levels(height); v++) {
      for (let u = 0; u < levels(width); u++) sum += at(width, u, tiles.width) * at(height, v, tiles.height);
    }
  }
  return sum;
}

/** Where the blocks of each part lie; the reader stands behind the headers. Throws MediaError. */
export function readOffsets(r: Reader, header: ExrHeader): number[][] {
  return header.parts.map((part) => {
    const count = blockCount(part);
    if (count * 8 > r.bytes.length) throw new MediaError(r.file, 'the file is cut short: it ends in the middle of its table of blocks');
    return Array.from({ length: count }, () => r.u64('table of blocks'));
  });
}

/** The blocks of a part's full-size level, in the order in which they are stored. Throws MediaError. */
export function* blocksOf(r: Reader, header: ExrHeader, index: number, offsets: readonly number[]): Generator<Block> {
  const part = header.parts[index]!;
  const { dataWindow: dw, tiles } = part;
  const lines = LINES[part.compression];
  const across = tiles ? tileCounts(part) : null;
  const damaged = (what: string): MediaError => new MediaError(r.file, `its pixel data is damaged: ${what}`);
  // The first level's tiles come first in the table.
  const wanted = across ? offsets.slice(0, across[0] * across[1]) : offsets;
  for (const offset of wanted) {
    if (offset === 0) throw new MediaError(r.file, 'it was not written to its end: blocks are missing');
    r.at = offset;
    if (header.multiPart && r.i32('pixel data') !== index) throw damaged('a block belongs to another part');
    let region: Rect;
    if (tiles) {
      const [tx, ty, lx, ly] = [r.i32('pixel data'), r.i32('pixel data'), r.i32('pixel data'), r.i32('pixel data')];
      if (lx !== 0 || ly !== 0 || tx < 0 || ty < 0 || tx >= across![0] || ty >= across![1]) throw damaged(`there is no tile ${tx}, ${ty}`);
      const [x, y] = [dw.x0 + tx * tiles.width, dw.y0 + ty * tiles.height];
      region = rect(x, y, Math.min(dw.x1, x + tiles.width), Math.min(dw.y1, y + tiles.height));
    } else {
      const y = r.i32('pixel data');
      if (y < dw.y0 || y >= dw.y1 || (y - dw.y0) % lines) throw damaged(`there is no line ${y}`);
      region = rect(dw.x0, y, dw.x1, Math.min(dw.y1, y + lines));
    }
    yield { region, data: r.take(r.u32('pixel data'), 'pixel data') };
  }
}
