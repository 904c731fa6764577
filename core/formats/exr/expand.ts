import type { Kernels } from '@/kernels';
import type { Rect } from '../../geometry/rect';
import type { BlockChannel } from './blocks';
import { decodeB44 } from './codecs/b44';
import { decodeDwa } from './codecs/dwa';
import { decodePiz } from './codecs/piz';
import { decodePxr24 } from './codecs/pxr24';
import { inflate, unRle, unpredict } from './codecs/zip';
import type { ExrPart } from './header';

/** The lines of a block in the order in which they are stored: line by line, in each the channels that have samples there. */
export function lineOrder(part: Pick<ExrPart, 'channels'>, region: Rect): (line: (channel: number, y: number) => void) => void {
  return (line) => {
    for (let y = region.y0; y < region.y1; y++) {
      part.channels.forEach((c, i) => {
        if (y % c.ySampling === 0) line(i, y);
      });
    }
  };
}

/** Unpacks a stored block to `size` bytes. Throws anything where the data is damaged. */
export function expandBlock(
  data: Uint8Array,
  part: ExrPart,
  region: Rect,
  channels: readonly BlockChannel[],
  size: number,
  kernels: Kernels,
): Uint8Array {
  // A block that does not get smaller is stored as it is.
  if (data.length === size) return data;
  const lines = lineOrder(part, region);
  const unpacked = ((): Uint8Array => {
    switch (part.compression) {
      case 'NONE':
        throw new Error('wrong size');
      case 'RLE':
        return unpredict(unRle(data, size), kernels);
      case 'ZIPS':
      case 'ZIP':
        return unpredict(inflate(data, size, kernels), kernels);
      case 'PIZ':
        return decodePiz(data, channels, lines, kernels);
      case 'PXR24':
        return decodePxr24(
          data,
          channels,
          part.channels.map((c) => c.type === 'float'),
          lines,
          kernels,
        );
      case 'B44':
      case 'B44A':
        return decodeB44(
          data,
          channels,
          part.channels.map((c) => ({ half: c.type === 'half', perceptual: c.linear })),
          lines,
        );
      case 'DWAA':
      case 'DWAB':
        return decodeDwa(data, channels, part.channels, lines, kernels);
    }
  })();
  if (unpacked.length !== size) throw new Error('wrong size');
  return unpacked;
}
