import type { SvgOutline } from '@/core/shape';
import { readSvg } from '@/core/shape';
import type { Bundle } from '../bundle';
import type { FilesWorker } from './files.worker';
import { LoneWorker } from './lone-worker';
import { sha256OfFile } from './media-db';

const filesWorker = new LoneWorker<FilesWorker>(
  'The reading of files',
  () => new Worker(new URL('./files.worker.ts', import.meta.url), { type: 'module' }),
);

/** Checks a whole bundle away from the page's thread (on it where there are no workers). Throws MediaError. */
export async function openBundle(file: File, signal?: AbortSignal): Promise<Bundle> {
  if (typeof Worker === 'undefined') return (await import('../bundle')).readBundle(file, file.name, sha256OfFile);
  const found = await filesWorker.call((w) => w.check(file), signal);
  return {
    ...found,
    media: new Map(found.media),
    file: (hash) => filesWorker.call((w) => w.media(hash), signal),
  };
}

/** The outlines of an SVG file, read away from the page's thread (on it where there are no workers). Throws ShotError. */
export async function openSvg(file: File): Promise<SvgOutline[]> {
  if (typeof Worker === 'undefined') return readSvg(await file.text());
  return filesWorker.call((w) => w.outlines(file));
}
