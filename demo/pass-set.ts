import type { Kernels } from '@/kernels';
import type { PixelType } from '@/core/formats';
import { idAttributes, writeExr } from '@/core/formats';
import { OBJECTS } from './diver';
import type { DiverOptions } from './sg030';
import { ID_NAME, renderDiver } from './sg030';

const typeOf = (channel: string): PixelType => {
  if (channel === 'objectId.Y') return 'uint';
  return channel === 'Z' || channel.startsWith('P.') || channel.startsWith(ID_NAME) ? 'float' : 'half';
};

/** Rounds to so many significant bits, so that what no eye sees takes no room in the file. */
function keepBits(plane: Float32Array, significant: number): void {
  for (let i = 0; i < plane.length; i++) {
    const v = plane[i]!;
    if (v === 0) continue;
    const unit = 2 ** (Math.floor(Math.log2(Math.abs(v))) + 1 - significant);
    plane[i] = Math.round(v / unit) * unit;
  }
}

/** Significant bits that each channel keeps: places need more than shares of light. */
const bitsOf = (channel: string): number => {
  if (typeOf(channel) === 'float') return 12;
  if (/^([RGBA]|N\..|uv\..)$/.test(channel)) return 9;
  return channel.startsWith('motion') ? 8 : 7;
};

/** The diver's passes of a frame as a multi-layer OpenEXR file. */
export function passSet(frame: number, options: DiverOptions, kernels: Kernels): Uint8Array {
  const { bounds, planes } = renderDiver(frame, options);
  const channels = Object.entries(planes).map(([name, values]) => {
    if (!name.startsWith(ID_NAME)) keepBits(values, bitsOf(name));
    return { name, type: typeOf(name), plane: kernels.copy(values) };
  });
  const format = { width: options.width, height: options.height, pixelAspect: 1 };
  const attributes = {
    ...idAttributes(ID_NAME, OBJECTS),
    comments: 'Saltgate Light, SG030 brass diver',
    owner: 'the demo generator',
    capDate: '2026:11:23 12:00:00',
  };
  const bytes = writeExr({ format, bounds, channels, compression: 'ZIP', attributes }, kernels);
  channels.forEach((c) => kernels.give(c.plane));
  return bytes;
}
