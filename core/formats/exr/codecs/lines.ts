import type { BlockChannel } from '../blocks';

/** Calls back with each channel's index for each of its lines, in the order in which a block stores them. */
export type LineOrder = (line: (channel: number) => void) => void;

/** The bytes of whole channels as a block stores them: line by line, in each line channel by channel. */
export function inLines(planes: readonly Uint8Array[], channels: readonly BlockChannel[], lines: LineOrder): Uint8Array {
  const out = new Uint8Array(planes.reduce((sum, p) => sum + p.length, 0));
  const next = planes.map(() => 0);
  let to = 0;
  lines((i) => {
    const n = channels[i]!.width * channels[i]!.bytes;
    out.set(planes[i]!.subarray(next[i]!, next[i]! + n), to);
    next[i]! += n;
    to += n;
  });
  return out;
}
