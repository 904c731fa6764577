import type { Remote } from 'comlink';
import type { Shot, Source } from '@/core/document';
import type { ModelShape } from '../renderer';
import type { PassNote } from '@/core/passes';
import type { Statistics } from '@/core/statistics';
import { Cancelled, ShotError } from '@/core/errors';
import type { Plan, Request } from '@/core/evaluate';
import { Commons, layoutOf, makePlan } from '@/core/evaluate';
import type { OutputSettings } from '@/core/formats';
import { area } from '@/core/geometry';
import { STEPS } from '@/core/steps';
import type { PictureHost, Rendered } from '../host';
import type { ShotMessage } from '../shot-link';
import { FrameBuffers } from './frame-buffers';
import { Hired } from './hired';
import type { Inspected, PictureWorker } from './picture.worker';
import type { Priority, Seat, Task } from './pool-task';
import { ORDER, cut, emptySeat, placeOf } from './pool-task';
import type { Answered, Common, Outcome, WorkerFigures } from './protocol';
import { STATUS, newStatus, phaseOf, valueOf } from './protocol';
import { Starts, cannotStart } from './starts';

export interface PoolSettings {
  size: number;
  /** Bytes for the results that each worker keeps. */
  budget: number;
  makeWorker(): Worker;
  /** Milliseconds without a sign of life after which a worker counts as lost: while it is wanted, and after it was cancelled. */
  patience: number;
  patienceCancelled: number;
  /** Bytes a worker may hold beyond its results before it is renewed, and milliseconds of idleness before that is done. */
  spare: number;
  idle: number;
}

const DEFAULTS: PoolSettings = {
  size: Math.max(1, Math.min((typeof navigator === 'undefined' ? 0 : navigator.hardwareConcurrency) || 2, 8)),
  budget: 256 * 2 ** 20,
  makeWorker: () => new Worker(new URL('./picture.worker.ts', import.meta.url), { type: 'module' }),
  patience: 30_000,
  patienceCancelled: 4_000,
  spare: 512 * 2 ** 20,
  idle: 2_000,
};

/** Below this many pixels a frame is not worth cutting into bands. */
const WORTH_CUTTING = 65536;

/**
 * Workers, and a queue in front of them. The frame on screen is cut into one band a worker; playback and export go by
 * frames. A worker that dies or does not answer is replaced and its task fails with a message that names what it was at; one that
 * holds too much memory is renewed when it has nothing to do.
 */
export class WorkerPool implements PictureHost {
  readonly buffers = new FrameBuffers(256 * 2 ** 20);
  /** Told once where no worker can be started. */
  onTrouble: (message: string) => void = () => undefined;
  private readonly settings: PoolSettings;
  private readonly seats: Seat[] = [];
  private readonly queue: Task[] = [];
  private readonly starts = new Starts();
  private serial = 0;
  private watch: ReturnType<typeof setInterval> | undefined;
  private closed = false;

  constructor(settings: Partial<PoolSettings> = {}) {
    this.settings = { ...DEFAULTS, ...settings };
    for (let i = 0; i < this.settings.size; i++) this.seats.push(this.fill(emptySeat()));
  }

  get size(): number {
    return this.seats.length;
  }

  /** What the workers' caches hold and how often they were of use, and the memory that they have. */
  figures(): WorkerFigures {
    const sum: WorkerFigures = { hits: 0, misses: 0, bytes: 0, budget: 0, reserved: 0 };
    for (const { figures } of this.seats) {
      sum.budget += this.settings.budget;
      if (figures) for (const k of ['hits', 'misses', 'bytes', 'reserved'] as const) sum[k] += figures[k];
    }
    return sum;
  }

  /** Bytes for each worker's results; 0 empties them. */
  setBudget(bytes: number): void {
    this.settings.budget = bytes;
    for (const seat of this.seats) this.send(seat);
  }

  private send(seat: Seat): void {
    const { hired } = seat;
    hired?.remote.setBudget(this.settings.budget).then(
      (figures) => {
        this.answered(hired);
        seat.figures = figures;
      },
      () => undefined,
    );
  }

  private answered(hired: Hired<PictureWorker>): void {
    hired.answered = true;
    this.starts.answered();
  }

  /** The picture; its pixels are in one of the pool's buffers, of which the caller is an owner. */
  async render(shot: Shot, request: Request, signal?: AbortSignal, priority: Priority = 'view'): Promise<Rendered> {
    const asked = request.region ? null : makePlan(shot, request, STEPS);
    const region = request.region ?? asked!.region;
    const pixels = this.buffers.take(4 * area(region));
    const bands = priority === 'view' && area(region) >= WORTH_CUTTING ? cut(region, this.size) : [region];
    const common = bands.length > 1 ? this.common(asked ?? makePlan(shot, request, STEPS)) : undefined;
    const all = new AbortController();
    const stop = (): void => all.abort();
    signal?.addEventListener('abort', stop);
    const width = 4 * (region.x1 - region.x0);
    const ends: Promise<boolean>[] = [];
    const parts = bands.map((band, i) => {
      let ended = (_: boolean): void => undefined;
      ends.push(new Promise((known) => (ended = known)));
      return this.add<Omit<Rendered, 'pixels'>>(
        { priority, stoppable: true, ...(bands.length > 1 && { seat: i }), place: placeOf(shot, request), ended },
        all.signal,
        (w, status, send) =>
          w.render(
            send(shot),
            { ...request, region: band },
            status,
            pixels.subarray((band.y0 - region.y0) * width, (band.y1 - region.y0) * width),
            common,
          ),
      );
    });
    try {
      if (signal?.aborted) stop();
      const [first, ...more] = await Promise.all(parts);
      const remarks = new Map([first!, ...more].flatMap((p) => p.remarks).map((r) => [`${r.step} ${r.message}`, r]));
      const milliseconds = Math.max(first!.milliseconds, ...more.map((m) => m.milliseconds));
      if (common) this.buffers.give(common.memory);
      return { ...first!, region, pixels, remarks: [...remarks.values()], milliseconds };
    } catch (e) {
      stop();
      // The memory goes to another frame only when no worker can write to it any more.
      void Promise.all(ends).then((clean) => {
        for (const memory of common ? [pixels, common.memory] : [pixels]) {
          if (!clean.every((c) => c)) this.buffers.lend(memory);
          this.buffers.give(memory);
        }
      });
      throw e;
    } finally {
      signal?.removeEventListener('abort', stop);
    }
  }

  /** Memory for what the bands of a frame need whole. */
  private common(plan: Plan): Common | undefined {
    const layout = layoutOf(plan);
    if (layout.places.length === 0) return undefined;
    const memory = this.buffers.take(layout.floats);
    Commons.clear(layout, memory);
    return { layout, memory };
  }

  encode(shot: Shot, lane: string, frame: number, scale: number, settings: OutputSettings, signal?: AbortSignal): Promise<Uint8Array> {
    const place = placeOf(shot, { tap: { lane }, frame, scale, channels: ['A'] });
    return this.add({ priority: 'export', place }, signal, (w, status, send) => w.encode(send(shot), lane, frame, scale, settings, status));
  }

  inspect(file: File, closely: boolean, signal?: AbortSignal): Promise<Inspected> {
    return this.add({ priority: 'export', place: () => `Reading ${file.name}` }, signal, (w, status) => w.inspect(file, closely, status));
  }

  measure(source: Source, mediaFrame: number, channels: readonly string[], signal?: AbortSignal): Promise<Record<string, Statistics>> {
    const place = (): string => `Measuring "${source.name}"`;
    return this.add({ priority: 'thumbnail', place }, signal, (w, status) => w.measure(source, mediaFrame, channels, status));
  }

  guessPasses(source: Source, mediaFrame: number, signal?: AbortSignal): Promise<Record<string, PassNote>> {
    const place = (): string => `Looking at the passes of "${source.name}"`;
    return this.add({ priority: 'export', place }, signal, (w, status) => w.guessPasses(source, mediaFrame, status));
  }

  modelShape(source: Source, signal?: AbortSignal): Promise<ModelShape> {
    const place = (): string => `The model "${source.name}"`;
    return this.add({ priority: 'thumbnail', place }, signal, (w, status) => w.modelShape(source, status));
  }

  makeProxy(source: Source, mediaFrame: number, scale: number, signal?: AbortSignal): Promise<number> {
    const place = (): string => `The proxy of "${source.name}"`;
    return this.add({ priority: 'ahead', place }, signal, (w, status) => w.makeProxy(source, mediaFrame, scale, status));
  }

  dispose(): void {
    this.closed = true;
    clearInterval(this.watch);
    for (const seat of this.seats) {
      seat.hired?.end();
      seat.hired = null;
      seat.task?.reject(new Cancelled());
    }
    this.queue.splice(0).forEach((t) => t.reject(new Cancelled()));
  }

  private add<T>(
    about: Pick<Task, 'priority' | 'place' | 'seat' | 'stoppable'> & Partial<Pick<Task, 'ended'>>,
    signal: AbortSignal | undefined,
    call: (worker: Remote<PictureWorker>, status: Int32Array, send: (shot: Shot) => ShotMessage) => Promise<Outcome<T>>,
  ): Promise<T> {
    return new Promise<T>((resolve, reject) => {
      const { ended = () => undefined } = about;
      if (signal?.aborted || this.closed) {
        ended(true);
        return reject(new Cancelled());
      }
      if (this.starts.givenUp) {
        ended(true);
        return reject(cannotStart(WHAT));
      }
      const task: Task = {
        ...about,
        ended,
        serial: this.serial++,
        status: newStatus(),
        aborted: false,
        run: async (seat, status) => {
          const hired = seat.hired!;
          const outcome = await call(hired.remote, status, (shot) => seat.link.message(shot));
          if (seat.hired === hired) {
            this.answered(hired);
            seat.figures = outcome.figures;
          }
          return valueOf(outcome as Answered<T>);
        },
        resolve: resolve as (v: unknown) => void,
        reject,
      };
      signal?.addEventListener('abort', () => {
        task.aborted = true;
        Atomics.store(task.status, STATUS.cancel, 1);
        const at = this.queue.indexOf(task);
        if (at >= 0) {
          this.queue.splice(at, 1);
          ended(true);
        }
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
    let wanted = this.queue.filter((t) => t.priority === 'view').length - this.seats.filter((s) => s.hired && !s.task).length;
    for (const { task } of this.seats) {
      if (wanted <= 0) return;
      if (!task?.stoppable || ORDER[task.priority] < ORDER.ahead) continue;
      Atomics.store(task.status, STATUS.cancel, 1);
      wanted--;
    }
  }

  private next(): void {
    this.seats.forEach((seat, i) => {
      if (!seat.hired || seat.task || this.queue.length === 0) return;
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
      seat.idleSince = performance.now();
      run();
      this.next();
    };
    task.run(seat, task.status).then(
      (value) =>
        settle(() => {
          task.resolve(value);
          task.ended(true);
        }),
      (e: unknown) =>
        settle(() => {
          if (e instanceof Cancelled && !task.aborted) {
            task.status = newStatus();
            this.enqueue(task);
          } else {
            task.reject(e);
            task.ended(true);
          }
        }),
    );
  }

  /** Replaces workers that have shown no sign of life for too long, and renews idle ones that hold too much. */
  private look(): void {
    const now = performance.now();
    let busy = false;
    for (const seat of this.seats) {
      const { task } = seat;
      if (!task) {
        const much = seat.hired?.answered && (seat.figures?.reserved ?? 0) > this.settings.budget + this.settings.spare;
        if (much && now - seat.idleSince > this.settings.idle) this.renew(seat);
        else if (much) busy = true;
        continue;
      }
      busy = true;
      const beaten = Atomics.load(task.status, STATUS.beat);
      if (beaten !== seat.beat) {
        seat.beat = beaten;
        seat.beatAt = now;
      }
      const cancelled = Atomics.load(task.status, STATUS.cancel) !== 0;
      const { patience, patienceCancelled } = this.settings;
      const limit = cancelled ? patienceCancelled : patience;
      if (now - seat.beatAt > limit) this.replace(seat, `gave no sign of life for ${Math.max(1, Math.round(limit / 1000))} s`);
    }
    if (busy) return;
    clearInterval(this.watch);
    this.watch = undefined;
  }

  /** Another worker in the place of one: its memory, which cannot shrink, goes back to the system. */
  private renew(seat: Seat): void {
    seat.hired?.end();
    this.fill(Object.assign(seat, emptySeat()));
  }

  private replace(seat: Seat, what: string): void {
    const { task, hired } = seat;
    hired?.end();
    Object.assign(seat, emptySeat());
    if (task) {
      const place = task.place(Atomics.load(task.status, STATUS.node), phaseOf(task.status));
      task.reject(new ShotError(`${place} ${what}; its worker was replaced and nothing is lost. Change or switch it off, or try again`));
      task.ended(false);
    }
    const wait = this.starts.lost(hired ?? { answered: true });
    if (wait === null) return this.giveUp();
    if (wait === 0) this.fill(seat);
    else setTimeout(() => this.startAgain(seat), wait);
    this.next();
  }

  private startAgain(seat: Seat): void {
    if (this.closed || this.starts.givenUp) return;
    this.fill(seat);
    this.next();
  }

  /** No worker can be started: whoever waits is told. */
  private giveUp(): void {
    const trouble = cannotStart(WHAT);
    this.queue.splice(0).forEach((t) => {
      t.reject(trouble);
      t.ended(true);
    });
    this.onTrouble(trouble.message);
  }

  private fill(seat: Seat): Seat {
    const hired: Hired<PictureWorker> = new Hired(this.settings.makeWorker(), (why) => {
      if (seat.hired === hired) this.replace(seat, `stopped its worker (${why})`);
    });
    seat.hired = hired;
    this.send(seat);
    return seat;
  }
}

/** What does not start, at the beginning of a sentence. */
const WHAT = 'The computation';
