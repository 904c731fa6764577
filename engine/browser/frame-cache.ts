import type { Rendered } from '../host';

/** Finished frames by the key of their plan, least recently used out first. Survives edits: an undo finds its frames again. */
export class FrameCache {
  private readonly frames = new Map<string, Rendered>();
  private bytes = 0;

  constructor(readonly budget: number) {}

  get(key: string): Rendered | undefined {
    const found = this.frames.get(key);
    if (found) {
      this.frames.delete(key);
      this.frames.set(key, found);
    }
    return found;
  }

  has(key: string): boolean {
    return this.frames.has(key);
  }

  set(key: string, frame: Rendered): void {
    this.drop(key);
    this.frames.set(key, frame);
    this.bytes += frame.pixels.byteLength;
    for (const oldest of this.frames.keys()) {
      if (this.bytes <= this.budget || oldest === key) break;
      this.drop(oldest);
    }
  }

  private drop(key: string): void {
    const had = this.frames.get(key);
    if (!had) return;
    this.frames.delete(key);
    this.bytes -= had.pixels.byteLength;
  }
}
