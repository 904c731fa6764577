import { LoneWorker } from './lone-worker';
import type { ScopeWorker } from './scopes.worker';

/**
 * The worker that counts pixels for scopes and checks and reads tables to look through. Pixels in shared memory are not copied to it.
 */
export const scopeWorker = new LoneWorker<ScopeWorker>(
  'The counting of pixels',
  () => new Worker(new URL('./scopes.worker.ts', import.meta.url), { type: 'module' }),
);
