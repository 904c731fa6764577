import type { Plane } from '@/kernels';
import type { Rect } from './geometry/rect';
import { rect, union } from './geometry/rect';
import type { RoledPass } from './passes/pass';

/** The frame a picture is made for. Pixels may lie outside it, and need not fill it. */
export interface Format {
  readonly width: number;
  readonly height: number;
  /** Width of a pixel over its height. */
  readonly pixelAspect: number;
}

/** What is known of a picture before any pixel is computed. */
export interface PictureInfo {
  readonly format: Format;
  /** The rectangle that really holds pixels; zero outside. */
  readonly bounds: Rect;
  /** OpenEXR names: `R`, `A`, `diffuse.R`, `Z`. */
  readonly channels: readonly string[];
  /** Of a render: what its passes are for. */
  readonly passes?: readonly RoledPass[];
}

/** Pixels of some channels over a region: scene-linear, premultiplied, one plane a channel, rows of the region's width. */
export interface Tile {
  readonly region: Rect;
  readonly planes: Record<string, Plane>;
}

/** A whole picture, as a source delivers it. */
export interface Picture extends PictureInfo {
  readonly planes: Record<string, Plane>;
}

export const COLOUR = ['R', 'G', 'B'] as const;
export const RGBA = ['R', 'G', 'B', 'A'] as const;

export const formatRect = (f: Format): Rect => rect(0, 0, f.width, f.height);

/** Frame and bounds together: beyond it nothing is known of a picture; inside it, where it holds nothing, there is nothing. */
export const domainOf = ({ bounds, format }: Pick<PictureInfo, 'bounds' | 'format'>): Rect => union(bounds, formatRect(format));

/** The format at a proxy scale. */
export const scaleFormat = (f: Format, scale: number): Format =>
  scale === 1 ? f : { width: Math.ceil(f.width * scale), height: Math.ceil(f.height * scale), pixelAspect: f.pixelAspect };

/** `diffuse.R` is channel `R` of layer `diffuse`; `R` is of the unnamed layer. */
export function splitChannel(name: string): { layer: string; channel: string } {
  const dot = name.lastIndexOf('.');
  return dot < 0 ? { layer: '', channel: name } : { layer: name.slice(0, dot), channel: name.slice(dot + 1) };
}

/** The layers of a channel list, the unnamed one first. */
export function layersOf(channels: readonly string[]): string[] {
  const layers = new Set(channels.map((c) => splitChannel(c).layer));
  return [...layers].sort((a, b) => (a === '' ? -1 : b === '' ? 1 : a.localeCompare(b)));
}
