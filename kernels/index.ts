import type { KernelExports } from './exports';

export type { KernelExports } from './exports';

/** A float32 plane in the kernels' memory; its pointer is its byteOffset. */
export type Plane = Float32Array;

/** The part of WebAssembly.Memory that the pool needs, so that this file compiles without the DOM's types. */
export interface LinearMemory {
  readonly buffer: ArrayBufferLike;
  grow(pages: number): number;
}

const PAGE = 65536;
const FIRST = 65536; // below this lies the module's own static data

export class OutOfMemory extends Error {
  readonly code = 'memory';
  constructor(readonly bytes: number) {
    super(`not enough memory for another ${Math.ceil(bytes / 2 ** 20)} MB of pixels`);
    this.name = 'OutOfMemory';
  }
}

/** Buffers of files that are kept for the next ones. */
const MOST_SPARE = 4;

/** Floats that fit the memory at all. */
const MOST = 2 ** 30;

/**
 * The kernels and the pool of planes they work on. The memory is shared, so growing it leaves existing views valid. Planes are
 * used again by size class, neighbouring free ones joined where none fits; nothing is returned to the system, so that memory
 * beyond the ceiling is taken only when what is kept for later has given way.
 */
export class Kernels {
  private top = FIRST;
  private readonly free = new Map<number, number[]>();
  private readonly taken = new Map<number, Taken>();
  /** Offsets of planes taken inside the innermost guard and still out. */
  private guarded: Set<number> | null = null;
  private watched = false;
  private readonly spare: ArrayBuffer[] = [];
  /** Bytes in planes that are out at the moment. */
  used = 0;
  /** Bytes that the memory grows to without asking `relieve` for room first. */
  ceiling = Infinity;
  /** Gives back planes that are only kept for later; false where there are none. */
  relieve: () => boolean = () => false;

  constructor(
    readonly fn: KernelExports,
    private readonly memory: LinearMemory,
  ) {}

  /** A plane of n floats with undefined contents, padded to 64 bytes. Throws OutOfMemory, and RangeError for no number of floats. */
  take(n: number): Plane {
    if (!(n >= 0 && n <= MOST)) {
      if (n > MOST) throw new OutOfMemory(4 * n);
      throw new RangeError(`a plane cannot have ${n} pixels`);
    }
    const size = sizeClass(n * 4 + 64);
    const at = this.place(size);
    this.taken.set(at, { size, owners: 1, ...(this.watched && { by: new Error('taken') }) });
    this.guarded?.add(at);
    this.used += size;
    return new Float32Array(this.memory.buffer, at, n);
  }

  private place(size: number): number {
    for (;;) {
      const at = this.free.get(size)?.pop() ?? this.above(size) ?? this.between(size);
      if (at !== undefined) return at;
      const have = this.memory.buffer.byteLength;
      if (this.top + size > this.ceiling && this.relieve()) continue;
      const want = Math.max(this.top + size - have, Math.min(have / 4, 2 ** 26));
      try {
        this.memory.grow(Math.ceil(want / PAGE));
      } catch {
        throw new OutOfMemory(size);
      }
    }
  }

  /** Above all that was ever taken, where the memory reaches so far. */
  private above(size: number): number | undefined {
    const at = this.top;
    if (at + size > this.memory.buffer.byteLength) return undefined;
    this.top = at + size;
    return at;
  }

  /** The smallest of the gaps that it fits, once neighbouring free planes are joined. */
  private between(size: number): number | undefined {
    const blocks = [...this.free].flatMap(([bytes, list]) => list.map((at) => ({ at, bytes }))).sort((a, b) => a.at - b.at);
    const gaps: { at: number; bytes: number }[] = [];
    for (const block of blocks) {
      const last = gaps[gaps.length - 1];
      if (last && last.at + last.bytes === block.at) last.bytes += block.bytes;
      else gaps.push(block);
    }
    const highest = gaps[gaps.length - 1];
    if (highest && highest.at + highest.bytes === this.top) {
      this.top = highest.at;
      gaps.pop();
    }
    let best: { at: number; bytes: number } | undefined;
    for (const gap of gaps) if (gap.bytes >= size && (!best || gap.bytes < best.bytes)) best = gap;
    const found = best?.at;
    if (best) {
      best.at += size;
      best.bytes -= size;
    }
    this.free.clear();
    for (const { at, bytes } of gaps) if (bytes > 0) this.keep(at, bytes);
    return found ?? this.above(size);
  }

  private keep(at: number, size: number): void {
    const list = this.free.get(size);
    if (list) list.push(at);
    else this.free.set(size, [at]);
  }

  /** A plane of n zeros. */
  zeros(n: number): Plane {
    return this.take(n).fill(0);
  }

  /** A plane with a copy of the given floats. */
  copy(from: ArrayLike<number>): Plane {
    const plane = this.take(from.length);
    plane.set(from);
    return plane;
  }

  /** Bytes in the kernels' memory, for codecs: give it back by `give`. */
  bytes(n: number): Uint8Array {
    const plane = this.take(Math.ceil(n / 4));
    return new Uint8Array(plane.buffer, plane.byteOffset, n);
  }

  /** Bytes outside of the kernels' memory for a finished file, with undefined contents: of what came back by `reuse`, or new. */
  fileBytes(n: number): Uint8Array<ArrayBuffer> {
    const at = this.spare.findIndex((buffer) => buffer.byteLength === n);
    return at < 0 ? new Uint8Array(n) : new Uint8Array(this.spare.splice(at, 1)[0]!);
  }

  /** A finished file's buffer that nobody needs any more. New ones for every large frame keep the collector busy. */
  reuse(buffer: ArrayBuffer): void {
    this.spare.push(buffer);
    if (this.spare.length > MOST_SPARE) this.spare.shift();
  }

  /** One more owner: the plane goes back to the pool when each has given it back. */
  share(plane: Plane): Plane {
    this.entry(plane).owners++;
    return plane;
  }

  /** Runs something that takes planes for itself; where it throws, those still out are given back. */
  guard<T>(run: () => T): T {
    const outer = this.guarded;
    const mine = (this.guarded = new Set<number>());
    try {
      const result = run();
      mine.forEach((at) => outer?.add(at));
      return result;
    } catch (e) {
      for (const at of [...mine]) this.give(new Float32Array(this.memory.buffer, at, 0));
      throw e;
    } finally {
      this.guarded = outer;
    }
  }

  /** Runs something inside a guard whose planes are not that guard's: somebody else gives them back. */
  unguarded<T>(run: () => T): T {
    const outer = this.guarded;
    this.guarded = null;
    try {
      return run();
    } finally {
      this.guarded = outer;
    }
  }

  /** Whether a plane has more than one owner. */
  isShared(plane: Plane): boolean {
    return this.entry(plane).owners > 1;
  }

  /** Gives a plane back. Giving one that is not out is a programming error and throws. */
  give(plane: Plane | Uint8Array): void {
    const entry = this.entry(plane);
    if (--entry.owners > 0) return;
    const { size } = entry;
    this.taken.delete(plane.byteOffset);
    this.guarded?.delete(plane.byteOffset);
    this.used -= size;
    this.keep(plane.byteOffset, size);
  }

  /** Bytes that the memory has grown to. */
  get reserved(): number {
    return this.memory.buffer.byteLength;
  }

  /** From now on it is noted who takes a plane, which is slow: for tests. */
  watch(): void {
    this.watched = true;
  }

  /** Planes that are out although they were taken since `watch`, each with its bytes and where it was taken. */
  owing(): string[] {
    return [...this.taken.values()].flatMap(({ size, by }) => (by ? [`${size} bytes ${takerOf(by)}`] : []));
  }

  private entry(plane: Plane | Uint8Array): Taken {
    const entry = this.taken.get(plane.byteOffset);
    if (!entry) throw new Error('a plane was given back that is not out');
    return entry;
  }
}

interface Taken {
  size: number;
  owners: number;
  /** Made where it was taken, while that is watched. */
  by?: Error;
}

/** The first places of a stack that are not the pool's own. */
const takerOf = ({ stack = '' }: Error): string =>
  stack
    .split('\n')
    .slice(1)
    .filter((line) => !/kernels[\\/]index/.test(line))
    .slice(0, 3)
    .map((line) => line.trim())
    .join(', ');

/** Rounds up so that at most an eighth is wasted, in multiples of 64 bytes. */
export function sizeClass(bytes: number): number {
  const step = Math.max(64, 2 ** (Math.floor(Math.log2(bytes)) - 3));
  return Math.ceil(bytes / step) * step;
}
