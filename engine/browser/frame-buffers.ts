import { sizeClass } from '@/kernels';

/** What all frames of the page take, in bytes. */
export interface BufferFigures {
  /** Held by the cache, the screen or a task. */
  used: number;
  /** Kept to be used again. */
  spare: number;
}

/**
 * Shared memory for finished frames, used again: a buffer that is merely dropped stays until every worker that ever saw it has
 * collected its garbage, which may be never. A buffer has owners; when the last one has given it back it goes to the next frame
 * of its size.
 */
export class FrameBuffers {
  private readonly owners = new Map<ArrayBufferLike, number>();
  /** Spare buffers by their bytes, the longest unused size first. */
  private readonly spare = new Map<number, SharedArrayBuffer[]>();
  private readonly lent = new WeakSet<ArrayBufferLike>();
  readonly figures: BufferFigures = { used: 0, spare: 0 };

  /** `most` bytes are kept spare. */
  constructor(public most: number) {}

  /** Room for so many floats with undefined contents; the caller is its owner. */
  take(floats: number): Float32Array {
    const bytes = sizeClass(4 * floats);
    const buffer = this.spare.get(bytes)?.pop() ?? null;
    if (buffer) this.figures.spare -= bytes;
    const memory = buffer ?? new SharedArrayBuffer(bytes);
    this.owners.set(memory, 1);
    this.figures.used += bytes;
    return new Float32Array(memory, 0, floats);
  }

  /** One more owner. Memory that is not of these buffers is left alone. */
  hold({ buffer }: Float32Array): void {
    const count = this.owners.get(buffer);
    if (count !== undefined) this.owners.set(buffer, count + 1);
  }

  give({ buffer }: Float32Array): void {
    const count = this.owners.get(buffer);
    if (count === undefined) return;
    if (count > 1) return void this.owners.set(buffer, count - 1);
    this.owners.delete(buffer);
    this.figures.used -= buffer.byteLength;
    if (this.lent.has(buffer)) return;
    const list = this.spare.get(buffer.byteLength) ?? [];
    // The size that was given back last is the last to go.
    this.spare.delete(buffer.byteLength);
    this.spare.set(buffer.byteLength, [...list, buffer as SharedArrayBuffer]);
    this.figures.spare += buffer.byteLength;
    this.trim();
  }

  /** Somebody goes on reading it for who knows how long: it is not used again. */
  lend({ buffer }: Float32Array): void {
    this.lent.add(buffer);
  }

  /** Lets go of spare buffers over what may be kept. */
  trim(most = this.most): void {
    for (const [bytes, list] of this.spare) {
      while (list.length > 0 && this.figures.spare > most) {
        list.pop();
        this.figures.spare -= bytes;
      }
      if (list.length === 0) this.spare.delete(bytes);
    }
  }
}
