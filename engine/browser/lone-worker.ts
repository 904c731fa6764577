import type { Remote } from 'comlink';
import { Cancelled, ShotError } from '@/core/errors';
import { Hired } from './hired';
import { Starts, cannotStart } from './starts';

/** Fails whatever still waits for a worker. */
interface Current<T> {
  hired: Hired<T>;
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
      const value = await Promise.race([run(current.hired.remote), current.ended]);
      current.hired.answered = true;
      this.starts.answered();
      return value;
    } finally {
      signal?.removeEventListener('abort', stop);
    }
  }

  private start(): Current<T> {
    let end = (_: Error): void => undefined;
    const ended = new Promise<never>((_, fail) => (end = fail));
    ended.catch(() => undefined);
    const hired = new Hired<T>(this.make(), (why) => this.lose(current, new ShotError(`${this.what} stopped (${why}); try again`)));
    const current: Current<T> = { hired, ended, end };
    return current;
  }

  private lose(current: Current<T>, why: Error): void {
    if (this.current !== current) return;
    this.current = null;
    current.hired.end();
    const wait = why instanceof Cancelled ? 0 : this.starts.lost(current.hired);
    if (wait) this.ready = new Promise((done) => setTimeout(done, wait));
    current.end(wait === null ? cannotStart(this.what) : why);
  }
}
