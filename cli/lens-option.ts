import { extname } from 'node:path';
import type { Kernels } from '@/kernels';
import { ShotError } from '@/core/errors';
import { FILTERS } from '@/core/filters';
import type { Lens } from '@/core/lens';
import { foldInside, lensJob, parseLens, sameShape, stMapOf, throughLens } from '@/core/lens';
import type { Picture } from '@/core/picture';
import { DEFAULT_OUTPUT } from '@/core/formats';
import { encodeMedia } from '@/engine';
import { nodeKernels, readBytes } from '@/engine/node';
import { UsageError, userPath } from './arguments';
import { oneOf } from './read-pictures';
import { writeWhole } from './write-file';

export const LENS_FLAGS = ['straighten', 'bend'];
export const LENS_OPTIONS = ['lens', 'size', 'filter', 'st-map'];

export interface LensOption {
  lens: Lens;
  direction: 'straighten' | 'bend';
  size: 'same' | 'grown' | 'fitted';
  filter: (typeof FILTERS)[number]['value'];
}

/** The lens that was asked for; null where none was. */
export async function lensOption(options: ReadonlyMap<string, string>): Promise<LensOption | null> {
  const path = options.get('lens');
  const asked = LENS_FLAGS.filter((f) => options.has(f));
  if (path === undefined) {
    const lone = [...LENS_FLAGS, ...LENS_OPTIONS].find((o) => options.has(o));
    if (lone) throw new UsageError(`--${lone} needs --lens LENS.json, as read lens --json prints it`);
    return null;
  }
  if (asked.length !== 1) throw new UsageError('--lens needs --straighten or --bend');
  const lens = parseLens(new TextDecoder().decode(await readBytes(userPath(path))), userPath(path));
  const fold = foldInside(lens);
  if (fold !== null)
    process.stderr.write(`this lens folds ${fold.toFixed(0)} px from its centre, inside the frame: pixels beyond that are empty\n`);
  return {
    lens,
    direction: asked[0] as LensOption['direction'],
    size: oneOf(options, 'size', ['same', 'grown', 'fitted'] as const, 'same'),
    filter: oneOf(
      options,
      'filter',
      FILTERS.map((f) => f.value),
      'lanczos3',
    ),
  };
}

export function bentPicture(kernels: Kernels, picture: Picture, { lens, direction, size, filter }: LensOption): Picture {
  const { width, height } = picture.format;
  if (direction === 'bend' && size !== 'same') {
    throw new UsageError('--bend takes pictures straightened with --size same: only those have the lens’s own frame');
  }
  if (!sameShape(lens.format, picture.format)) {
    throw new ShotError(
      `the lens is of ${lens.format.width}×${lens.format.height} pixels, and a picture of ${width}×${height} has another shape`,
    );
  }
  return throughLens(kernels, picture, lensJob(lens, picture.format, direction, size), filter);
}

/** The map of a lens as a 32-bit OpenEXR file, y upward. */
export async function writeStMap(option: LensOption | null, options: ReadonlyMap<string, string>, words: readonly string[]): Promise<void> {
  const to = options.get('st-map')!;
  if (!option) throw new UsageError('--st-map needs --lens');
  if (words.length > 0) throw new UsageError('--st-map writes a map alone: without a picture to read');
  if (extname(to).toLowerCase() !== '.exr') throw new UsageError('--st-map writes OpenEXR: a name that ends in .exr');
  const { lens, direction, size } = option;
  const format = { ...lens.format, pixelAspect: 1 };
  const kernels = await nodeKernels();
  const job = lensJob(lens, format, direction, size);
  // What a map of a bend looks up is the straight picture, whose frame is the filmed one here.
  const planes = stMapOf(kernels, job, format, true);
  const bytes = await encodeMedia(
    { region: job.bounds, planes },
    job.format,
    { ...DEFAULT_OUTPUT, container: 'exr', bits: 32, alpha: true },
    kernels,
  );
  await writeWhole(userPath(to), bytes);
  process.stdout.write(`${userPath(to)}\n`);
}
