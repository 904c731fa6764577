import type { BlockChannel } from '../blocks';
import { halfOf, halfValue } from './half';
import type { LineOrder } from './lines';
import { inLines } from './lines';

const HALF_MAX = 65504;

/** exp(h/8) for channels that are stored in a perceptual scale. */
let exponentials: Uint16Array | undefined;
function exponentialTable(): Uint16Array {
  exponentials ??= Uint16Array.from({ length: 65536 }, (_, h) => {
    const v = halfValue(h);
    if (!Number.isFinite(v)) return 0;
    return halfOf(v >= 8 * Math.log(HALF_MAX) ? HALF_MAX : Math.exp(v / 8));
  });
  return exponentials;
}

/** Where a sample of a block is stored: first down, then across, each the sum of the one before and six bits. */
const STEPS: readonly (readonly [number, number])[] = [
  [4, 0],
  [8, 4],
  [12, 8],
  [1, 0],
  [5, 4],
  [9, 8],
  [13, 12],
  [2, 1],
  [6, 5],
  [10, 9],
  [14, 13],
  [3, 2],
  [7, 6],
  [11, 10],
  [15, 14],
];

const restore = (v: number): number => (v & 0x8000 ? v & 0x7fff : ~v & 0xffff);

/** Four by four halves from three bytes (all the same) or fourteen. Returns the bytes used. */
function unpackBlock(b: Uint8Array, at: number, s: Uint16Array): number {
  const first = (b[at]! << 8) | b[at + 1]!;
  if (b[at + 2]! >= 13 << 2) {
    s.fill(restore(first));
    return 3;
  }
  const shift = b[at + 2]! >> 2;
  const bias = 0x20 << shift;
  s[0] = first;
  // Six bits each, from bit 6 of the third byte on.
  STEPS.forEach(([to, from], i) => {
    const bit = 22 + 6 * i;
    const byte = at + (bit >> 3);
    const pair = (b[byte]! << 8) | (b[byte + 1] ?? 0);
    const six = (pair >> (10 - (bit & 7))) & 0x3f;
    s[to] = (s[from]! + (six << shift) - bias) & 0xffff;
  });
  for (let i = 0; i < 16; i++) s[i] = restore(s[i]!);
  return 14;
}

/** B44 and B44A: halves in blocks of four by four with a common exponent, anything else as it is. Throws where data is missing. */
export function decodeB44(
  data: Uint8Array,
  channels: readonly BlockChannel[],
  about: readonly { half: boolean; perceptual: boolean }[],
  lines: LineOrder,
): Uint8Array {
  const s = new Uint16Array(16);
  let at = 0;
  const need = (n: number): void => {
    if (at + n > data.length) throw new Error('the block is too short');
  };
  const planes = channels.map((c, i) => {
    const bytes = new Uint8Array(c.width * c.height * c.bytes);
    if (!about[i]!.half) {
      need(bytes.length);
      bytes.set(data.subarray(at, at + bytes.length));
      at += bytes.length;
      return bytes;
    }
    const values = new Uint16Array(bytes.buffer);
    const table = about[i]!.perceptual ? exponentialTable() : null;
    for (let y = 0; y < c.height; y += 4) {
      for (let x = 0; x < c.width; x += 4) {
        need(3);
        if (data[at + 2]! < 13 << 2) need(14);
        at += unpackBlock(data, at, s);
        for (let v = 0; v < Math.min(4, c.height - y); v++) {
          for (let u = 0; u < Math.min(4, c.width - x); u++) {
            const h = s[4 * v + u]!;
            values[(y + v) * c.width + x + u] = table ? table[h]! : h;
          }
        }
      }
    }
    return bytes;
  });
  return inLines(planes, channels, lines);
}
