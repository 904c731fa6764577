import type { Remote } from 'comlink';
import { wrap } from 'comlink';
import type { ReadingWorker } from './reading.worker';

let worker: Remote<ReadingWorker> | undefined;

/** The worker that measures, made when it is first asked. */
export function readingWorker(): Remote<ReadingWorker> {
  worker ??= wrap<ReadingWorker>(new Worker(new URL('./reading.worker.ts', import.meta.url), { type: 'module' }));
  return worker;
}
