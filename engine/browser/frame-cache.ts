import type { CacheFigures } from '@/core/evaluate';
import type { Rendered } from '../host';

/**
 * Finished frames by the key of their plan. Over the budget the least recently used goes first, but frames that the play
 * range needs go after all others. Survives edits: an undo finds its frames again.
 */
export class FrameCache {
  private readonly frames = new Map<string, Rendered>();
  private wanted: ReadonlySet<string> = new Set();
  readonly figures: CacheFigures;

  /** `dropped` is told of each frame that goes. */
  constructor(
    budget: number,
    private readonly dropped: (frame: Rendered) => void = () => undefined,
  ) {
    this.figures = { hits: 0, misses: 0, bytes: 0, budget };
  }

  /** The frame, if it is there; counts as a use. */
  get(key: string): Rendered | undefined {
    const found = this.frames.get(key);
    if (found) {
      this.figures.hits++;
      this.frames.delete(key);
      this.frames.set(key, found);
    } else this.figures.misses++;
    return found;
  }

  /** The same without counting. */
  peek(key: string): Rendered | undefined {
    return this.frames.get(key);
  }

  has(key: string): boolean {
    return this.frames.has(key);
  }

  /** Takes the frame over. */
  set(key: string, frame: Rendered): void {
    this.drop(key);
    this.frames.set(key, frame);
    this.figures.bytes += frame.pixels.buffer.byteLength;
    this.shrink(key);
  }

  /** Keys that are kept for longest. */
  want(keys: ReadonlySet<string>): void {
    this.wanted = keys;
  }

  set budget(bytes: number) {
    this.figures.budget = bytes;
    this.shrink('');
  }

  clear(): void {
    for (const key of [...this.frames.keys()]) this.drop(key);
  }

  private shrink(newest: string): void {
    for (const second of [false, true]) {
      for (const key of [...this.frames.keys()]) {
        if (this.figures.bytes <= this.figures.budget) return;
        if (key !== newest && (second || !this.wanted.has(key))) this.drop(key);
      }
    }
  }

  private drop(key: string): void {
    const had = this.frames.get(key);
    if (!had) return;
    this.frames.delete(key);
    this.figures.bytes -= had.pixels.buffer.byteLength;
    this.dropped(had);
  }
}
