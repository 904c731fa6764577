import { Worker, parentPort, workerData } from 'node:worker_threads';
import { MediaError, messageOf } from '@/core/errors';
import type { MediaInfo } from '@/engine';
import { inspectAny } from '@/engine';
import { readBytes } from '@/engine/node';

/** Milliseconds for the index of a movie. A damaged one can keep its reader busy for ever. */
const PATIENCE = 20_000;

type Answer = { info: MediaInfo } | { problem: string };

/** What a movie says of itself, read on a thread of its own that is ended where it does not come to an end. Throws MediaError. */
export function movieInfo(path: string): Promise<MediaInfo> {
  const worker = new Worker(new URL(import.meta.url), { workerData: { movie: path } });
  return new Promise<MediaInfo>((resolve, reject) => {
    const timer = setTimeout(() => reject(new MediaError(path, 'it is damaged: its index leads round in a circle')), PATIENCE);
    worker.on('message', (a: Answer) => ('info' in a ? resolve(a.info) : reject(new MediaError(path, a.problem))));
    worker.on('error', (e) => reject(new MediaError(path, `it is damaged (${messageOf(e)})`)));
    worker.on('exit', () => clearTimeout(timer));
  }).finally(() => void worker.terminate());
}

/** What a process does that was started as that thread. */
export async function serveMovie(): Promise<void> {
  const path = (workerData as { movie: string }).movie;
  const answer: Answer = await readBytes(path)
    .then((bytes) => inspectAny(bytes, path))
    .then(
      (info) => ({ info }),
      (e: unknown) => ({ problem: e instanceof MediaError ? e.problem : messageOf(e) }),
    );
  parentPort!.postMessage(answer);
}
