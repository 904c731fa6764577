import type { ColourSpace } from '../document/types';

/** Rec.709 luma weights, also those of scene-linear luminance with its primaries. */
export const LUMA = [0.2126, 0.7152, 0.0722] as const;

interface Transfer {
  /** Code value (0..1) to scene-linear. */
  decode(v: number): number;
  /** Scene-linear to code value. */
  encode(v: number): number;
}

/** Both ways of each transfer function; negative values mirror, so that the ways stay inverse. */
export const TRANSFERS: Record<ColourSpace, Transfer> = {
  /** IEC 61966-2-1 */
  sRGB: {
    decode: odd((v) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)),
    encode: odd((v) => (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055)),
  },
  /** ITU-R BT.709-6, the camera's curve */
  'Rec.709': {
    decode: odd((v) => (v < 0.081 ? v / 4.5 : ((v + 0.099) / 1.099) ** (1 / 0.45))),
    encode: odd((v) => (v < 0.018 ? v * 4.5 : 1.099 * v ** 0.45 - 0.099)),
  },
  linear: { decode: (v) => v, encode: (v) => v },
};

function odd(f: (v: number) => number): (v: number) => number {
  return (v) => (v < 0 ? -f(-v) : f(v));
}

const tables = new Map<string, Float32Array>();

/** Scene-linear values of all code values of 8 or 16 bits. */
export function decodeTable(space: ColourSpace, bits: 8 | 16): Float32Array {
  const key = `${space}/${bits}`;
  let table = tables.get(key);
  if (!table) {
    const { decode } = TRANSFERS[space];
    const top = 2 ** bits - 1;
    table = Float32Array.from({ length: top + 1 }, (_, i) => decode(i / top));
    tables.set(key, table);
  }
  return table;
}
