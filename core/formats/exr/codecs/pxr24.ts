import type { Kernels } from '@/kernels';
import type { BlockChannel } from '../blocks';
import type { LineOrder } from './lines';
import { inflate } from './zip';

/**
 * PXR24: differences along each line, their bytes in planes from the highest down, then zlib. Floats keep 24 bits, the rest is exact.
 * Throws where the data is damaged.
 */
export function decodePxr24(
  data: Uint8Array,
  channels: readonly BlockChannel[],
  isFloat: readonly boolean[],
  lines: LineOrder,
  kernels: Kernels,
): Uint8Array {
  const stored = (i: number): number => (isFloat[i] ? 3 : channels[i]!.bytes);
  const packed = inflate(
    data,
    channels.reduce((sum, c, i) => sum + c.width * c.height * stored(i), 0),
    kernels,
  );
  const out = new Uint8Array(channels.reduce((sum, c) => sum + c.width * c.height * c.bytes, 0));
  const view = new DataView(out.buffer);
  let from = 0;
  let to = 0;
  lines((i) => {
    const { width, bytes } = channels[i]!;
    const planes = stored(i);
    let value = 0;
    for (let x = 0; x < width; x++) {
      let difference = 0;
      for (let p = 0; p < planes; p++) difference = (difference << 8) | packed[from + p * width + x]!;
      if (isFloat[i]) difference <<= 8;
      value = (value + difference) | 0;
      if (bytes === 2) view.setUint16(to, value & 0xffff, true);
      else view.setUint32(to, value >>> 0, true);
      to += bytes;
    }
    from += planes * width;
  });
  return out;
}
