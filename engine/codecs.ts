import type { Kernels } from '@/kernels';
import { MediaError, messageOf } from '@/core/errors';
import type { AlphaKind, ColourSpace } from '@/core/document/types';
import type { CodePicture } from '@/core/formats/codes';
import { inspectPng, readPng } from '@/core/formats/codes';
import { inspectDpx, isDpx, readDpx } from '@/core/formats/dpx';
import { inspectRadiance, isRadiance, readRadiance } from '@/core/formats/radiance';
import { MAX_PIXELS } from '@/core/formats/exr/header';
import { spaceOfChromaticities } from '@/core/colour/spaces';
import type { ExrHeader } from '@/core/formats/exr/header';
import { exrChannels, inspectExr, readExr } from '@/core/formats/exr/read';
import { planesFromCodes, settleAlpha, settleColour } from '@/core/formats/ingest';
import type { Rect } from '@/core/geometry/rect';
import { EMPTY, sameRect, union } from '@/core/geometry/rect';
import type { Format, Picture } from '@/core/picture';
import { READABLE } from './sequences';
import decodeJpeg, { init as initJpeg } from '@jsquash/jpeg/decode.js';
import decodeWebp, { init as initWebp } from '@jsquash/webp/decode.js';

export type Container = 'PNG' | 'JPEG' | 'WebP' | 'OpenEXR' | 'DPX' | 'Radiance';

/** What a file's header says, and how its pixels are best understood. */
export interface MediaInfo {
  container: Container;
  format: Format;
  channels: string[];
  bits: string;
  /** Where it holds pixels, where that is not the whole frame: x0, y0, x1, y1 from the frame's corner. */
  bounds?: number[];
  colourSpace: ColourSpace;
  /** Why that colour space was taken. */
  colourReason: string;
  alpha: AlphaKind;
}

/** The same decoders in the browser and on the command line, so that both see the same pixels. */
export interface CodecModules {
  jpeg: WebAssembly.Module;
  webp: WebAssembly.Module;
}

export async function initCodecs(modules: CodecModules): Promise<void> {
  await initJpeg(modules.jpeg);
  await initWebp(modules.webp);
}

/** What a file is, from its first bytes; null where nothing is recognised. */
export function sniff(bytes: Uint8Array): Container | null {
  const at = (i: number, ...wanted: number[]): boolean => wanted.every((b, k) => bytes[i + k] === b);
  if (at(0, 0x89, 0x50, 0x4e, 0x47)) return 'PNG';
  if (at(0, 0xff, 0xd8, 0xff)) return 'JPEG';
  if (at(0, 0x52, 0x49, 0x46, 0x46) && at(8, 0x57, 0x45, 0x42, 0x50)) return 'WebP';
  if (at(0, 0x76, 0x2f, 0x31, 0x01)) return 'OpenEXR';
  if (isDpx(bytes)) return 'DPX';
  if (isRadiance(bytes)) return 'Radiance';
  return null;
}

function containerOf(bytes: Uint8Array, file: string): Container {
  const container = sniff(bytes);
  if (container) return container;
  const claimed = READABLE.exec(file)?.[1]?.toUpperCase();
  if (bytes.length === 0) throw new MediaError(file, 'the file is empty');
  throw new MediaError(
    file,
    claimed
      ? `it is named .${claimed.toLowerCase()} but its contents are not ${claimed === 'EXR' ? 'OpenEXR' : claimed}`
      : 'this kind of file is not known; PNG, JPEG, WebP, OpenEXR, DPX and Radiance HDR can be read',
  );
}

/** Reads the header (and, for JPEG and WebP, the pixels). Throws MediaError. */
export async function inspectMedia(bytes: Uint8Array, file: string): Promise<MediaInfo> {
  const container = containerOf(bytes, file);
  if (container === 'OpenEXR') {
    const h = inspectExr(bytes, file);
    const { displayWindow: w, pixelAspect } = h.parts[0]!;
    const data = h.parts.reduce<Rect>((b, p) => union(b, p.dataWindow), EMPTY);
    return {
      container,
      format: { width: w.x1 - w.x0, height: w.y1 - w.y0, pixelAspect },
      channels: exrChannels(h).map((c) => c.name),
      bits: [...new Set(h.parts.flatMap((p) => p.channels.map((c) => c.type)))].join(', '),
      ...(!sameRect(data, w) && { bounds: [data.x0 - w.x0, data.y0 - w.y0, data.x1 - w.x0, data.y1 - w.y0] }),
      ...exrColour(h),
      alpha: 'premultiplied',
    };
  }
  if (container === 'DPX') {
    const { width, height, channels, bits, colourSpace, transfer } = inspectDpx(bytes, file);
    return {
      container,
      format: { width, height, pixelAspect: 1 },
      channels: channels === 4 ? ['R', 'G', 'B', 'A'] : ['R', 'G', 'B'],
      bits: `${bits} bit`,
      colourSpace,
      colourReason: transfer > 0 && transfer < 10 ? 'its header says so' : 'its header does not say; a guess from its bits',
      alpha: channels === 4 ? 'premultiplied' : 'ignore',
    };
  }
  if (container === 'Radiance') {
    const { format } = inspectRadiance(bytes, file);
    const about = { colourSpace: 'linear', colourReason: 'Radiance files hold light', alpha: 'ignore' } as const;
    return { container, format, channels: ['R', 'G', 'B'], bits: 'RGBE', ...about };
  }
  if (container === 'PNG') {
    const { width, height, bits, type } = inspectPng(bytes, file);
    const alpha = type === 4 || type === 6;
    return {
      container,
      format: { width, height, pixelAspect: 1 },
      channels: alpha ? ['R', 'G', 'B', 'A'] : ['R', 'G', 'B'],
      bits: `${bits} bit`,
      colourSpace: 'sRGB',
      colourReason: 'PNG files are mostly made for displays',
      alpha: alpha ? 'straight' : 'ignore',
    };
  }
  const { width, height } = await decodeLossy(bytes, file, container);
  return {
    container,
    format: { width, height, pixelAspect: 1 },
    channels: ['R', 'G', 'B'],
    bits: '8 bit',
    colourSpace: container === 'JPEG' ? 'Rec.709' : 'sRGB',
    colourReason: container === 'JPEG' ? 'JPEG sequences are mostly filmed plates' : 'WebP files are mostly made for displays',
    alpha: 'ignore',
  };
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

async function decodeLossy(bytes: Uint8Array, file: string, container: 'JPEG' | 'WebP'): Promise<CodePicture> {
  if (container === 'JPEG') checkJpeg(bytes, file);
  const copy = bytes.slice().buffer;
  try {
    const image = await (container === 'JPEG' ? decodeJpeg(copy) : decodeWebp(copy));
    if (!image) throw new Error('no picture');
    return { width: image.width, height: image.height, bits: 8, channels: 4, data: image.data };
  } catch (e) {
    throw new MediaError(file, `its ${container} data is damaged and cannot be decoded (${messageOf(e)})`);
  }
}

/** The decoder fills what is missing with grey; a file that is cut short is found here instead. */
function checkJpeg(bytes: Uint8Array, file: string): void {
  let end = bytes.length;
  while (end > 2 && bytes[end - 1] === 0) end--;
  if (bytes[end - 2] !== 0xff || bytes[end - 1] !== 0xd9) {
    throw new MediaError(file, 'the file is cut short: the end of its picture is missing');
  }
  for (let i = 2; i + 9 < bytes.length;) {
    if (bytes[i] !== 0xff) break;
    const marker = bytes[i + 1]!;
    if (marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker)) {
      const pixels = (bytes[i + 5]! * 256 + bytes[i + 6]!) * (bytes[i + 7]! * 256 + bytes[i + 8]!);
      if (pixels > MAX_PIXELS) throw new MediaError(file, 'its size in pixels is too large to open');
      break;
    }
    i += 2 + bytes[i + 2]! * 256 + bytes[i + 3]!;
  }
}

/** Decodes the channels asked for to scene-linear, premultiplied planes. Throws MediaError. */
export async function decodeMedia(
  bytes: Uint8Array,
  file: string,
  as: { colourSpace: ColourSpace; alpha: AlphaKind },
  kernels: Kernels,
  channels?: readonly string[],
): Promise<Picture> {
  const container = containerOf(bytes, file);
  if (container === 'OpenEXR') {
    return settleAlpha(settleColour(readExr(bytes, file, kernels, channels), as.colourSpace, kernels), as.alpha, kernels);
  }
  if (container === 'Radiance') {
    return settleAlpha(settleColour(readRadiance(bytes, file, kernels), as.colourSpace, kernels), as.alpha, kernels);
  }
  const codes =
    container === 'PNG' ? readPng(bytes, file) : container === 'DPX' ? readDpx(bytes, file) : await decodeLossy(bytes, file, container);
  return settleAlpha(planesFromCodes(codes, as.colourSpace, kernels), as.alpha, kernels);
}
