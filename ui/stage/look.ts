import { SRGB } from '@/core/colour';
import type { Rendered } from '@/engine';
import type { Surround } from '@/store';
import type { ViewLut } from './gl-lut';
import type { Backing, ChannelView, CompareMode, ViewTransform } from '../workbench/state';

export const CHANNELS: readonly ChannelView[] = ['colour', 'R', 'G', 'B', 'A', 'luma', 'audit', 'overlay'];
export const BACKINGS: readonly Backing[] = ['checker', 'black', 'white', 'grey', 'thirds', 'colour'];
export const TRANSFORMS: readonly ViewTransform[] = ['sRGB', 'Rec.709', 'soft', 'linear', 'P3'];
/** Greys around the picture; the page's own colour is the dark one's. */
export const SURROUND: Record<Surround, readonly [number, number, number]> = {
  dark: [0.169, 0.169, 0.169],
  mid: [0.46, 0.46, 0.46],
  light: [0.74, 0.74, 0.74],
};

/** How a picture is looked at: applied while drawing, so that looking never computes. */
export interface Look {
  /** Canvas pixels at which the picture's left top corner lies, and canvas pixels a full-size pixel. */
  x: number;
  y: number;
  zoom: number;
  exposure: number;
  gamma: number;
  transform: ViewTransform;
  /** The table that a transform of `lut` looks through; sRGB stands in until it is there. */
  lut: ViewLut | null;
  channel: ChannelView;
  backing: Backing;
  backingColour: readonly [number, number, number];
  /** The picture that lies behind, where a lane is the backing and its picture is there. */
  behind: { rendered: Rendered; scale: number } | null;
  surround: Surround;
  /** What is compared with the picture, and how. */
  other: OtherLook | null;
}

export interface OtherLook {
  rendered: Rendered;
  scale: number;
  mode: Exclude<CompareMode, 'off' | 'flip'>;
  /** The wipe's middle in canvas pixels, and the direction from the picture to the other. */
  wipe: readonly [number, number, number, number];
  gain: number;
}

/** Whatever draws a float picture on a canvas. */
export interface Drawing {
  draw(rendered: Rendered | null, scale: number, look: Look): void;
}

/** Scene-linear light to a code value of 0..1, as the shader in gl.ts does it. */
export function displayCode(v: number, transform: ViewTransform, gamma: number): number {
  let c = Math.max(v, 0);
  if (transform === 'soft' && c >= 0.6) c = 0.6 + 0.4 * (1 - Math.exp((0.6 - c) / 0.4));
  c = Math.min(c, 1);
  if (transform === 'Rec.709') c **= 1 / 2.4;
  else if (transform !== 'linear') c = SRGB.encode(c);
  return gamma === 1 ? c : c ** (1 / gamma);
}
