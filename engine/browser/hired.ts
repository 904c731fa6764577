import type { Remote } from 'comlink';
import { releaseProxy, wrap } from 'comlink';
// What it throws comes as what it was.
import './protocol';

/** A worker that was started: what it can be asked, and whether it ever answered. */
export class Hired<T> {
  readonly remote: Remote<T>;
  answered = false;

  /** `died` is told once why it ended by itself. */
  constructor(
    private readonly worker: Worker,
    died: (why: string) => void,
  ) {
    this.remote = wrap<T>(worker);
    worker.onerror = (e) => died(e.message || 'out of memory?');
  }

  /** Ends it. What it was asked is answered no more. */
  end(): void {
    this.remote[releaseProxy]();
    this.worker.terminate();
  }
}
