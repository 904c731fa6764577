import { LUMA } from '../colour/transfer';
import type { Rect } from '../geometry/rect';
import { height, width } from '../geometry/rect';

/** A picture and where in it something is measured: R, G, B of light, not premultiplied, w by h; `inside` is 1 where it counts. */
export interface Look {
  readonly planes: readonly [Float32Array, Float32Array, Float32Array];
  readonly inside: Uint8Array;
  readonly w: number;
  readonly h: number;
}

/** Interleaved R, G, B, A over a region, premultiplied. */
export interface Pixels {
  pixels: Float32Array;
  region: Rect;
}

/** Alpha from which a pixel is wholly of the element. */
const SOLID = 0.98;
/** And up to which it is wholly of the plate. */
const CLEAR = 0.02;

/** What counts of the plate: a ring around the element, so many pixels wide; all of it; or a box, x0, y0, x1, y1. */
export type Around = { ring: number } | { whole: true } | { box: readonly [number, number, number, number] };

/** Pixels between an element's edge and what is measured on either side: the edge itself is a mixture. */
const MARGIN = 3;

/** Distance to the nearest pixel that is set, in pixels, along rows and columns and diagonals (3–4 chamfer), to be compared with. */
function distanceTo(set: (i: number) => boolean, w: number, h: number): Float32Array {
  const d = new Float32Array(w * h);
  const [a, b] = [1, 4 / 3];
  for (let y = 0, i = 0; y < h; y++) {
    for (let x = 0; x < w; x++, i++) {
      if (set(i)) continue;
      let v = 1e6;
      if (x > 0) v = Math.min(v, d[i - 1]! + a);
      if (y > 0) {
        v = Math.min(v, d[i - w]! + a);
        if (x > 0) v = Math.min(v, d[i - w - 1]! + b);
        if (x < w - 1) v = Math.min(v, d[i - w + 1]! + b);
      }
      d[i] = v;
    }
  }
  for (let y = h - 1, i = w * h - 1; y >= 0; y--) {
    for (let x = w - 1; x >= 0; x--, i--) {
      let v = d[i]!;
      if (x < w - 1) v = Math.min(v, d[i + 1]! + a);
      if (y < h - 1) {
        v = Math.min(v, d[i + w]! + a);
        if (x < w - 1) v = Math.min(v, d[i + w + 1]! + b);
        if (x > 0) v = Math.min(v, d[i + w - 1]! + b);
      }
      d[i] = v;
    }
  }
  return d;
}

/** Light without its coverage where something counts. */
function lookOf({ pixels, region }: Pixels, inside: Uint8Array): Look {
  const planes = [0, 1, 2].map((c) =>
    Float32Array.from(inside, (_, i) => {
      const [a, v] = [pixels[4 * i + 3]!, pixels[4 * i + c]!];
      return Number.isFinite(v) ? (a > 1e-4 && a < 1 ? v / a : v) : 0;
    }),
  ) as unknown as Look['planes'];
  return { planes, inside, w: width(region), h: height(region) };
}

/** An element inside its edge. */
export function lookAtElement(element: Pixels): Look {
  const { pixels, region } = element;
  const far = distanceTo((i) => pixels[4 * i + 3]! < SOLID, width(region), height(region));
  return lookOf(
    element,
    Uint8Array.from(far, (d) => Number(d > MARGIN)),
  );
}

/** The plate around an element, of pictures over one region. */
export function lookAround(element: Pixels, plate: Pixels, around: Around): Look {
  const { pixels, region } = element;
  const w = width(region);
  const far = distanceTo((i) => pixels[4 * i + 3]! > CLEAR, w, height(region));
  const counts = (d: number, i: number): boolean => {
    if (d <= MARGIN) return false;
    if ('ring' in around) return d <= MARGIN + around.ring;
    if ('whole' in around) return true;
    const [x, y] = [region.x0 + (i % w), region.y0 + Math.floor(i / w)];
    const [x0, y0, x1, y1] = around.box;
    return x >= Math.min(x0, x1) && x < Math.max(x0, x1) && y >= Math.min(y0, y1) && y < Math.max(y0, y1);
  };
  return lookOf(
    plate,
    Uint8Array.from(far, (d, i) => Number(counts(d, i))),
  );
}

export const lumaOfRgb = ([r, g, b]: readonly number[]): number => LUMA[0]! * r! + LUMA[1]! * g! + LUMA[2]! * b!;

export const lumaOf = ({ planes: [r, g, b] }: Pick<Look, 'planes'>): Float32Array =>
  r.map((v, i) => LUMA[0]! * v + LUMA[1]! * g[i]! + LUMA[2]! * b[i]!);
