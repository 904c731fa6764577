import { strFromU8 } from 'fflate';
import { LIMITS, SAID } from '@/core/document';
import { parseCube } from '@/core/colour';
import { MediaError } from '@/core/errors';
import type { MediaInfo } from './inspect';
import { inspectMedia } from './inspect';
import { inspectModel, isModelFile } from './models';

/** First bytes of an MP4 or MOV (a box named ftyp, moov, mdat, wide or free) or of a WebM or Matroska file. */
export function isMovie(bytes: Uint8Array): boolean {
  const ebml = [0x1a, 0x45, 0xdf, 0xa3].every((b, i) => bytes[i] === b);
  return ebml || /^(ftyp|moov|mdat|wide|free)$/.test(String.fromCharCode(...bytes.subarray(4, 8)));
}

/**
 * What any file that can be a source says of itself: a picture, a movie or a colour table. `alive` is told of each part that is
 * read. Throws MediaError.
 */
export async function inspectAny(data: Blob | Uint8Array, file: string, alive: () => void = () => undefined): Promise<MediaInfo> {
  const info = await inspect(data, file, alive);
  const { width, height } = info.format;
  if (Math.max(width, height) > LIMITS.side)
    throw new MediaError(file, `it is ${width}×${height}; a side may have ${LIMITS.side} pixels at most`);
  const { min, max } = LIMITS.pixelAspect;
  // A pixel that is no pixel is taken for a square one.
  const { pixelAspect } = info.format;
  return pixelAspect >= min && pixelAspect <= max ? info : { ...info, format: { width, height, pixelAspect: 1 } };
}

async function inspect(data: Blob | Uint8Array, file: string, alive: () => void): Promise<MediaInfo> {
  const head = data instanceof Blob ? new Uint8Array(await data.slice(0, 64).arrayBuffer()) : data;
  if (isMovie(head)) {
    const { Movie } = await import('./movies');
    const movie = await Movie.open(data, file, alive);
    try {
      const info = await movie.info();
      await movie.checkDecoder();
      return info;
    } finally {
      movie.close();
    }
  }
  const bytes = data instanceof Blob ? new Uint8Array(await data.arrayBuffer()) : data;
  if (isModelFile(file)) return modelInfo(bytes, file);
  return /\.cube$/i.test(file) ? tableInfo(bytes, file, alive) : inspectMedia(bytes, file);
}

function tableInfo(bytes: Uint8Array, file: string, alive: () => void): MediaInfo {
  const { title, curves, cube } = parseCube(strFromU8(bytes), file, alive);
  const sizes = [curves && `curves of ${curves.size}`, cube && `cube of ${cube.size}³`].filter((s) => s !== undefined);
  return {
    container: 'LUT',
    format: { width: 1, height: 1, pixelAspect: 1 },
    channels: [],
    bits: sizes.join(', '),
    colourSpace: 'sRGB',
    colourReason: 'a .cube file does not say what values it takes',
    alpha: 'ignore',
    attributes: [...(title ? [['title', title] as [string, string]] : []), [SAID.table, sizes.join(', ')]],
  };
}

async function modelInfo(bytes: Uint8Array, file: string): Promise<MediaInfo> {
  const { triangles, seconds, remarks, box } = await inspectModel(bytes, file);
  const [least, most] = box;
  const sides = [0, 1, 2].map((k) => Number((most[k]! - least[k]!).toPrecision(3)));
  const moves = seconds > 0 ? `, moves for ${Number(seconds.toFixed(2))} s` : '';
  return {
    container: /\.obj$/i.test(file) ? 'OBJ' : 'glTF',
    format: { width: 1, height: 1, pixelAspect: 1 },
    channels: [],
    bits: `${triangles} triangles`,
    colourSpace: 'sRGB',
    colourReason: 'as its format has it',
    alpha: 'ignore',
    attributes: [
      [SAID.model, `${triangles.toLocaleString('en')} triangles${moves}`],
      [SAID.size, sides.join(' × ')],
      ...remarks.map((r): [string, string] => ['not drawn', r]),
    ],
  };
}
