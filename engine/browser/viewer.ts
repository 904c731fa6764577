import type { Shot } from '@/core/document/types';
import { Cancelled } from '@/core/errors';
import type { Request } from '@/core/evaluate/plan';
import { makePlan } from '@/core/evaluate/plan';
import { STEPS } from '@/core/steps';
import type { Rendered } from '../host';
import { FrameCache } from './frame-cache';
import type { Priority, WorkerPool } from './pool';

/** The frames on screen: looks in the cache first, lets newer wishes replace older ones, and reads ahead for playback. */
export class Viewer {
  readonly cache: FrameCache;
  /** Called when a frame has come into the cache. */
  onCached: () => void = () => undefined;
  private current: AbortController | null = null;
  /** Keys that were worked out, by shot (an immutable value) and request: playback asks for the same ones again and again. */
  private readonly keys = new WeakMap<Shot, Map<string, string>>();
  private readonly ahead = new Map<string, AbortController>();

  constructor(readonly pool: WorkerPool) {
    const memory = (navigator as { deviceMemory?: number }).deviceMemory ?? 4;
    this.cache = new FrameCache((memory / 4) * 2 ** 30);
  }

  /** Stands for the pixels of a request; throws ShotError where it cannot be planned. */
  key(shot: Shot, request: Request): string {
    let known = this.keys.get(shot);
    if (!known) this.keys.set(shot, (known = new Map()));
    const wish = JSON.stringify(request);
    let key = known.get(wish);
    if (key === undefined) known.set(wish, (key = makePlan(shot, request, STEPS).key));
    return key;
  }

  /** The frame if it is there already. */
  cached(shot: Shot, request: Request): Rendered | undefined {
    try {
      return this.cache.get(this.key(shot, request));
    } catch {
      return undefined;
    }
  }

  /** The frame for the screen; an older wish that is not done yet ends in Cancelled. */
  async show(shot: Shot, request: Request): Promise<Rendered> {
    this.current?.abort();
    const controller = (this.current = new AbortController());
    return this.fetch(shot, request, 'view', controller.signal);
  }

  /** The same without replacing what the screen waits for. */
  async fetch(shot: Shot, request: Request, priority: Priority, signal?: AbortSignal): Promise<Rendered> {
    const key = this.key(shot, request);
    const known = this.cache.get(key);
    if (known) return known;
    const rendered = await this.pool.render(shot, request, signal, priority);
    if (signal?.aborted) throw new Cancelled();
    this.cache.set(key, rendered);
    this.onCached();
    return rendered;
  }

  /** Asks for frames to come; wishes of before that are not among them are given up. */
  readAhead(shot: Shot, requests: readonly Request[]): void {
    const wanted = new Map<string, Request>();
    for (const r of requests) {
      try {
        const key = this.key(shot, r);
        if (!this.cache.has(key)) wanted.set(key, r);
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
        .catch(() => undefined)
        .finally(() => this.ahead.delete(key));
    }
  }
}
