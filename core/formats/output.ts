import type { Kernels } from '@/kernels';
import { LINEAR_SPACES, SPACES, chromaticitiesOf, matricesOf } from '../colour/spaces';
import type { Planes3 } from '../colour/convert';
import { turn } from '../colour/convert';
import type { ColourSpace } from '../document/types';
import type { Format, Tile } from '../picture';
import { passesOf } from '../layers';
import { COLOUR } from '../picture';
import type { CodePicture } from './codes';
import { writePng } from './codes';
import { dpxTransfer, writeDpx } from './dpx';
import { writeRadiance } from './radiance';
import { writeTiff } from './tiff';
import { yuvFromTile } from './yuv';
import type { WrittenCompression } from './exr/write';
import { writeExr } from './exr/write';

interface ContainerAbout {
  title: string;
  /** Bits a sample that can be chosen, the usual one first; 32 is floating point. */
  bits: readonly number[];
  alpha: boolean;
  /** What its values mean unless said. */
  space: ColourSpace;
  /** Loses something: how much is chosen by a quality of 1 to 100. */
  quality?: boolean;
}

/** Kinds of files that can be written, by their ending. */
export const CONTAINERS = {
  exr: { title: 'OpenEXR', bits: [16, 32], alpha: true, space: 'linear' },
  png: { title: 'PNG', bits: [8, 16], alpha: true, space: 'sRGB' },
  tif: { title: 'TIFF', bits: [16, 8, 32], alpha: true, space: 'sRGB' },
  jpg: { title: 'JPEG', bits: [8], alpha: false, space: 'sRGB', quality: true },
  webp: { title: 'WebP', bits: [8], alpha: true, space: 'sRGB', quality: true },
  dpx: { title: 'DPX', bits: [10, 16], alpha: false, space: 'Rec.709' },
  hdr: { title: 'Radiance HDR', bits: [32], alpha: false, space: 'linear' },
} as const satisfies Record<string, ContainerAbout>;

export type OutputContainer = keyof typeof CONTAINERS;
export const OUTPUT_CONTAINERS = Object.keys(CONTAINERS) as OutputContainer[];

export interface OutputSettings {
  /** `yuv` is a movie's frame: 4:2:0 samples as `yuvFromTile` makes them. */
  container: OutputContainer | 'yuv';
  /** A sample, one that CONTAINERS lists; of OpenEXR 16 is half and 32 float. */
  bits: number;
  /** What integer code values mean; for floating point one of the linear spaces, linear Rec.709 for any other. */
  colourSpace: ColourSpace;
  /** Integers and TIFF hold straight alpha, OpenEXR premultiplied. */
  alpha: boolean;
  compression: WrittenCompression;
  /** 1 to 100, of JPEG and WebP. */
  quality: number;
  /** Of OpenEXR: the passes that are written, by the names of `passesOf`; all without it. */
  layers?: readonly string[];
  /** Of OpenEXR: the shot, lane, frame, sources and time code stand in the header. */
  notes?: boolean;
  /** Of OpenEXR: what goes into the header, by name; see ExrOutput. */
  attributes?: Readonly<Record<string, string | readonly number[]>>;
  /** Of OpenEXR: channels that are stored otherwise than the bits say. */
  types?: Readonly<Record<string, 'float' | 'uint'>>;
}

export const DEFAULT_OUTPUT: OutputSettings = {
  container: 'exr',
  bits: 16,
  colourSpace: 'linear',
  alpha: true,
  compression: 'ZIP',
  quality: 92,
};

/** Its values are light, not codes: it takes a linear space. */
export const isLight = ({ container, bits }: Pick<OutputSettings, 'container' | 'bits'>): boolean =>
  container === 'exr' || container === 'hdr' || (container === 'tif' && bits === 32);

const holdsAlpha = (s: OutputSettings): boolean => s.alpha && s.container !== 'yuv' && CONTAINERS[s.container].alpha;

/** The channels a file of these settings holds, of those a picture has. */
export function outputChannels(settings: OutputSettings, channels: readonly string[]): string[] {
  const { container, layers } = settings;
  const chosen = passesOf(channels).flatMap((p) => (!layers || layers.includes(p.name) ? p.channels : []));
  const kept = channels.filter((c) => (container === 'exr' ? chosen.includes(c) : ['R', 'G', 'B', 'A'].includes(c)));
  return kept.filter((c) => c !== 'A' || holdsAlpha(settings));
}

/** JPEG and WebP are compressed by whoever calls this, from the codes that come back; everything else is a file's bytes. */
export type Written = { bytes: Uint8Array } | { codes: CodePicture };

/**
 * A tile as a file. The tile must hold R, G, B (and A where alpha is asked for), but for OpenEXR, which takes any channels. `poll`
 * is called now and then by what takes long, and its error ends the work.
 */
export function writePicture(
  tile: Tile,
  format: Format,
  settings: OutputSettings,
  kernels: Kernels,
  poll: () => void = () => undefined,
): Written {
  const space = isLight(settings) && !LINEAR_SPACES.includes(settings.colourSpace) ? 'linear' : settings.colourSpace;
  const matrices = matricesOf(space);
  if (!matrices || !COLOUR.every((c) => tile.planes[c])) return fileOf(tile, format, settings, space, kernels, poll);
  // The tile's planes may be shared: the change of primaries is made on copies.
  const copies = COLOUR.map((c) => kernels.copy(tile.planes[c]!));
  turn(copies as unknown as Planes3, matrices.toSpace, kernels);
  const planes = { ...tile.planes, R: copies[0]!, G: copies[1]!, B: copies[2]! };
  try {
    return fileOf({ ...tile, planes }, format, settings, space, kernels, poll);
  } finally {
    copies.forEach((p) => kernels.give(p));
  }
}

function fileOf(tile: Tile, format: Format, settings: OutputSettings, space: ColourSpace, kernels: Kernels, poll: () => void): Written {
  poll();
  switch (settings.container) {
    case 'exr':
      return { bytes: exrOf(tile, format, settings, space, kernels, poll) };
    case 'hdr':
      return { bytes: writeRadiance(tile) };
    case 'yuv':
      return { bytes: yuvFromTile(tile, encoder(space)) };
    case 'tif':
      return { bytes: writeTiff(tiffOf(tile, settings), poll) };
    case 'png':
      return { bytes: writePng(codesOf(tile, settings), poll) };
    case 'dpx': {
      const { width, height, bits, data } = codesOf(tile, settings);
      return { bytes: writeDpx({ width, height, bits: bits as 10 | 16, data: data as Uint16Array, transfer: dpxTransfer(space) }) };
    }
    case 'jpg':
    case 'webp':
      return { codes: codesOf(tile, settings) };
  }
}

function exrOf(
  { region, planes }: Tile,
  format: Format,
  settings: OutputSettings,
  space: ColourSpace,
  kernels: Kernels,
  poll: () => void,
): Uint8Array {
  const usual = settings.bits === 32 ? 'float' : 'half';
  const channels = Object.entries(planes).map(([name, plane]) => ({ name, type: settings.types?.[name] ?? usual, plane }) as const);
  const attributes = { ...settings.attributes, chromaticities: chromaticitiesOf(space) };
  return writeExr({ format, bounds: region, channels, compression: settings.compression, attributes }, kernels, poll);
}

/** Samples of a file with straight alpha, pixel by pixel, each through `put`. */
function eachSample({ region, planes }: Tile, alpha: boolean, put: (i: number, colour: number, isAlpha: boolean) => void): void {
  const n = (region.x1 - region.x0) * (region.y1 - region.y0);
  const count = alpha ? 4 : 3;
  COLOUR.forEach((c, k) => {
    const plane = planes[c]!;
    for (let i = 0; i < n; i++) {
      const a = alpha ? planes.A![i]! : 1;
      put(i * count + k, a > 0 && alpha ? plane[i]! / Math.min(a, 1) : plane[i]!, false);
    }
  });
  if (alpha) for (let i = 0; i < n; i++) put(i * count + 3, planes.A![i]!, true);
}

function codesOf(tile: Tile, settings: OutputSettings): CodePicture {
  const { region } = tile;
  const [width, height] = [region.x1 - region.x0, region.y1 - region.y0];
  const alpha = holdsAlpha(settings);
  const bits = settings.bits as 8 | 10 | 16;
  const channels = alpha ? 4 : 3;
  const top = 2 ** bits - 1;
  const data = bits === 8 ? new Uint8Array(width * height * channels) : new Uint16Array(width * height * channels);
  const encode = encoder(settings.colourSpace);
  eachSample(tile, alpha, (i, v, isAlpha) => (data[i] = (isAlpha ? Math.min(1, Math.max(0, v)) : encode(v)) * top + 0.5));
  return { width, height, bits, channels, data };
}

function tiffOf(tile: Tile, settings: OutputSettings): Parameters<typeof writeTiff>[0] {
  if (settings.bits !== 32) {
    const { width, height, channels, data } = codesOf(tile, settings);
    return { width, height, channels: channels as 3 | 4, data: data as Uint8Array };
  }
  const { region } = tile;
  const [width, height] = [region.x1 - region.x0, region.y1 - region.y0];
  const channels = holdsAlpha(settings) ? 4 : 3;
  const data = new Float32Array(width * height * channels);
  eachSample(tile, channels === 4, (i, v) => (data[i] = v));
  return { width, height, channels, data };
}

/** A code value in 0..1; what lies outside is cut, NaN becomes 0. */
function encoder(space: ColourSpace): (v: number) => number {
  const { encode } = SPACES[space].transfer;
  return (v) => (v > 0 ? (v >= 1 ? 1 : encode(v)) : 0);
}
