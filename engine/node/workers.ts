import { Worker, parentPort, workerData } from 'node:worker_threads';
import type { Shot } from '@/core/document';
import type { PlainError } from '@/core/errors';
import { ShotError, messageOf, plainError, revivedError } from '@/core/errors';
import type { OutputSettings } from '@/core/formats';
import { nodeHost } from './host';

interface Frame {
  serial: number;
  shot: Shot;
  lane: string;
  frame: number;
  scale: number;
  settings: OutputSettings;
}
/** The buffer of a file that was written. */
interface Written {
  written: ArrayBuffer;
}
type Answer = { serial: number } & ({ bytes: Uint8Array<ArrayBuffer> } | { error: PlainError });

/** Makes frames for a `FramePool`: what a process does that was started as one of its workers. */
export async function serveFrames(): Promise<void> {
  const port = parentPort!;
  const host = await nodeHost((workerData as { files: Map<string, string> }).files);
  port.on('message', (f: Frame | Written) => {
    if ('written' in f) {
      host.renderer.kernels.reuse(f.written);
      return;
    }
    host.encode(f.shot, f.lane, f.frame, f.scale, f.settings).then(
      (made) => {
        // Bytes of the kernels' memory, which is shared, can only be copied.
        const own = made.buffer instanceof ArrayBuffer && made.byteLength === made.buffer.byteLength;
        const bytes = own ? (made as Uint8Array<ArrayBuffer>) : new Uint8Array(made);
        port.postMessage({ serial: f.serial, bytes } satisfies Answer, [bytes.buffer]);
      },
      (e: unknown) => port.postMessage({ serial: f.serial, error: plainError(e) } satisfies Answer),
    );
  });
}

interface Waiting {
  resolve(bytes: Uint8Array): void;
  reject(e: Error): void;
  worker: number;
}

/** Encodes frames on worker threads, each frame on the one with the least to do. Its `entry` must call `serveFrames` when it is a worker. */
export class FramePool {
  private readonly workers: Worker[];
  private readonly load: number[];
  private readonly waiting = new Map<number, Waiting>();
  /** Which worker made a file that is out. */
  private readonly makers = new WeakMap<Uint8Array, number>();
  private serial = 0;

  constructor(entry: URL, count: number, files: Map<string, string>) {
    this.load = Array.from({ length: count }, () => 0);
    this.workers = this.load.map((_, i) => {
      const worker = new Worker(entry, { workerData: { files } });
      worker.on('message', (a: Answer) => this.answer(a));
      worker.on('error', (e) => this.fail(i, e));
      return worker;
    });
  }

  encode(shot: Shot, lane: string, frame: number, scale: number, settings: OutputSettings): Promise<Uint8Array> {
    const i = this.load.indexOf(Math.min(...this.load));
    this.load[i]!++;
    return new Promise((resolve, reject) => {
      const serial = this.serial++;
      this.waiting.set(serial, { resolve, reject, worker: i });
      this.workers[i]!.postMessage({ serial, shot, lane, frame, scale, settings } satisfies Frame);
    });
  }

  takeBack(bytes: Uint8Array): void {
    const maker = this.makers.get(bytes);
    if (maker === undefined) return;
    const written = bytes.buffer as ArrayBuffer;
    this.workers[maker]!.postMessage({ written } satisfies Written, [written]);
  }

  async close(): Promise<void> {
    await Promise.all(this.workers.map((w) => w.terminate()));
  }

  private answer(a: Answer): void {
    const waiting = this.waiting.get(a.serial);
    if (!waiting) return;
    this.waiting.delete(a.serial);
    this.load[waiting.worker]!--;
    if ('bytes' in a) {
      this.makers.set(a.bytes, waiting.worker);
      waiting.resolve(a.bytes);
    } else waiting.reject(revivedError(a.error));
  }

  private fail(worker: number, e: unknown): void {
    for (const [serial, w] of this.waiting) {
      if (w.worker !== worker) continue;
      this.waiting.delete(serial);
      w.reject(new ShotError(`a worker stopped: ${messageOf(e)}`));
    }
  }
}
