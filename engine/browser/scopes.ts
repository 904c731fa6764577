import type { Remote } from 'comlink';
import { wrap } from 'comlink';
import type { ScopeWorker } from './scopes.worker';

let worker: Remote<ScopeWorker> | undefined;

/** The worker that counts pixels for scopes and checks and reads tables to look through, made when it is first asked. Pixels in shared memory are not copied to it. */
export function scopeWorker(): Remote<ScopeWorker> {
  worker ??= wrap<ScopeWorker>(new Worker(new URL('./scopes.worker.ts', import.meta.url), { type: 'module' }));
  return worker;
}
