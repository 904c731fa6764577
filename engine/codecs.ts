import type { Kernels } from '@/kernels';
import { MediaError, messageOf } from '@/core/errors';
import type { AlphaKind, ColourSpace } from '@/core/document';
import type { CodePicture, OutputSettings } from '@/core/formats';
import {
  MAX_PIXELS,
  inspectTiff,
  isDpx,
  isRadiance,
  isTiff,
  planesFromCodes,
  readDpx,
  readExr,
  readPng,
  readRadiance,
  readTiffCodes,
  readTiffFloat,
  settleAlpha,
  settleColour,
  writePicture,
} from '@/core/formats';
import type { Format, Picture, Tile } from '@/core/picture';
import { READABLE } from './sequences';

export type Container = 'PNG' | 'JPEG' | 'WebP' | 'OpenEXR' | 'DPX' | 'Radiance' | 'TIFF';

/** A codec's own code, loaded with it. */
const CODE = {
  jpeg: () => import('@jsquash/jpeg/decode.js'),
  webp: () => import('@jsquash/webp/decode.js'),
  jpegEncoder: () => import('@jsquash/jpeg/encode.js'),
  webpEncoder: () => import('@jsquash/webp/encode.js'),
};
type Codec = keyof typeof CODE;
type Code<C extends Codec> = Awaited<ReturnType<(typeof CODE)[C]>>;

/** The same decoders in the browser and on the command line, so that both see the same pixels. Each is loaded when it is first needed. */
export type CodecLoaders = Readonly<Record<Codec, () => Promise<WebAssembly.Module>>>;

let loaders: CodecLoaders | null = null;
const modules = new Map<Codec, Promise<WebAssembly.Module>>();
const ready = new Map<Codec, Promise<unknown>>();

export function initCodecs(from: CodecLoaders): void {
  loaders = from;
  modules.clear();
  ready.clear();
}

/** Kept unless it fails: what does not load now may load later. */
function once<T>(kept: Map<Codec, Promise<T>>, codec: Codec, make: () => Promise<T>): Promise<T> {
  const had = kept.get(codec);
  if (had) return had;
  const made = make();
  kept.set(codec, made);
  made.catch(() => kept.delete(codec));
  return made;
}

/** A codec, ready to be used. */
async function codecOf<C extends Codec>(codec: C): Promise<Code<C>['default']> {
  const load = loaders?.[codec];
  const loading = load && once(modules, codec, load);
  const code = (await CODE[codec]()) as Code<C>;
  if (loading) await once(ready, codec, async () => code.init(await loading));
  return code.default;
}

/** What a file is, from its first bytes; null where nothing is recognised. */
export function sniff(bytes: Uint8Array): Container | null {
  const at = (i: number, ...wanted: number[]): boolean => wanted.every((b, k) => bytes[i + k] === b);
  if (at(0, 0x89, 0x50, 0x4e, 0x47)) return 'PNG';
  if (at(0, 0xff, 0xd8, 0xff)) return 'JPEG';
  if (at(0, 0x52, 0x49, 0x46, 0x46) && at(8, 0x57, 0x45, 0x42, 0x50)) return 'WebP';
  if (at(0, 0x76, 0x2f, 0x31, 0x01)) return 'OpenEXR';
  if (isTiff(bytes)) return 'TIFF';
  if (isDpx(bytes)) return 'DPX';
  if (isRadiance(bytes)) return 'Radiance';
  return null;
}

/** Throws MediaError where the first bytes are of nothing that is known. */
export function containerOf(bytes: Uint8Array, file: string): Container {
  const container = sniff(bytes);
  if (container) return container;
  const claimed = READABLE.exec(file)?.[1]?.toUpperCase();
  if (bytes.length === 0) throw new MediaError(file, 'the file is empty');
  throw new MediaError(
    file,
    claimed
      ? `it is named .${claimed.toLowerCase()} but its contents are not ${claimed === 'EXR' ? 'OpenEXR' : claimed}`
      : 'this kind of file is not known; PNG, JPEG, WebP, TIFF, OpenEXR, DPX, Radiance HDR, MP4, MOV and WebM can be read',
  );
}

/** Decodes JPEG or WebP. Throws MediaError. */
export async function decodeLossy(bytes: Uint8Array, file: string, container: 'JPEG' | 'WebP'): Promise<CodePicture> {
  if (container === 'JPEG') checkJpeg(bytes, file);
  const codec = container === 'JPEG' ? 'jpeg' : 'webp';
  const decode = await codecOf(codec);
  const copy = bytes.slice().buffer;
  try {
    const image = await decode(copy);
    if (!image) throw new Error('no picture');
    return { width: image.width, height: image.height, bits: 8, channels: 4, data: image.data };
  } catch (e) {
    // A decoder that failed keeps what it had taken, and after some failures refuses good files: another one takes its place.
    ready.delete(codec);
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

/** How the pixels of a source are to be understood. */
export interface Reading {
  colourSpace: ColourSpace;
  alpha: AlphaKind;
}

/** Decodes the channels asked for to scene-linear, premultiplied planes. Throws MediaError. */
export async function decodeMedia(
  bytes: Uint8Array,
  file: string,
  as: Reading,
  kernels: Kernels,
  channels?: readonly string[],
): Promise<Picture> {
  const container = containerOf(bytes, file);
  const light = (picture: Picture): Picture => settleAlpha(settleColour(picture, as.colourSpace, kernels), as.alpha, kernels);
  switch (container) {
    case 'OpenEXR':
      return light(readExr(bytes, file, kernels, channels));
    case 'Radiance':
      return light(readRadiance(bytes, file, kernels));
    case 'TIFF': {
      const { float, alpha } = inspectTiff(bytes, file);
      // Its reader divides what was premultiplied.
      const straight = { ...as, alpha: as.alpha === 'premultiplied' && alpha === 'premultiplied' ? 'straight' : as.alpha } as const;
      if (!float) return settle(readTiffCodes(bytes, file), straight, kernels);
      return settleAlpha(settleColour(readTiffFloat(bytes, file, kernels), as.colourSpace, kernels), straight.alpha, kernels);
    }
    case 'PNG':
      return settle(readPng(bytes, file, kernels), as, kernels);
    case 'DPX':
      return settle(readDpx(bytes, file), as, kernels);
    default:
      return settle(await decodeLossy(bytes, file, container), as, kernels);
  }
}

/** Code values as light in planes, alpha premultiplied. */
export const settle = (codes: CodePicture, as: Reading, kernels: Kernels): Picture =>
  settleAlpha(planesFromCodes(codes, as.colourSpace, kernels), as.alpha, kernels);

/** A tile as a file's bytes (see `writePicture`); `poll` is called now and then, and its error ends the work. */
export async function encodeMedia(
  tile: Tile,
  format: Format,
  settings: OutputSettings,
  kernels: Kernels,
  poll: () => void = () => undefined,
): Promise<Uint8Array> {
  const written = writePicture(tile, format, settings, kernels, poll);
  if ('bytes' in written) return written.bytes;
  const { width, height, channels, data } = written.codes;
  const rgba = new Uint8ClampedArray(4 * width * height);
  for (let i = 0; i < width * height; i++) {
    for (let c = 0; c < 3; c++) rgba[4 * i + c] = data[channels * i + c]!;
    rgba[4 * i + 3] = channels === 4 ? data[4 * i + 3]! : 255;
  }
  const image = { width, height, data: rgba, colorSpace: 'srgb' } as ImageData;
  const { quality } = settings;
  if (settings.container === 'jpg') return new Uint8Array(await (await codecOf('jpegEncoder'))(image, { quality }));
  // WebP without loss is another format inside the same one.
  return new Uint8Array(await (await codecOf('webpEncoder'))(image, quality >= 100 ? { lossless: 1, exact: 1, quality: 75 } : { quality }));
}
