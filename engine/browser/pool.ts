import type { Remote } from 'comlink';
import { wrap } from 'comlink';
import type { Shot } from '@/core/document/types';
import { Cancelled, MediaError, ShotError } from '@/core/errors';
import type { Request } from '@/core/evaluate/plan';
import type { OutputSettings } from '@/core/formats/output';
import type { MediaInfo } from '../codecs';
import type { PictureHost, Rendered } from '../host';
import type { PictureWorker } from './picture.worker';

/** What is wanted sooner goes first. */
export type Priority = 'view' | 'export' | 'ahead' | 'thumbnail';
const ORDER: Record<Priority, number> = { view: 0, export: 1, ahead: 2, thumbnail: 3 };

interface Task {
  priority: Priority;
  serial: number;
  cancel: Int32Array;
  run(worker: Remote<PictureWorker>): Promise<unknown>;
  resolve(value: unknown): void;
  reject(e: unknown): void;
}

interface Seat {
  worker: Worker;
  remote: Remote<PictureWorker>;
  task: Task | null;
}

type Outcome<T> = { value: T } | { error: { name: string; message: string; where?: ShotError['where'] } };

/** Workers, and a queue in front of them. A worker that dies is replaced and its task fails with a message. */
export class WorkerPool implements PictureHost {
  private readonly seats: Seat[] = [];
  private readonly queue: Task[] = [];
  private serial = 0;

  constructor(readonly size = Math.max(1, Math.min(navigator.hardwareConcurrency || 2, 8))) {
    for (let i = 0; i < size; i++) this.seats.push(this.seat());
  }

  render(shot: Shot, request: Request, signal?: AbortSignal, priority: Priority = 'view'): Promise<Rendered> {
    return this.add(priority, signal, (w, cancel) => w.render(shot, request, cancel));
  }

  encode(shot: Shot, lane: string, frame: number, scale: number, settings: OutputSettings, signal?: AbortSignal): Promise<Uint8Array> {
    return this.add('export', signal, (w, cancel) => w.encode(shot, lane, frame, scale, settings, cancel));
  }

  inspect(file: File, signal?: AbortSignal): Promise<{ info: MediaInfo; hash: string }> {
    return this.add('export', signal, (w) => w.inspect(file));
  }

  dispose(): void {
    this.seats.forEach((s) => s.worker.terminate());
  }

  private add<T>(
    priority: Priority,
    signal: AbortSignal | undefined,
    call: (worker: Remote<PictureWorker>, cancel: Int32Array) => Promise<Outcome<T>>,
  ): Promise<T> {
    return new Promise<T>((resolve, reject) => {
      if (signal?.aborted) return reject(new Cancelled());
      const task: Task = {
        priority,
        serial: this.serial++,
        cancel: new Int32Array(new SharedArrayBuffer(4)),
        run: async (worker) => {
          const outcome = await call(worker, task.cancel);
          if ('value' in outcome) return outcome.value;
          throw revive(outcome.error);
        },
        resolve: resolve as (v: unknown) => void,
        reject,
      };
      signal?.addEventListener('abort', () => {
        Atomics.store(task.cancel, 0, 1);
        const at = this.queue.indexOf(task);
        if (at >= 0) this.queue.splice(at, 1);
        reject(new Cancelled());
      });
      this.queue.push(task);
      this.queue.sort((a, b) => ORDER[a.priority] - ORDER[b.priority] || a.serial - b.serial);
      this.next();
    });
  }

  private next(): void {
    for (const seat of this.seats) {
      if (seat.task) continue;
      // One worker stays free of thumbnails, so that the view does not queue behind them.
      const drawing = this.seats.some((s) => s.task?.priority === 'thumbnail');
      const at = this.queue.findIndex((t) => this.size === 1 || t.priority !== 'thumbnail' || !drawing);
      if (at < 0) return;
      const task = this.queue.splice(at, 1)[0]!;
      seat.task = task;
      task
        .run(seat.remote)
        .then(task.resolve, task.reject)
        .finally(() => {
          if (seat.task === task) seat.task = null;
          this.next();
        });
    }
  }

  private seat(): Seat {
    const worker = new Worker(new URL('./picture.worker.ts', import.meta.url), { type: 'module' });
    const seat: Seat = { worker, remote: wrap<PictureWorker>(worker), task: null };
    worker.onerror = (e) => {
      seat.task?.reject(new ShotError(`a picture worker stopped (${e.message || 'out of memory?'}); it was replaced, try again`));
      seat.task = null;
      worker.terminate();
      const i = this.seats.indexOf(seat);
      if (i >= 0) this.seats[i] = this.seat();
      this.next();
    };
    return seat;
  }
}

function revive(e: { name: string; message: string; where?: ShotError['where'] }): Error {
  if (e.name === 'Cancelled') return new Cancelled();
  if (e.name === 'ShotError') return new ShotError(e.message, e.where);
  if (e.name === 'MediaError') {
    const colon = e.message.indexOf(': ');
    return new MediaError(e.message.slice(0, colon), e.message.slice(colon + 2));
  }
  return new Error(e.message);
}
