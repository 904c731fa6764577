import type { Remote } from 'comlink';
import { releaseProxy, wrap } from 'comlink';
import { Cancelled, ShotError } from '@/core/errors';
import { Starts, cannotStart } from './starts';

/** A worker as it is given: that of a browser, or an object that stands for one. */
interface Current<T> {
  worker: Worker;
  remote: Remote<T>;
  answered: boolean;
  /** Fails whatever still waits for this worker. */
  ended: Promise<never>;
  end(e: Error): void;
}

/** One worker for work of one kind, made when it is first asked and replaced when it dies. */
export class LoneWorker<T> {
  private current: Current<T> | null = null;
  private readonly starts = new Starts();
  private ready: Promise<void> = Promise.resolve();

  constructor(
    /** What it is, at the beginning of a sentence. */
    private readonly what: string,
    private readonly make: () => Worker,
  ) {}

  /** Calls the worker. Throws what the call throws, ShotError where the worker dies meanwhile, Cancelled where the signal aborts: the worker is then ended. */
  async call<R>(run: (worker: Remote<T>) => Promise<R>, signal?: AbortSignal): Promise<R> {
    await this.ready;
    if (this.starts.givenUp) throw cannotStart(this.what);
    if (signal?.aborted) throw new Cancelled();
    const current = (this.current ??= this.start());
    const stop = (): void => this.lose(current, new Cancelled());
    signal?.addEventListener('abort', stop);
    try {
      const value = await Promise.race([run(current.remote), current.ended]);
      current.answered = true;
      this.starts.answered();
      return value;
    } finally {
      signal?.removeEventListener('abort', stop);
    }
  }

  private start(): Current<T> {
    const worker = this.make();
    let end = (_: Error): void => undefined;
    const ended = new Promise<never>((_, fail) => (end = fail));
    ended.catch(() => undefined);
    const current: Current<T> = { worker, remote: wrap<T>(worker), answered: false, ended, end };
    worker.onerror = (e) => this.lose(current, new ShotError(`${this.what} stopped (${e.message || 'out of memory?'}); try again`));
    return current;
  }

  private lose(current: Current<T>, why: Error): void {
    if (this.current !== current) return;
    this.current = null;
    current.remote[releaseProxy]();
    current.worker.terminate();
    if (!current.answered && !(why instanceof Cancelled)) {
      const wait = this.starts.failed();
      if (wait === null) why = cannotStart(this.what);
      else this.ready = new Promise((done) => setTimeout(done, wait));
    }
    current.end(why);
  }
}
