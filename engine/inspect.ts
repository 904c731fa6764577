import type { AlphaKind, ColourSpace } from '@/core/document';
import { spaceOfChromaticities } from '@/core/colour';
import type { Attribute, ExrHeader } from '@/core/formats';
import { exrChannels, inspectDpx, inspectExr, inspectPng, inspectRadiance, inspectTiff, timecodeText } from '@/core/formats';
import type { Rect } from '@/core/geometry';
import { EMPTY, sameRect, union } from '@/core/geometry';
import type { Format } from '@/core/picture';
import type { Container } from './codecs';
import { containerOf, decodeLossy } from './codecs';

/** What a file's header says, and how its pixels are best understood. */
export interface MediaInfo {
  container: Container | 'MP4' | 'MOV' | 'WebM' | 'LUT' | 'glTF' | 'OBJ';
  format: Format;
  channels: string[];
  bits: string;
  /** Where it holds pixels, where that is not the whole frame: x0, y0, x1, y1 from the frame's corner. */
  bounds?: number[];
  colourSpace: ColourSpace;
  /** Why that colour space was taken. */
  colourReason: string;
  alpha: AlphaKind;
  /** Channels that are not half floats in an OpenEXR file. */
  types?: Record<string, 'float' | 'uint'>;
  /** Name and value, for reading; those of ID mattes are also looked up. */
  attributes: [string, string][];
  /** Of a movie: how many frames it has, and how many a second. */
  movie?: { length: number; rate: number };
}

const RGB = ['R', 'G', 'B'];
const RGBA = ['R', 'G', 'B', 'A'];

/** Reads the header (and, for JPEG and WebP, the pixels). Throws MediaError. */
export async function inspectMedia(bytes: Uint8Array, file: string): Promise<MediaInfo> {
  const container = containerOf(bytes, file);
  switch (container) {
    case 'OpenEXR':
      return exrInfo(inspectExr(bytes, file));
    case 'DPX': {
      const { width, height, channels, bits, colourSpace, transfer } = inspectDpx(bytes, file);
      return {
        container,
        format: { width, height, pixelAspect: 1 },
        channels: channels === 4 ? RGBA : RGB,
        bits: `${bits} bit`,
        colourSpace,
        colourReason: transfer > 0 && transfer < 10 ? 'its header says so' : 'its header does not say; a guess from its bits',
        alpha: channels === 4 ? 'premultiplied' : 'ignore',
        attributes: [['transfer', String(transfer)]],
      };
    }
    case 'Radiance': {
      const { format } = inspectRadiance(bytes, file);
      const colour = { colourSpace: 'linear', colourReason: 'Radiance files hold light', alpha: 'ignore' } as const;
      return { container, format, channels: RGB, bits: 'RGBE', ...colour, attributes: [] };
    }
    case 'TIFF': {
      const { width, height, bits, float, samples, alpha } = inspectTiff(bytes, file);
      return {
        container,
        format: { width, height, pixelAspect: 1 },
        channels: samples % 2 === 0 ? RGBA : RGB,
        bits: float ? 'float' : `${bits} bit`,
        colourSpace: float ? 'linear' : 'sRGB',
        colourReason: float ? 'floating point mostly holds light' : 'integer TIFF files are mostly made for displays',
        alpha: alpha === 'none' ? 'ignore' : alpha,
        attributes: [],
      };
    }
    case 'PNG': {
      const { width, height, bits, type } = inspectPng(bytes, file);
      const alpha = type === 4 || type === 6;
      return {
        container,
        format: { width, height, pixelAspect: 1 },
        channels: alpha ? RGBA : RGB,
        bits: `${bits} bit`,
        colourSpace: 'sRGB',
        colourReason: 'PNG files are mostly made for displays',
        alpha: alpha ? 'straight' : 'ignore',
        attributes: [],
      };
    }
    case 'JPEG':
    case 'WebP': {
      const { width, height, data } = await decodeLossy(bytes, file, container);
      const solid = container === 'JPEG' || data.every((v, i) => i % 4 !== 3 || v === 255);
      return {
        container,
        format: { width, height, pixelAspect: 1 },
        channels: solid ? RGB : RGBA,
        bits: '8 bit',
        colourSpace: container === 'JPEG' ? 'Rec.709' : 'sRGB',
        colourReason: container === 'JPEG' ? 'JPEG sequences are mostly filmed plates' : 'WebP files are mostly made for displays',
        alpha: solid ? 'ignore' : 'straight',
        attributes: [],
      };
    }
  }
}

function exrInfo(h: ExrHeader): MediaInfo {
  const { displayWindow: w, pixelAspect } = h.parts[0]!;
  const data = h.parts.reduce<Rect>((b, p) => union(b, p.dataWindow), EMPTY);
  const channels = exrChannels(h);
  const types: Record<string, 'float' | 'uint'> = {};
  for (const c of channels) {
    const stored = h.parts[c.part]!.channels.find((k) => k.name === c.stored[0]);
    if (stored && stored.type !== 'half') types[c.name] = stored.type;
  }
  return {
    container: 'OpenEXR',
    format: { width: w.x1 - w.x0, height: w.y1 - w.y0, pixelAspect },
    channels: channels.map((c) => c.name),
    bits: [...new Set(h.parts.flatMap((p) => p.channels.map((c) => c.type)))].join(', '),
    ...(!sameRect(data, w) && { bounds: [data.x0 - w.x0, data.y0 - w.y0, data.x1 - w.x0, data.y1 - w.y0] }),
    ...exrColour(h),
    alpha: 'premultiplied',
    types,
    attributes: [
      ['compression', [...new Set(h.parts.map((p) => p.compression))].join(', ')],
      ...h.parts.flatMap((p) => Object.entries(p.attributes).map(([name, v]): [string, string] => [name, attributeText(name, v)])),
    ],
  };
}

function attributeText(name: string, value: Attribute): string {
  if (name === 'timeCode' && Array.isArray(value)) return timecodeText(Number(value[0]));
  return Array.isArray(value) ? value.map((v) => (typeof v === 'number' ? Number(v.toPrecision(6)) : v)).join(' ') : String(value);
}

function exrColour(h: ExrHeader): Pick<MediaInfo, 'colourSpace' | 'colourReason'> {
  const named = h.parts[0]!.attributes.chromaticities;
  const space = spaceOfChromaticities(named);
  if (space) return { colourSpace: space, colourReason: 'its header names these chromaticities' };
  return {
    colourSpace: 'linear',
    colourReason: named
      ? 'its header names chromaticities that are not known here'
      : 'OpenEXR holds light, and its header names no primaries',
  };
}
