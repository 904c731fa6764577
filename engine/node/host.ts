import { createHash } from 'node:crypto';
import { open, readFile, readdir, stat } from 'node:fs/promises';
import { basename, dirname, join, resolve } from 'node:path';
import type { Kernels } from '@/kernels';
import type { MediaFrame, Shot, Source } from '@/core/document';
import { LIMITS, mediaOf, parseJson, parseShot } from '@/core/document';
import { MediaError, ShotError, messageOf } from '@/core/errors';
import { initCodecs } from '../codecs';
import { inspectAny } from '../inspect-any';
import type { MediaInfo } from '../inspect';
import { sourceOf } from '../media-source';
import type { PictureHost } from '../host';
import type { Job, MediaLoader } from '../renderer';
import { Renderer } from '../renderer';
import { patternExpression } from '../sequences';
import { makeKernels } from '../wasm';

const root = (): string => process.env.OSTRACON_ROOT ?? process.cwd();
const compile = async (path: string): Promise<WebAssembly.Module> => WebAssembly.compile(await readFile(join(root(), path)));

let kernels: Promise<Kernels> | undefined;

/** The kernels and codecs of this process. */
export function nodeKernels(): Promise<Kernels> {
  kernels ??= (async () => {
    initCodecs({
      jpeg: () => compile('node_modules/@jsquash/jpeg/codec/dec/mozjpeg_dec.wasm'),
      webp: () => compile('node_modules/@jsquash/webp/codec/dec/webp_dec.wasm'),
      jpegEncoder: () => compile('node_modules/@jsquash/jpeg/codec/enc/mozjpeg_enc.wasm'),
      webpEncoder: () => compile('node_modules/@jsquash/webp/codec/enc/webp_enc_simd.wasm'),
    });
    return makeKernels(await compile('kernels/build/kernels.wasm'));
  })();
  return kernels;
}

export async function readBytes(path: string): Promise<Uint8Array> {
  try {
    // What is no file (a pipe, a device) may never end.
    const about = await stat(path);
    if (!about.isFile()) throw new Error(about.isDirectory() ? 'it is a folder' : 'it is not a file');
    return await readFile(path);
  } catch (e) {
    const missing = (e as NodeJS.ErrnoException).code === 'ENOENT';
    throw new MediaError(path, missing ? 'there is no such file' : messageOf(e));
  }
}

/** A shot with the folder its paths are relative to, and its media by hash. */
export interface OpenShot {
  shot: Shot;
  /** Path of every media file by hash. */
  files: Map<string, string>;
  /** Removes what was unpacked for it, at once. */
  closeNow(): void;
}

/**
 * Reads a shot file whose sources may give `path` (with #### or %04d for the frame) and leave out what the files' headers
 * say. Throws ShotError or MediaError.
 */
export async function openShotFile(path: string): Promise<OpenShot> {
  const text = new TextDecoder().decode(await readBytes(path));
  let json: unknown;
  try {
    json = parseJson(text);
  } catch (e) {
    throw new MediaError(path, messageOf(e));
  }
  await nodeKernels();
  const files = new Map<string, string>();
  const sources = (json as { sources?: unknown }).sources;
  if (Array.isArray(sources)) {
    for (const source of sources) {
      if (typeof source?.path === 'string') await completeSource(source as Partial<Source> & { path: string }, dirname(path), files);
    }
  }
  completeLessons(json, dirname(path), files);
  try {
    return { shot: parseShot(json), files, closeNow: () => undefined };
  } catch (e) {
    throw new MediaError(path, messageOf(e));
  }
}

/** Lessons may name what they have learnt by a path, too. */
function completeLessons(json: unknown, base: string, files: Map<string, string>): void {
  const { readings } = json as { readings?: { kind?: string; weights?: { path?: string; hash?: string; name?: string } | null }[] };
  if (!Array.isArray(readings)) return;
  for (const { kind, weights } of readings) {
    if (kind !== 'lesson' || typeof weights?.path !== 'string') continue;
    const full = resolve(base, weights.path);
    const hash = createHash('sha256').update(full).digest('hex');
    files.set(hash, full);
    Object.assign(weights, { hash, name: basename(full) });
  }
}

async function completeSource(source: Partial<Source> & { path: string }, base: string, files: Map<string, string>): Promise<void> {
  const full = resolve(base, source.path);
  const found = await findFrames(full);
  const first = found[0];
  if (!first) throw new MediaError(full, 'there is no such file, nor a sequence of this name');
  const info = await inspectAny(await readBytes(first.path), first.path);
  const frames: MediaFrame[] = [];
  for (const { frame, path } of found) {
    // On the command line a file stands for itself: its path takes the place of its contents' hash.
    const hash = createHash('sha256').update(path).digest('hex');
    files.set(hash, path);
    // The data window of an OpenEXR file may differ from frame to frame.
    const { bounds } = info.container === 'OpenEXR' ? await inspectHead(path) : info;
    frames.push({ frame, hash, name: basename(path), ...(bounds && { bounds }) });
  }
  const still = patternExpression(basename(full)) === null;
  // What the shot file says goes before what the media's header says.
  Object.assign(source, { ...sourceOf(info, frames, still), ...source });
}

/** What a file's header says, from its first bytes where they hold it. */
async function inspectHead(path: string): Promise<MediaInfo> {
  const file = await open(path);
  try {
    const { bytesRead, buffer } = await file.read(new Uint8Array(65536), 0, 65536, 0);
    return await inspectAny(buffer.subarray(0, bytesRead), path);
  } catch {
    return inspectAny(await readBytes(path), path);
  } finally {
    await file.close();
  }
}

/** The files of a `####` or `%04d` pattern in order of their numbers, or the one file named. */
export async function findFrames(pattern: string): Promise<{ frame: number; path: string }[]> {
  const expression = patternExpression(basename(pattern));
  if (!expression) return (await exists(pattern)) ? [{ frame: 1, path: pattern }] : [];
  const names = await readdir(dirname(pattern)).catch(() => [] as string[]);
  return names
    .map((n) => ({ frame: Number(expression.exec(n)?.[1] ?? NaN), path: join(dirname(pattern), n) }))
    .filter((f) => Number.isInteger(f.frame) && Math.abs(f.frame) <= LIMITS.frame)
    .sort((a, b) => a.frame - b.frame);
}

const exists = (path: string): Promise<boolean> =>
  stat(path).then(
    () => true,
    () => false,
  );

/** A host that works in this process; `budget` bytes are kept for results. */
export async function nodeHost(files: Map<string, string>, budget?: number): Promise<PictureHost & { renderer: Renderer }> {
  const file: MediaLoader['file'] = async (media, source) => {
    const path = files.get(media.hash);
    if (!path) throw new ShotError(`the file ${media.name} of "${source.name}" is not here`);
    return readBytes(path);
  };
  const load: MediaLoader = {
    file,
    movie: async (source) => {
      const media = mediaOf(source, 1)!;
      const { Movie } = await import('../movies');
      return Movie.open(await file(media, source), media.name);
    },
  };
  const renderer = new Renderer(await nodeKernels(), load, budget);
  const job = (signal?: AbortSignal): Job => (signal ? { cancelled: () => signal.aborted } : {});
  return {
    renderer,
    render: (shot, request, signal) => renderer.render(shot, request, job(signal)),
    encode: (shot, lane, frame, scale, settings, signal) => renderer.encode(shot, lane, frame, scale, settings, job(signal)),
  };
}
