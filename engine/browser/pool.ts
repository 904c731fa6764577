import type { Remote } from 'comlink';
import { releaseProxy, wrap } from 'comlink';
import type { Shot, Source } from '@/core/document/types';
import type { Statistics } from '@/core/statistics';
import { Cancelled, MediaError, ShotError } from '@/core/errors';
import type { Request } from '@/core/evaluate/plan';
import { makePlan } from '@/core/evaluate/plan';
import type { CacheFigures } from '@/core/evaluate/results';
import type { OutputSettings } from '@/core/formats/output';
import type { Rect } from '@/core/geometry/rect';
import { area, rect } from '@/core/geometry/rect';
import { STEPS } from '@/core/steps';
import type { PictureHost, Rendered } from '../host';
import type { Inspected, PictureWorker } from './picture.worker';
import type { Outcome } from './protocol';
import { STATUS } from './protocol';

/** What is wanted sooner goes first. */
export type Priority = 'view' | 'export' | 'ahead' | 'thumbnail';
const ORDER: Record<Priority, number> = { view: 0, export: 1, ahead: 2, thumbnail: 3 };

interface Task {
  priority: Priority;
  serial: number;
  /** The worker that has seen this part of the frame before, if it is free. */
  seat?: number;
  status: Int32Array;
  /** Given up by whoever asked for it; a task that merely makes room comes back into the queue. */
  aborted: boolean;
  run(worker: Remote<PictureWorker>, status: Int32Array): Promise<unknown>;
  /** What it was at, for a message. */
  place(node: number): string;
  resolve(value: unknown): void;
  reject(e: unknown): void;
}

interface Seat {
  worker: Worker;
  remote: Remote<PictureWorker>;
  task: Task | null;
  beat: number;
  beatAt: number;
  figures: CacheFigures | null;
}

export interface PoolSettings {
  size: number;
  /** Bytes for the results that each worker keeps. */
  budget: number;
  makeWorker(): Worker;
  /** Milliseconds without a sign of life after which a worker counts as lost: while it is wanted, and after it was cancelled. */
  patience: number;
  patienceCancelled: number;
}

const DEFAULTS: PoolSettings = {
  size: Math.max(1, Math.min((typeof navigator === 'undefined' ? 0 : navigator.hardwareConcurrency) || 2, 8)),
  budget: 256 * 2 ** 20,
  makeWorker: () => new Worker(new URL('./picture.worker.ts', import.meta.url), { type: 'module' }),
  patience: 30_000,
  patienceCancelled: 4_000,
};

/** Below this many pixels a frame is not worth cutting into bands. */
const WORTH_CUTTING = 65536;

/**
 * Workers, and a queue in front of them. The frame on screen is cut into one band a worker; playback and export go by
 * frames. A worker that dies or does not answer is replaced and its task fails with a message that names the step.
 */
export class WorkerPool implements PictureHost {
  private readonly settings: PoolSettings;
  private readonly seats: Seat[] = [];
  private readonly queue: Task[] = [];
  private serial = 0;
  private watch: ReturnType<typeof setInterval> | undefined;

  constructor(settings: Partial<PoolSettings> = {}) {
    this.settings = { ...DEFAULTS, ...settings };
    for (let i = 0; i < this.settings.size; i++) this.seats.push(this.seat());
  }

  get size(): number {
    return this.seats.length;
  }

  /** What the workers' caches hold and how often they were of use. */
  figures(): CacheFigures {
    const sum: CacheFigures = { hits: 0, misses: 0, bytes: 0, budget: 0 };
    for (const { figures } of this.seats) {
      sum.budget += this.settings.budget;
      if (figures) for (const k of ['hits', 'misses', 'bytes'] as const) sum[k] += figures[k];
    }
    return sum;
  }

  /** Bytes for each worker's results; 0 empties them. */
  setBudget(bytes: number): void {
    this.settings.budget = bytes;
    for (const seat of this.seats) void this.send(seat, bytes);
  }

  private async send(seat: Seat, budget: number): Promise<void> {
    seat.figures = await seat.remote.setBudget(budget);
  }

  async render(shot: Shot, request: Request, signal?: AbortSignal, priority: Priority = 'view'): Promise<Rendered> {
    const region = request.region ?? makePlan(shot, request, STEPS).region;
    const pixels = new Float32Array(new SharedArrayBuffer(16 * area(region)));
    const bands = priority === 'view' && area(region) >= WORTH_CUTTING ? cut(region, this.size) : [region];
    const all = new AbortController();
    const stop = (): void => all.abort();
    signal?.addEventListener('abort', stop);
    const width = 4 * (region.x1 - region.x0);
    const parts = bands.map((band, i) =>
      this.add<Omit<Rendered, 'pixels'>>(
        { priority, ...(bands.length > 1 && { seat: i }), place: (n) => placeOf(shot, request, n) },
        all.signal,
        (w, status) =>
          w.render(
            shot,
            { ...request, region: band },
            status,
            pixels.subarray((band.y0 - region.y0) * width, (band.y1 - region.y0) * width),
          ),
      ),
    );
    try {
      if (signal?.aborted) stop();
      const [first, ...more] = await Promise.all(parts);
      const remarks = new Map([first!, ...more].flatMap((p) => p.remarks).map((r) => [`${r.step} ${r.message}`, r]));
      const milliseconds = Math.max(first!.milliseconds, ...more.map((m) => m.milliseconds));
      return { ...first!, region, pixels, remarks: [...remarks.values()], milliseconds };
    } catch (e) {
      stop();
      throw e;
    } finally {
      signal?.removeEventListener('abort', stop);
    }
  }

  encode(shot: Shot, lane: string, frame: number, scale: number, settings: OutputSettings, signal?: AbortSignal): Promise<Uint8Array> {
    const place = (n: number): string => placeOf(shot, { tap: { lane }, frame, scale, channels: ['A'] }, n);
    return this.add({ priority: 'export', place }, signal, (w, status) => w.encode(shot, lane, frame, scale, settings, status));
  }

  inspect(file: File, closely: boolean, signal?: AbortSignal): Promise<Inspected> {
    return this.add({ priority: 'export', place: () => file.name }, signal, (w) => w.inspect(file, closely));
  }

  measure(source: Source, mediaFrame: number, channels: readonly string[], signal?: AbortSignal): Promise<Record<string, Statistics>> {
    return this.add({ priority: 'thumbnail', place: () => source.name }, signal, (w) => w.measure(source, mediaFrame, channels));
  }

  makeProxy(source: Source, mediaFrame: number, scale: number, signal?: AbortSignal): Promise<number> {
    return this.add({ priority: 'ahead', place: () => source.name }, signal, (w) => w.makeProxy(source, mediaFrame, scale));
  }

  dispose(): void {
    clearInterval(this.watch);
    for (const seat of this.seats) {
      seat.worker.terminate();
      seat.task?.reject(new Cancelled());
    }
    this.queue.splice(0).forEach((t) => t.reject(new Cancelled()));
  }

  private add<T>(
    about: Pick<Task, 'priority' | 'place' | 'seat'>,
    signal: AbortSignal | undefined,
    call: (worker: Remote<PictureWorker>, status: Int32Array) => Promise<Outcome<T>>,
  ): Promise<T> {
    return new Promise<T>((resolve, reject) => {
      if (signal?.aborted) return reject(new Cancelled());
      const task: Task = {
        ...about,
        serial: this.serial++,
        status: newStatus(),
        aborted: false,
        run: async (worker, status) => {
          const outcome = await call(worker, status);
          const seat = this.seats.find((s) => s.remote === worker);
          if (seat) seat.figures = outcome.figures;
          if ('value' in outcome) return outcome.value;
          throw revive(outcome.error);
        },
        resolve: resolve as (v: unknown) => void,
        reject,
      };
      signal?.addEventListener('abort', () => {
        task.aborted = true;
        Atomics.store(task.status, STATUS.cancel, 1);
        const at = this.queue.indexOf(task);
        if (at >= 0) this.queue.splice(at, 1);
        reject(new Cancelled());
      });
      this.enqueue(task);
      if (task.priority === 'view') this.makeRoom();
      this.next();
    });
  }

  private enqueue(task: Task): void {
    this.queue.push(task);
    this.queue.sort((a, b) => ORDER[a.priority] - ORDER[b.priority] || a.serial - b.serial);
  }

  /** Work that nobody looks at yet is stopped and put back while the screen waits. */
  private makeRoom(): void {
    let wanted = this.queue.filter((t) => t.priority === 'view').length - this.seats.filter((s) => !s.task).length;
    for (const { task } of this.seats) {
      if (wanted <= 0) return;
      if (!task || ORDER[task.priority] < ORDER.ahead) continue;
      Atomics.store(task.status, STATUS.cancel, 1);
      wanted--;
    }
  }

  private next(): void {
    this.seats.forEach((seat, i) => {
      if (seat.task || this.queue.length === 0) return;
      // One worker stays free of thumbnails, so that the view does not queue behind them.
      const drawing = this.size > 1 && this.seats.some((s) => s.task?.priority === 'thumbnail');
      const fit = this.queue.filter((t) => t.priority !== 'thumbnail' || !drawing);
      const best = fit.find((t) => t.seat === i && t.priority === fit[0]!.priority) ?? fit[0];
      if (!best) return;
      this.queue.splice(this.queue.indexOf(best), 1);
      this.start(seat, best);
    });
  }

  private start(seat: Seat, task: Task): void {
    seat.task = task;
    seat.beat = 0;
    seat.beatAt = performance.now();
    this.watch ??= setInterval(() => this.look(), 250);
    const settle = (run: () => void): void => {
      // A worker that was given up may still answer.
      if (seat.task !== task) return;
      seat.task = null;
      run();
      this.next();
    };
    task.run(seat.remote, task.status).then(
      (value) => settle(() => task.resolve(value)),
      (e: unknown) =>
        settle(() => {
          if (e instanceof Cancelled && !task.aborted) {
            task.status = newStatus();
            this.enqueue(task);
          } else task.reject(e);
        }),
    );
  }

  /** Replaces workers that have shown no sign of life for too long. */
  private look(): void {
    const now = performance.now();
    let busy = false;
    for (const seat of this.seats) {
      const { task } = seat;
      if (!task) continue;
      busy = true;
      const beat = Atomics.load(task.status, STATUS.beat);
      if (beat !== seat.beat) {
        seat.beat = beat;
        seat.beatAt = now;
      }
      const cancelled = Atomics.load(task.status, STATUS.cancel) !== 0;
      const { patience, patienceCancelled } = this.settings;
      if (now - seat.beatAt > (cancelled ? patienceCancelled : patience)) this.replace(seat, 'did not come to an end');
    }
    if (busy) return;
    clearInterval(this.watch);
    this.watch = undefined;
  }

  private replace(seat: Seat, what: string): void {
    const { task } = seat;
    seat.task = null;
    seat.worker.terminate();
    const i = this.seats.indexOf(seat);
    if (i >= 0) this.seats[i] = this.seat();
    if (task) {
      const place = task.place(Atomics.load(task.status, STATUS.node));
      task.reject(
        new ShotError(`${place} ${what}; its worker was replaced and nothing is lost. Change or switch the step off, or try again`),
      );
    }
    this.next();
  }

  private seat(): Seat {
    const worker = this.settings.makeWorker();
    const remote = wrap<PictureWorker>(worker);
    const seat: Seat = { worker, remote, task: null, beat: 0, beatAt: 0, figures: null };
    worker.onerror = (e) => {
      remote[releaseProxy]();
      this.replace(seat, `stopped its worker (${e.message || 'out of memory?'})`);
    };
    void this.send(seat, this.settings.budget).catch(() => undefined);
    return seat;
  }
}

const newStatus = (): Int32Array => new Int32Array(new SharedArrayBuffer(4 * STATUS.length));

/** A region in bands of about equal height, one a worker. */
export function cut(region: Rect, count: number): Rect[] {
  const height = region.y1 - region.y0;
  const n = Math.min(count, height);
  const at = (i: number): number => region.y0 + Math.round((i * height) / n);
  return Array.from({ length: n }, (_, i) => rect(region.x0, at(i), region.x1, at(i + 1)));
}

/** "keeper ▸ Blur" for the number of a plan's node, as workers tell it (0 where none was begun). */
function placeOf(shot: Shot, request: Request, node: number): string {
  const at = node > 0 ? makePlan(shot, request, STEPS).nodes[node - 1] : undefined;
  if (at?.kind === 'step') return `${at.lane.name} ▸ ${at.step.name}`;
  return at ? `Reading "${at.source.name}"` : `Frame ${request.frame}`;
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
