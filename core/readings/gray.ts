import { LUMA, SRGB } from '../colour/transfer';
import type { Rect } from '../geometry/rect';

export const READING_CHANNELS = ['luma', 'red', 'green', 'blue', 'saturation', 'alpha'] as const;
export type ReadingChannel = (typeof READING_CHANNELS)[number];

/** One channel of a frame, row by row, pixel centres at .5. */
export interface Gray {
  readonly width: number;
  readonly height: number;
  readonly data: Float32Array;
}

/** A frame that gives rectangles of the channel that is measured; beyond its edges it repeats them. */
export interface GrayFrame {
  readonly width: number;
  readonly height: number;
  read(x0: number, y0: number, width: number, height: number): Gray;
}

/** Light as it is seen, so that noise and differences weigh alike in dark and bright parts; by table, from 0 to 4. */
const TABLE = Float32Array.from({ length: 4097 }, (_, i) => SRGB.encode(i / 1024));
export function seen(v: number): number {
  if (!(v > 0)) return 0;
  const t = v * 1024;
  if (t >= 4095) return SRGB.encode(v);
  const i = t | 0;
  return TABLE[i]! + (t - i) * (TABLE[i + 1]! - TABLE[i]!);
}

/** How one value comes of R, G, B, A at an index of interleaved pixels. */
function reader(pixels: Float32Array, channel: ReadingChannel): (i: number) => number {
  switch (channel) {
    case 'luma':
      return (i) => seen(LUMA[0] * pixels[i]! + LUMA[1] * pixels[i + 1]! + LUMA[2] * pixels[i + 2]!);
    case 'saturation':
      return (i) => {
        const [r, g, b] = [seen(pixels[i]!), seen(pixels[i + 1]!), seen(pixels[i + 2]!)];
        const most = Math.max(r, g, b);
        return most > 0 ? (most - Math.min(r, g, b)) / most : 0;
      };
    case 'alpha':
      return (i) => pixels[i + 3]!;
    default: {
      const c = { red: 0, green: 1, blue: 2 }[channel];
      return (i) => seen(pixels[i + c]!);
    }
  }
}

/** The channel of interleaved scene-linear RGBA that covers a region; the frame's own corner is at 0, 0. */
export function grayFrame(
  pixels: Float32Array,
  region: Rect,
  format: { width: number; height: number },
  channel: ReadingChannel,
): GrayFrame {
  const value = reader(pixels, channel);
  const stride = region.x1 - region.x0;
  const { width, height } = format;
  return {
    width,
    height,
    read(x0, y0, w, h) {
      const data = new Float32Array(w * h);
      for (let y = 0, o = 0; y < h; y++) {
        const row = Math.min(region.y1 - 1, Math.max(region.y0, y0 + y)) - region.y0;
        for (let x = 0; x < w; x++, o++) {
          const column = Math.min(region.x1 - 1, Math.max(region.x0, x0 + x)) - region.x0;
          const v = value(4 * (row * stride + column));
          data[o] = Number.isFinite(v) ? v : 0;
        }
      }
      return { width: w, height: h, data };
    },
  };
}

/** A frame of a channel that is there already. */
export function frameOf(gray: Gray): GrayFrame {
  const { width, height, data } = gray;
  return {
    width,
    height,
    read(x0, y0, w, h) {
      const to = new Float32Array(w * h);
      for (let y = 0; y < h; y++) {
        const row = Math.min(height - 1, Math.max(0, y0 + y)) * width;
        if (x0 >= 0 && x0 + w <= width) to.set(data.subarray(row + x0, row + x0 + w), y * w);
        else for (let x = 0; x < w; x++) to[y * w + x] = data[row + Math.min(width - 1, Math.max(0, x0 + x))]!;
      }
      return { width: w, height: h, data: to };
    },
  };
}

/** Smoothed by 1 2 1 along both axes, edges repeated: noise goes down by half and positions between pixels get truer. */
export function calmed({ width: w, height: h, data }: Gray): Gray {
  const across = new Float32Array(w * h);
  for (let y = 0; y < h; y++) {
    const r = y * w;
    for (let x = 1; x < w - 1; x++) across[r + x] = 0.25 * (data[r + x - 1]! + 2 * data[r + x]! + data[r + x + 1]!);
    across[r] = 0.75 * data[r]! + 0.25 * data[r + Math.min(1, w - 1)]!;
    across[r + w - 1] = 0.75 * data[r + w - 1]! + 0.25 * data[r + Math.max(0, w - 2)]!;
  }
  const to = new Float32Array(w * h);
  for (let y = 0; y < h; y++) {
    const [up, down] = [Math.max(0, y - 1) * w, Math.min(h - 1, y + 1) * w];
    for (let x = 0, r = y * w; x < w; x++) to[r + x] = 0.25 * (across[up + x]! + 2 * across[r + x]! + across[down + x]!);
  }
  return { width: w, height: h, data: to };
}

/** Half the size: each pixel the mean of four; an odd last row or column is left out. */
export function halved({ width, height, data }: Gray): Gray {
  const [w, h] = [width >> 1, height >> 1];
  const to = new Float32Array(w * h);
  for (let y = 0, o = 0; y < h; y++) {
    for (let x = 0, i = 2 * y * width; x < w; x++, o++, i += 2) {
      to[o] = 0.25 * (data[i]! + data[i + 1]! + data[i + width]! + data[i + width + 1]!);
    }
  }
  return { width: w, height: h, data: to };
}

/** The value between pixels, bilinear, edges repeated. */
export function sampleAt({ width: w, height: h, data }: Gray, x: number, y: number): number {
  let u = x - 0.5;
  let v = y - 0.5;
  u = u < 0 ? 0 : u > w - 1.001 ? w - 1.001 : u;
  v = v < 0 ? 0 : v > h - 1.001 ? h - 1.001 : v;
  const i = u | 0;
  const j = v | 0;
  const a = j * w + i;
  const top = data[a]! + (u - i) * (data[a + 1]! - data[a]!);
  const bottom = data[a + w]! + (u - i) * (data[a + w + 1]! - data[a + w]!);
  return top + (v - j) * (bottom - top);
}

/**
 * The values of w × h places a pixel apart from each other, the first pixel's corner at x, y: all lie alike between pixels. False,
 * with nothing written, where some of them lie beyond the edges.
 */
export function sampleBlock({ width, height, data }: Gray, x: number, y: number, w: number, h: number, to: Float64Array): boolean {
  const [i, j] = [Math.floor(x), Math.floor(y)];
  if (i < 0 || j < 0 || i + w >= width || j + h >= height) return false;
  const [u, v] = [x - i, y - j];
  const [a, b, c, d] = [(1 - u) * (1 - v), u * (1 - v), (1 - u) * v, u * v];
  for (let row = 0, o = 0; row < h; row++) {
    let p = (j + row) * width + i;
    for (let k = 0; k < w; k++, o++, p++) {
      to[o] = a * data[p]! + b * data[p + 1]! + c * data[p + width]! + d * data[p + width + 1]!;
    }
  }
  return true;
}
