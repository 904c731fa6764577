import type { Shot } from '@/core/document';
import { Cancelled } from '@/core/errors';
import type { CacheFigures, Request } from '@/core/evaluate';
import { makePlan } from '@/core/evaluate';
import type { Rect } from '@/core/geometry';
import { STEPS } from '@/core/steps';
import type { Rendered } from '../host';
import { FrameCache } from './frame-cache';
import type { WorkerPool } from './pool';
import type { Priority } from './pool-task';
import type { WorkerFigures } from './protocol';
import { ScaleGovernor } from './scale-governor';

interface Planned {
  key: string;
  region: Rect;
}

/** Share of the cache's budget that finished frames have; the workers' results have the rest. */
const FRAMES_SHARE = 0.5;
/** Share of it that may lie in buffers which wait for their next frame. */
const SPARE_SHARE = 0.1;

export interface ViewerFigures {
  frames: CacheFigures;
  results: WorkerFigures;
  /** Bytes that all of it takes: frames and buffers for more, and the workers' memory. */
  memory: number;
}

/** The frames on screen: looks in the cache first, lets newer wishes replace older ones, and reads ahead for playback. */
export class Viewer {
  readonly cache: FrameCache;
  readonly governor = new ScaleGovernor();
  /** Called when a frame has come into the cache. */
  onCached: () => void = () => undefined;
  private current: { key: string; picture: Promise<Rendered>; controller: AbortController } | null = null;
  /** What was planned, by shot (an immutable value) and request: playback asks for the same ones again and again. */
  private readonly planned = new WeakMap<Shot, Map<string, Planned>>();
  private readonly ahead = new Map<string, AbortController>();
  /** Keys of frames that could not be worked out ahead. */
  private readonly failed = new Set<string>();

  constructor(
    readonly pool: WorkerPool,
    budget: number,
  ) {
    this.cache = new FrameCache(budget * FRAMES_SHARE, (frame) => pool.buffers.give(frame.pixels));
    this.setBudget(budget);
  }

  /** Bytes for frames and the workers' results together. */
  setBudget(bytes: number): void {
    this.cache.budget = bytes * FRAMES_SHARE;
    this.pool.buffers.most = bytes * SPARE_SHARE;
    this.pool.buffers.trim();
    this.pool.setBudget((bytes * (1 - FRAMES_SHARE)) / this.pool.size);
  }

  /** Empties all caches; the budget stays. */
  clear(): void {
    const { budget } = this.cache.figures;
    this.cache.clear();
    this.failed.clear();
    this.pool.buffers.trim(0);
    this.pool.setBudget(0);
    this.setBudget(budget / FRAMES_SHARE);
    this.onCached();
  }

  figures(): ViewerFigures {
    const { buffers } = this.pool;
    const results = this.pool.figures();
    return { frames: { ...this.cache.figures }, results, memory: buffers.figures.used + buffers.figures.spare + results.reserved };
  }

  /** Keeps a picture's memory from being used again while it is shown; to be released after. */
  hold(picture: Rendered): void {
    this.pool.buffers.hold(picture.pixels);
  }

  release(picture: Rendered): void {
    this.pool.buffers.give(picture.pixels);
  }

  /** Stands for the pixels of a request; throws ShotError where it cannot be planned. */
  key(shot: Shot, request: Request): string {
    return this.plan(shot, request).key;
  }

  private plan(shot: Shot, request: Request): Planned {
    let known = this.planned.get(shot);
    if (!known) this.planned.set(shot, (known = new Map()));
    const wish = JSON.stringify(request);
    let planned = known.get(wish);
    if (!planned) {
      const { key, region } = makePlan(shot, request, STEPS);
      known.set(wish, (planned = { key, region }));
    }
    return planned;
  }

  /** Whether a frame is there, or never will be: nobody need wait for one that is missing or damaged. */
  settled(shot: Shot, request: Request): boolean {
    try {
      const key = this.key(shot, request);
      return this.cache.has(key) || this.failed.has(key);
    } catch {
      return true;
    }
  }

  /** The frame if it is there already. */
  cached(shot: Shot, request: Request): Rendered | undefined {
    try {
      return this.cache.get(this.key(shot, request));
    } catch {
      return undefined;
    }
  }

  /** The cached frame of the list that is nearest to the one wanted, to be looked at until that comes. */
  nearest(shot: Shot, request: Request, frames: readonly number[]): { frame: number; rendered: Rendered } | undefined {
    const byDistance = [...frames].sort((a, b) => Math.abs(a - request.frame) - Math.abs(b - request.frame));
    // A frame that was never planned for this shot is not in the cache: planning it would take longer than the look is worth.
    const known = this.planned.get(shot);
    for (const frame of byDistance) {
      const planned = known?.get(JSON.stringify({ ...request, frame }));
      const rendered = planned && this.cache.peek(planned.key);
      if (rendered) return { frame, rendered };
    }
    return undefined;
  }

  /** The frame for the screen; an older wish that is not done yet ends in Cancelled. The same wish again joins the first. */
  async show(shot: Shot, request: Request): Promise<Rendered> {
    const key = this.key(shot, request);
    if (this.current?.key === key) return this.current.picture;
    this.current?.controller.abort();
    const controller = new AbortController();
    const picture = this.fetch(shot, request, 'view', controller.signal);
    const current = (this.current = { key, picture, controller });
    const done = (): void => {
      if (this.current === current) this.current = null;
    };
    picture.then(done, done);
    return picture;
  }

  /** Its pixels stay as they are for as long as anybody has the picture. */
  keep(picture: Rendered): void {
    this.pool.buffers.lend(picture.pixels);
  }

  /** The same for one who goes on reading its pixels later, or hands them on: they stay as they are. */
  async fetchToKeep(shot: Shot, request: Request, priority: Priority, signal?: AbortSignal): Promise<Rendered> {
    const picture = await this.fetch(shot, request, priority, signal);
    this.keep(picture);
    return picture;
  }

  /**
   * The same without replacing what the screen waits for. The pixels are there until the caller waits for something else: whoever
   * shows them longer holds the picture, whoever hands them on fetches it to keep.
   */
  async fetch(shot: Shot, request: Request, priority: Priority, signal?: AbortSignal): Promise<Rendered> {
    const { key, region } = this.plan(shot, request);
    const known = this.cache.get(key);
    if (known) return known;
    const rendered = await this.pool.render(shot, { ...request, region }, signal, priority);
    this.cache.set(key, rendered);
    if (signal?.aborted) throw new Cancelled();
    this.onCached();
    return rendered;
  }

  /** Asks for frames to come; wishes of before that are not among them are given up. */
  readAhead(shot: Shot, requests: readonly Request[]): void {
    const wanted = new Map<string, Request>();
    for (const r of requests) {
      try {
        const { key, region } = this.plan(shot, r);
        if (!this.cache.has(key) && !this.failed.has(key)) wanted.set(key, { ...r, region });
      } catch {
        // A frame that cannot be planned says so when it is looked at.
      }
    }
    for (const [key, controller] of this.ahead) if (!wanted.has(key)) controller.abort();
    for (const [key, request] of wanted) {
      if (this.ahead.has(key)) continue;
      const controller = new AbortController();
      this.ahead.set(key, controller);
      this.pool
        .render(shot, request, controller.signal, 'ahead')
        .then((r) => {
          this.cache.set(key, r);
          this.onCached();
        })
        .catch((e: unknown) => {
          if (!(e instanceof Cancelled)) this.failed.add(key);
        })
        .finally(() => {
          if (this.ahead.get(key) === controller) this.ahead.delete(key);
        });
    }
  }
}
