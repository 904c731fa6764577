import type { Kernels } from '@/kernels';
import { LINEAR_SPACES, SPACES, chromaticitiesOf, matricesOf } from '../colour/spaces';
import type { ColourSpace } from '../document/types';
import type { Format, Tile } from '../picture';
import { COLOUR } from '../picture';
import type { CodePicture } from './codes';
import { writePng } from './codes';
import { dpxTransfer, writeDpx } from './dpx';
import { writeRadiance } from './radiance';
import type { WrittenCompression } from './exr/write';
import { writeExr } from './exr/write';

export interface OutputSettings {
  container: 'png' | 'exr' | 'dpx' | 'hdr';
  /** Of PNG 8 or 16, of DPX 10 or 16. */
  bits: 8 | 10 | 16;
  /** What PNG's and DPX's code values mean; for EXR and Radiance one of the linear spaces, linear Rec.709 for any other. */
  colourSpace: ColourSpace;
  /** PNG holds straight alpha, as its standard says. */
  alpha: boolean;
  compression: WrittenCompression;
  pixelType: 'half' | 'float';
}

export const DEFAULT_OUTPUT: OutputSettings = {
  container: 'exr',
  bits: 8,
  colourSpace: 'sRGB',
  alpha: true,
  compression: 'ZIP',
  pixelType: 'half',
};

/** The channels a file of these settings holds, of those a picture has. */
export function outputChannels(settings: OutputSettings, channels: readonly string[]): string[] {
  const kept = settings.container !== 'exr' ? channels.filter((c) => ['R', 'G', 'B', 'A'].includes(c)) : [...channels];
  return kept.filter((c) => c !== 'A' || holdsAlpha(settings));
}

/** A tile as a file's bytes. The tile must hold R, G, B (and A where alpha is asked for). */
export function writePicture(tile: Tile, format: Format, settings: OutputSettings, kernels: Kernels): Uint8Array {
  const light = settings.container === 'exr' || settings.container === 'hdr';
  const space = light && !LINEAR_SPACES.includes(settings.colourSpace) ? 'linear' : settings.colourSpace;
  const matrices = matricesOf(space);
  if (!matrices) return fileOf(tile, format, settings, space, kernels);
  // The tile's planes may be shared: the change of primaries is made on copies.
  const copies = COLOUR.map((c) => kernels.copy(tile.planes[c]!));
  const [r, g, b] = copies.map((p) => p.byteOffset) as [number, number, number];
  kernels.fn.matrix3(r, g, b, r, g, b, copies[0]!.length, ...matrices.toSpace);
  const planes = { ...tile.planes, R: copies[0]!, G: copies[1]!, B: copies[2]! };
  try {
    return fileOf({ ...tile, planes }, format, settings, space, kernels);
  } finally {
    copies.forEach((p) => kernels.give(p));
  }
}

/** DPX and Radiance have no alpha here. */
const holdsAlpha = (s: OutputSettings): boolean => s.alpha && (s.container === 'exr' || s.container === 'png');

function fileOf(tile: Tile, format: Format, settings: OutputSettings, space: ColourSpace, kernels: Kernels): Uint8Array {
  if (settings.container === 'exr') return exrOf(tile, format, settings, space, kernels);
  if (settings.container === 'hdr') return writeRadiance(tile);
  const codes = codesOf(tile, settings);
  if (settings.container === 'png') return writePng(codes);
  const { width, height, bits, data } = codes;
  return writeDpx({ width, height, bits: bits as 10 | 16, data: data as Uint16Array, transfer: dpxTransfer(space) });
}

function exrOf({ region, planes }: Tile, format: Format, settings: OutputSettings, space: ColourSpace, kernels: Kernels): Uint8Array {
  const channels = Object.entries(planes).map(([name, plane]) => ({ name, type: settings.pixelType, plane }));
  const attributes = { chromaticities: chromaticitiesOf(space) };
  return writeExr({ format, bounds: region, channels, compression: settings.compression, attributes }, kernels);
}

function codesOf({ region, planes }: Tile, settings: OutputSettings): CodePicture {
  const [width, height] = [region.x1 - region.x0, region.y1 - region.y0];
  const alpha = holdsAlpha(settings);
  const bits = settings.container === 'png' ? (settings.bits === 8 ? 8 : 16) : settings.bits === 16 ? 16 : 10;
  const count = alpha ? 4 : 3;
  const top = 2 ** bits - 1;
  const n = width * height;
  const data = bits === 8 ? new Uint8Array(n * count) : new Uint16Array(n * count);
  const encode = encoder(settings.colourSpace);
  COLOUR.forEach((c, k) => {
    const plane = planes[c]!;
    for (let i = 0; i < n; i++) {
      const a = alpha ? planes.A![i]! : 1;
      const v = a > 0 && alpha ? plane[i]! / Math.min(a, 1) : plane[i]!;
      data[i * count + k] = encode(v) * top + 0.5;
    }
  });
  if (alpha) {
    for (let i = 0; i < n; i++) data[i * count + 3] = Math.min(1, Math.max(0, planes.A![i]!)) * top + 0.5;
  }
  return { width, height, bits, channels: count, data };
}

/** A code value in 0..1; what lies outside is cut, NaN becomes 0. */
function encoder(space: ColourSpace): (v: number) => number {
  const { encode } = SPACES[space].transfer;
  return (v) => (v > 0 ? (v >= 1 ? 1 : encode(v)) : 0);
}
