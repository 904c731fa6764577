import { LoneWorker } from './lone-worker';
import type { ReadingWorker } from './reading.worker';

/** The worker that measures. */
export const readingWorker = new LoneWorker<ReadingWorker>(
  'The measuring',
  () => new Worker(new URL('./reading.worker.ts', import.meta.url), { type: 'module' }),
);
