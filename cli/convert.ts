import { mkdir, realpath } from 'node:fs/promises';
import { basename, dirname, extname, join } from 'node:path';
import type { Kernels } from '@/kernels';
import type { CdlKind } from '@/core/colour';
import { formatCdls, formatCube, parseCdl, parseCube } from '@/core/colour';
import type { ColourSpace } from '@/core/document';
import { MediaError } from '@/core/errors';
import type { OutputSettings } from '@/core/formats';
import { outputChannels } from '@/core/formats';
import { sameRect } from '@/core/geometry';
import { copyShared } from '@/core/filters';
import type { Picture } from '@/core/picture';
import { formatRect, splitChannel } from '@/core/picture';
import { colourOfLayer } from '@/core/steps';
import type { MediaInfo } from '@/engine';
import { decodeMedia, encodeMedia, frameName, inspectMedia, isMovie, patternExpression } from '@/engine';
import { findFrames, nodeKernels, readBytes } from '@/engine/node';
import { UsageError, only, parseArguments, parseFrames, userPath, within } from './arguments';
import type { LensOption } from './lens-option';
import { LENS_FLAGS, LENS_OPTIONS, bentPicture, lensOption, writeStMap } from './lens-option';
import { OUTPUT_FLAGS, OUTPUT_OPTIONS, outputSettings, spaceOption, wholeOption } from './output';
import { writeWhole } from './write-file';

/** Reads a file or sequence and writes it in another format, of another layer or colour space if asked; or a colour table or correction. */
export async function convert(args: string[]): Promise<void> {
  const { words, options } = parseArguments(args, [...OUTPUT_FLAGS, ...LENS_FLAGS, 'beyond']);
  only(options, [...OUTPUT_OPTIONS, ...LENS_FLAGS, ...LENS_OPTIONS, 'beyond', 'layer', 'from', 'frames', 'start', 'step']);
  const bend = await lensOption(options);
  if (options.has('st-map')) return writeStMap(bend, options, words);
  const [from, to] = words;
  if (!from || !to || words.length !== 2) throw new UsageError('convert takes a file to read and a file to write');
  await mkdir(dirname(userPath(to)), { recursive: true });
  if (/\.(cube|cdl|ccc|cc)$/i.test(to)) return convertText(from, to);
  const about: About = { bend, settings: outputSettings(to, options), layer: options.get('layer'), from: spaceOption(options, 'from') };
  const found = await findFrames(userPath(from));
  const range = options.has('frames') ? parseFrames(options.get('frames')!) : { first: -Infinity, last: Infinity };
  const step = wholeOption(options, 'step', 1);
  if (step < 1) throw new UsageError('--step is 1 or more');
  const frames = found.filter((f) => f.frame >= range.first && f.frame <= range.last).filter((_, i) => i % step === 0);
  if (frames.length === 0) throw new MediaError(userPath(from), 'there is no such file, nor a sequence of this name in that range');
  if (frames.length > 1 && !patternExpression(basename(to)))
    throw new UsageError('the file to write needs #### in its name for a sequence');
  if (options.has('frames')) within(range, { first: found[0]!.frame, last: found[found.length - 1]!.frame }, options);
  const kernels = await nodeKernels();
  const shift = wholeOption(options, 'start', frames[0]!.frame) - frames[0]!.frame;
  const nameOf = (frame: number): string => join(dirname(userPath(to)), frameName(basename(to), frame + shift));
  await refuseOverInput(
    found.map((f) => f.path),
    frames.map((f) => nameOf(f.frame)),
  );
  for (const { frame, path } of frames) {
    const bytes = await readBytes(path);
    if (isMovie(bytes)) throw new MediaError(path, 'movies are decoded in the browser only: bring it into a shot and export its frames');
    const info = await inspectMedia(bytes, path);
    const picture = await decodeMedia(bytes, path, { colourSpace: about.from ?? info.colourSpace, alpha: info.alpha }, kernels);
    const name = nameOf(frame);
    const made = about.bend ? bentPicture(kernels, picture, about.bend) : picture;
    await writeWhole(name, await write(made, path, info, about, kernels));
    const planes = new Set([...Object.values(picture.planes), ...Object.values(made.planes)]);
    planes.forEach((p) => kernels.give(p));
    process.stdout.write(`${name}\n`);
  }
}

/** Throws UsageError where a file to write is one that is read: a failure would leave neither. */
async function refuseOverInput(read: readonly string[], written: readonly string[]): Promise<void> {
  const real = (path: string): Promise<string> => realpath(path).catch(() => path);
  const inputs = new Set(await Promise.all(read.map(real)));
  for (const path of written) {
    if (inputs.has(await real(path))) throw new UsageError(`${path} is read; write to another name or folder`);
  }
}

interface About {
  bend: LensOption | null;
  layer?: string | undefined;
  from?: ColourSpace | undefined;
  settings: OutputSettings;
}

async function write(picture: Picture, path: string, info: MediaInfo, about: About, kernels: Kernels): Promise<Uint8Array> {
  const { layer } = about;
  if (layer !== undefined && !picture.channels.some((c) => splitChannel(c).layer === layer)) {
    throw new MediaError(path, `it has no layer "${layer}"`);
  }
  const exr = about.settings.container === 'exr';
  const settings = {
    ...about.settings,
    alpha: info.channels.includes('A'),
    ...(exr && layer === undefined && info.types && { types: info.types }),
  };
  const colour = colourOfLayer(picture.channels, layer ?? '');
  const names = !exr || layer !== undefined ? ['R', 'G', 'B', 'A'] : picture.channels;
  const planes = Object.fromEntries(
    outputChannels(settings, names).map((c) => [c, picture.planes[layer !== undefined || !exr ? (colour['RGB'.indexOf(c)] ?? c) : c]!]),
  );
  const frame = formatRect(picture.format);
  if (exr || sameRect(picture.bounds, frame)) return encodeMedia({ region: picture.bounds, planes }, picture.format, settings, kernels);
  // Only OpenEXR has bounds of its own: the others hold the frame, empty where there is nothing.
  const whole = Object.fromEntries(
    Object.entries(planes).map(([c, plane]) => {
      const to = kernels.zeros(frame.x1 * frame.y1);
      copyShared(kernels, plane, picture.bounds, to, frame);
      return [c, to];
    }),
  );
  try {
    return await encodeMedia({ region: frame, planes: whole }, picture.format, settings, kernels);
  } finally {
    Object.values(whole).forEach((p) => kernels.give(p));
  }
}

/** Colour tables and corrections, each to its own kind. */
async function convertText(from: string, to: string): Promise<void> {
  const text = new TextDecoder().decode(await readBytes(userPath(from)));
  const ending = extname(to).slice(1).toLowerCase();
  const made =
    ending === 'cube' ? formatCube(parseCube(text, userPath(from))) : formatCdls(parseCdl(text, userPath(from)), ending as CdlKind);
  await refuseOverInput([userPath(from)], [userPath(to)]);
  await writeWhole(userPath(to), made);
  process.stdout.write(`${userPath(to)}\n`);
}
