import type { Endpoint } from 'comlink';
import { expose, transferHandlers } from 'comlink';
import type { PlainError } from '@/core/errors';
import { plainError, revivedError } from '@/core/errors';
import type { CacheFigures, CommonsLayout } from '@/core/evaluate';

// What a worker throws comes to the page as what it was: here, for both sides of all of them.
const thrown = transferHandlers.get('throw')!;
transferHandlers.set('throw', {
  canHandle: thrown.canHandle,
  serialize: ({ value }: { value: unknown }): [PlainError, Transferable[]] => [plainError(value), []],
  deserialize: (e: PlainError): never => {
    throw revivedError(e);
  },
} as typeof thrown);

/** What a worker does for the page, or for what stands at the other end. */
export const serve = (api: unknown, end?: Endpoint): void => expose(api, end);

/** The integers that a worker and the page share while a task runs. */
export const STATUS = { cancel: 0, beat: 1, node: 2, phase: 3, length: 4 } as const;

/** What a worker is at, for a message: nothing yet, reading files, working a picture out, writing a file. */
export const PHASES = ['starting', 'reading', 'computing', 'writing'] as const;
export type Phase = (typeof PHASES)[number];

export const newStatus = (): Int32Array => new Int32Array(new SharedArrayBuffer(4 * STATUS.length));
/** A sign of life. */
export const beat = (status: Int32Array): void => void Atomics.add(status, STATUS.beat, 1);
export const enter = (status: Int32Array, phase: Phase): void => void Atomics.store(status, STATUS.phase, PHASES.indexOf(phase));
export const phaseOf = (status: Int32Array): Phase => PHASES[Atomics.load(status, STATUS.phase)] ?? 'starting';

/** What the workers of a frame's bands make once for all, in shared memory. */
export interface Common {
  layout: CommonsLayout;
  memory: Float32Array;
}

export type Answered<T> = { value: T } | { error: PlainError };

/** What a worker answers, with how its memory stands. */
export type Outcome<T> = { figures: WorkerFigures } & Answered<T>;

export interface WorkerFigures extends CacheFigures {
  /** Bytes that the kernels' memory has grown to. */
  reserved: number;
}

/** Runs something; what it throws is answered as a plain value. */
export async function answer<T>(run: () => T | Promise<T>): Promise<Answered<T>> {
  try {
    return { value: await run() };
  } catch (e) {
    return { error: plainError(e) };
  }
}

/** The value of an answer; throws its error. */
export function valueOf<T>(answered: Answered<T>): T {
  if ('error' in answered) throw revivedError(answered.error);
  return answered.value;
}
