import type { Kernels } from '@/kernels';
import { LINEAR_SPACES, SPACES, chromaticitiesOf, matricesOf } from '../colour/spaces';
import type { ColourSpace } from '../document/types';
import type { Format, Tile } from '../picture';
import { COLOUR } from '../picture';
import { writePng } from './codes';
import type { WrittenCompression } from './exr/write';
import { writeExr } from './exr/write';

export interface OutputSettings {
  container: 'png' | 'exr';
  /** Of PNG. */
  bits: 8 | 16;
  /** What PNG's code values mean; for EXR one of the linear spaces, linear Rec.709 for any other. */
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
  const kept = settings.container === 'png' ? channels.filter((c) => ['R', 'G', 'B', 'A'].includes(c)) : [...channels];
  return kept.filter((c) => settings.alpha || c !== 'A');
}

/** A tile as a file's bytes. The tile must hold R, G, B (and A where alpha is asked for). */
export function writePicture(tile: Tile, format: Format, settings: OutputSettings, kernels: Kernels): Uint8Array {
  const exr = settings.container === 'exr';
  const space = exr && !LINEAR_SPACES.includes(settings.colourSpace) ? 'linear' : settings.colourSpace;
  const matrices = matricesOf(space);
  if (!matrices) return exr ? exrOf(tile, format, settings, space, kernels) : pngOf(tile, settings);
  // The tile's planes may be shared: the change of primaries is made on copies.
  const copies = COLOUR.map((c) => kernels.copy(tile.planes[c]!));
  const [r, g, b] = copies.map((p) => p.byteOffset) as [number, number, number];
  kernels.fn.matrix3(r, g, b, r, g, b, copies[0]!.length, ...matrices.toSpace);
  const planes = { ...tile.planes, R: copies[0]!, G: copies[1]!, B: copies[2]! };
  try {
    return exr ? exrOf({ ...tile, planes }, format, settings, space, kernels) : pngOf({ ...tile, planes }, settings);
  } finally {
    copies.forEach((p) => kernels.give(p));
  }
}

function exrOf({ region, planes }: Tile, format: Format, settings: OutputSettings, space: ColourSpace, kernels: Kernels): Uint8Array {
  const channels = Object.entries(planes).map(([name, plane]) => ({ name, type: settings.pixelType, plane }));
  const attributes = { chromaticities: chromaticitiesOf(space) };
  return writeExr({ format, bounds: region, channels, compression: settings.compression, attributes }, kernels);
}

function pngOf({ region, planes }: Tile, settings: OutputSettings): Uint8Array {
  const [width, height] = [region.x1 - region.x0, region.y1 - region.y0];
  const count = settings.alpha ? 4 : 3;
  const top = 2 ** settings.bits - 1;
  const n = width * height;
  const data = settings.bits === 8 ? new Uint8Array(n * count) : new Uint16Array(n * count);
  const encode = encoder(settings.colourSpace);
  COLOUR.forEach((c, k) => {
    const plane = planes[c]!;
    for (let i = 0; i < n; i++) {
      const a = settings.alpha ? planes.A![i]! : 1;
      const v = a > 0 && settings.alpha ? plane[i]! / Math.min(a, 1) : plane[i]!;
      data[i * count + k] = encode(v) * top + 0.5;
    }
  });
  if (settings.alpha) {
    for (let i = 0; i < n; i++) data[i * count + 3] = Math.min(1, Math.max(0, planes.A![i]!)) * top + 0.5;
  }
  return writePng({ width, height, bits: settings.bits, channels: count, data });
}

/** A code value in 0..1; what lies outside is cut, NaN becomes 0. */
function encoder(space: ColourSpace): (v: number) => number {
  const { encode } = SPACES[space].transfer;
  return (v) => (v > 0 ? (v >= 1 ? 1 : encode(v)) : 0);
}
