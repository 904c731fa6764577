import { MediaError, ShotError } from '@/core/errors';
import type { Rect } from '@/core/geometry';
import { area, isEmpty } from '@/core/geometry';
import type { Format } from '@/core/picture';
import { RGBA, formatRect } from '@/core/picture';
import type { Gray, GrayFrame, ReadingChannel } from '@/core/readings';
import { grayFrame } from '@/core/readings';
import { decodeMedia, inspectMedia, isMovie } from '@/engine';
import { findFrames, nodeKernels, readBytes } from '@/engine/node';
import { UsageError, userPath } from './arguments';

export function oneOf<T extends string>(options: ReadonlyMap<string, string>, name: string, allowed: readonly T[], usual: T): T {
  const given = options.get(name);
  const found = given === undefined ? usual : allowed.find((a) => a === given);
  if (found === undefined) throw new UsageError(`--${name} is one of ${allowed.join(', ')}`);
  return found;
}

export function numbers(options: ReadonlyMap<string, string>, name: string, count?: number): number[] | undefined {
  const given = options.get(name);
  if (given === undefined) return undefined;
  const list = given.split(',').map(Number);
  if (list.some((v) => !Number.isFinite(v)) || given.trim() === '' || (count !== undefined && list.length !== count)) {
    throw new UsageError(`--${name} takes ${count ? `${count} numbers` : 'numbers'} with commas between, not "${given}"`);
  }
  return list;
}

export async function openSequence(pattern: string): Promise<Map<number, string>> {
  const found = await findFrames(userPath(pattern));
  if (found.length === 0) throw new MediaError(userPath(pattern), 'there is no such file, nor a sequence of this name');
  return new Map(found.map((f) => [f.frame, f.path]));
}

export interface Decoded {
  pixels: Float32Array;
  bounds: Rect;
  format: Format;
}

export async function decoded(path: string): Promise<Decoded> {
  const kernels = await nodeKernels();
  const bytes = await readBytes(path);
  if (isMovie(bytes)) throw new MediaError(path, 'movies are decoded in the browser only: bring it into a shot and export its frames');
  const info = await inspectMedia(bytes, path);
  const { planes, bounds, format } = await decodeMedia(bytes, path, info, kernels);
  const pixels = new Float32Array(4 * area(bounds));
  RGBA.forEach((c, k) => {
    const plane = planes[c];
    for (let i = 0; i < pixels.length / 4; i++) pixels[4 * i + k] = plane ? plane[i]! : c === 'A' ? 1 : 0;
  });
  Object.values(planes).forEach((p) => kernels.give(p));
  return { pixels, bounds: isEmpty(bounds) ? formatRect(format) : bounds, format };
}

export const channelOf = ({ pixels, bounds, format }: Decoded, channel: ReadingChannel): GrayFrame =>
  grayFrame(pixels, bounds, format, channel);

/** A matte: its alpha, or, where it has none that says anything, its luma. */
export async function matteOf(sequence: ReadonlyMap<number, string>, frame: number, name: string): Promise<Gray> {
  const path = sequence.get(frame);
  if (!path) throw new ShotError(`${name} has no frame ${frame}`);
  const file = await decoded(path);
  const [alpha, luma] = (['alpha', 'luma'] as const).map((c) => channelOf(file, c).read(0, 0, file.format.width, file.format.height));
  return alpha!.data.some((v) => v < 1) ? alpha! : luma!;
}
