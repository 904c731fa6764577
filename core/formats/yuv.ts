import { COLOUR } from '../picture';
import type { Tile } from '../picture';
import type { CodePicture } from './codes';

export type YuvMatrix = 'Rec.601' | 'Rec.709' | 'Rec.2020';

/** Luma weights of red and blue (ITU-R BT.601-7, BT.709-6, BT.2020-2). */
const WEIGHTS: Record<YuvMatrix, readonly [number, number]> = {
  'Rec.601': [0.299, 0.114],
  'Rec.709': [0.2126, 0.0722],
  'Rec.2020': [0.2627, 0.0593],
};

/** A frame as video codecs deliver it: luma, and two colour differences that may be sampled less often. */
export interface YuvPicture {
  width: number;
  height: number;
  bits: 8 | 10 | 12;
  /** Luma samples a chroma sample, 1 or 2. Chroma lies on every other luma column and, vertically, between two rows. */
  subsampling: readonly [number, number];
  matrix: YuvMatrix;
  /** Code values use all bits; else black is 16 and white 235, in steps of 8 bit. */
  fullRange: boolean;
  /** Y, U, V, each tightly packed. */
  planes: readonly [Uint8Array | Uint16Array, Uint8Array | Uint16Array, Uint8Array | Uint16Array];
}

/** A row of a chroma plane drawn out to the luma's columns, linear between samples. */
function widen(from: Float32Array, sub: number, to: Float32Array): void {
  if (sub === 1) {
    to.set(from.subarray(0, to.length));
    return;
  }
  const last = from.length - 1;
  for (let x = 0; x < to.length; x++) {
    const i = x >> 1;
    to[x] = x & 1 ? (from[i]! + from[Math.min(i + 1, last)]!) / 2 : from[i]!;
  }
}

/**
 * RGB code values of 16 bits from luma and colour differences (the matrices of the standards above). What lies over white or under
 * black in the video's range is cut.
 */
export function rgbFromYuv(p: YuvPicture): CodePicture {
  const { width, height, fullRange } = p;
  const [sx, sy] = p.subsampling;
  const [cw, ch] = [Math.ceil(width / sx), Math.ceil(height / sy)];
  const unit = 2 ** (p.bits - 8);
  const top = 2 ** p.bits - 1;
  const [black, span, reach] = fullRange ? [0, top, top / 2] : [16 * unit, 219 * unit, 112 * unit];
  const [kr, kb] = WEIGHTS[p.matrix];
  const kg = 1 - kr - kb;
  const [rv, bu] = [2 * (1 - kr), 2 * (1 - kb)];
  const [gu, gv] = [(-bu * kb) / kg, (-rv * kr) / kg];
  const [Y, ...chroma] = p.planes;
  const rows = chroma.map(() => new Float32Array(width)) as [Float32Array, Float32Array];
  const [us, vs] = rows;
  const packed = new Float32Array(cw);
  const data = new Uint16Array(3 * width * height);
  const [middle, gain] = [128 * unit, 65535 / (2 * reach)];
  const [lift, scale] = [(-black * 65535) / span + 0.5, 65535 / span];
  for (let y = 0; y < height; y++) {
    const at = sy === 1 ? y : (y - 0.5) / 2;
    const above = Math.min(ch - 1, Math.max(0, Math.floor(at)));
    const below = at < 0 ? 0 : Math.min(ch - 1, above + 1);
    const share = Math.min(1, Math.max(0, at - Math.floor(at)));
    for (let k = 0; k < 2; k++) {
      const plane = chroma[k]!;
      for (let i = 0; i < cw; i++) {
        packed[i] = ((1 - share) * plane[above * cw + i]! + share * plane[below * cw + i]! - middle) * gain;
      }
      widen(packed, sx, rows[k]!);
    }
    let o = 3 * y * width;
    for (let x = 0; x < width; x++, o += 3) {
      const luma = Y[y * width + x]! * scale + lift;
      const r = luma + rv * vs[x]!;
      const g = luma + gu * us[x]! + gv * vs[x]!;
      const b = luma + bu * us[x]!;
      data[o] = r <= 0 ? 0 : r >= 65535 ? 65535 : r;
      data[o + 1] = g <= 0 ? 0 : g >= 65535 ? 65535 : g;
      data[o + 2] = b <= 0 ? 0 : b >= 65535 ? 65535 : b;
    }
  }
  return { width, height, bits: 16, channels: 3, data };
}

/**
 * 4:2:0 samples of 8 bits, Rec.709, black 16 and white 235, from linear light through `encode` to code values in 0..1. Of an
 * odd width or height the last column or row is left out. Chroma is filtered 1-2-1 across the columns it stands on and averaged over its two rows.
 */
export function yuvFromTile({ region, planes }: Tile, encode: (v: number) => number): Uint8Array {
  const stride = region.x1 - region.x0;
  const [width, height] = [stride & ~1, (region.y1 - region.y0) & ~1];
  const [kr, kb] = WEIGHTS['Rec.709'];
  const out = new Uint8Array(width * height * 1.5);
  const n = width * height;
  const [cw, quarter] = [width / 2, n / 4];
  const differences = [0, 1].map(() => [new Float32Array(width), new Float32Array(width)] as const);
  const [R, G, B] = COLOUR.map((c) => planes[c]!) as [Float32Array, Float32Array, Float32Array];
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const i = y * stride + x;
      const [r, g, b] = [encode(R[i]!), encode(G[i]!), encode(B[i]!)];
      const luma = kr * r + (1 - kr - kb) * g + kb * b;
      out[y * width + x] = 16.5 + 219 * luma;
      differences[0]![y & 1]![x] = (b - luma) / (2 * (1 - kb));
      differences[1]![y & 1]![x] = (r - luma) / (2 * (1 - kr));
    }
    if ((y & 1) === 0) continue;
    differences.forEach(([a, b], k) => {
      const row = n + k * quarter + (y >> 1) * cw;
      for (let x = 0; x < cw; x++) {
        const [l, m, r] = [Math.max(0, 2 * x - 1), 2 * x, 2 * x + 1];
        const sum = a[l]! + b[l]! + 2 * (a[m]! + b[m]!) + a[r]! + b[r]!;
        out[row + x] = 128.5 + 224 * (sum / 8);
      }
    });
  }
  return out;
}
