import { mkdir, writeFile } from 'node:fs/promises';
import { basename, dirname, extname, join } from 'node:path';
import { SPACE_NAMES } from '@/core/colour/spaces';
import type { ColourSpace } from '@/core/document/types';
import { MediaError } from '@/core/errors';
import { WRITTEN } from '@/core/formats/exr/write';
import type { OutputSettings } from '@/core/formats/output';
import { DEFAULT_OUTPUT, outputChannels, writePicture } from '@/core/formats/output';
import { formatRect, splitChannel } from '@/core/picture';
import { colourOfLayer } from '@/core/steps/channels/pick-layer';
import { decodeMedia, inspectMedia } from '@/engine/codecs';
import { findFrames, nodeKernels, readBytes } from '@/engine/node/host';
import { frameName, patternExpression } from '@/engine/sequences';
import { UsageError, only, parseArguments, parseFrames, userPath } from './arguments';

const isContainer = (c: string): c is OutputSettings['container'] => ['exr', 'png', 'dpx', 'hdr'].includes(c);

/** Reads a file or sequence and writes it as OpenEXR, PNG, DPX or Radiance HDR, of another layer or colour space if asked. */
export async function convert(args: string[]): Promise<void> {
  const { words, options } = parseArguments(args, ['half', 'float']);
  only(options, ['layer', 'from', 'to', 'frames', 'compression', 'half', 'float', 'bits']);
  const [from, to] = words;
  if (!from || !to || words.length !== 2) throw new UsageError('convert takes a file to read and a file to write');
  const space = (name: 'from' | 'to'): ColourSpace | undefined => {
    const v = options.get(name);
    if (v === undefined) return undefined;
    const found = SPACE_NAMES.find((s) => s.toLowerCase() === v.toLowerCase());
    if (!found) throw new UsageError(`--${name} is one of ${SPACE_NAMES.join(', ')}, not "${v}"`);
    return found;
  };
  const compression = WRITTEN.find((c) => c === (options.get('compression') ?? 'ZIP').toUpperCase());
  if (!compression) throw new UsageError(`--compression is one of ${WRITTEN.join(', ')}`);
  const container = extname(to).slice(1).toLowerCase();
  if (!isContainer(container)) throw new UsageError(`only .exr, .png, .dpx and .hdr can be written, not "${extname(to)}"`);
  const found = await findFrames(userPath(from));
  const range = options.has('frames') ? parseFrames(options.get('frames')!) : { first: -Infinity, last: Infinity };
  const frames = found.filter((f) => f.frame >= range.first && f.frame <= range.last);
  if (frames.length === 0) throw new MediaError(userPath(from), 'there is no such file, nor a sequence of this name in that range');
  if (frames.length > 1 && !patternExpression(basename(to)))
    throw new UsageError('the file to write needs #### in its name for a sequence');
  const kernels = await nodeKernels();
  await mkdir(dirname(userPath(to)), { recursive: true });
  for (const { frame, path } of frames) {
    const bytes = await readBytes(path);
    const info = await inspectMedia(bytes, path);
    const picture = await decodeMedia(bytes, path, { colourSpace: space('from') ?? info.colourSpace, alpha: info.alpha }, kernels);
    const layer = options.get('layer');
    if (layer !== undefined && !picture.channels.some((c) => splitChannel(c).layer === layer)) {
      throw new MediaError(path, `it has no layer "${layer}"`);
    }
    const settings = {
      ...DEFAULT_OUTPUT,
      container,
      compression,
      colourSpace: space('to') ?? (container === 'exr' || container === 'hdr' ? 'linear' : container === 'dpx' ? 'Rec.709' : 'sRGB'),
      pixelType: options.has('float') ? 'float' : 'half',
      bits: options.get('bits') === '16' ? 16 : container === 'dpx' ? 10 : 8,
      alpha: info.channels.includes('A'),
    } as const;
    const colour = colourOfLayer(picture.channels, layer ?? '');
    const names = container !== 'exr' || layer !== undefined ? ['R', 'G', 'B', 'A'] : picture.channels;
    const planes = Object.fromEntries(
      outputChannels(settings, names).map((c) => [
        c,
        picture.planes[layer !== undefined || container !== 'exr' ? (colour['RGB'.indexOf(c)] ?? c) : c]!,
      ]),
    );
    const name = join(dirname(userPath(to)), frameName(basename(to), frame));
    // Only OpenEXR has bounds of its own.
    const whole = container !== 'exr' && picture.bounds.x1 - picture.bounds.x0 !== formatRect(picture.format).x1;
    if (whole) throw new MediaError(path, 'its pixels do not fill its frame; write OpenEXR instead');
    await writeFile(name, writePicture({ region: picture.bounds, planes }, picture.format, settings, kernels));
    Object.values(picture.planes).forEach((p) => kernels.give(p));
    process.stdout.write(`${name}\n`);
  }
}
