import { Cancelled, MediaError, ShotError, messageOf } from '@/core/errors';
import type { CacheFigures } from '@/core/evaluate';

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

/** An error as a plain value: its class would be lost on the way from a worker. */
export interface PlainError {
  name: string;
  message: string;
  where?: ShotError['where'];
  file?: string;
  problem?: string;
}

export type Answered<T> = { value: T } | { error: PlainError };

/** What a worker answers, with how its memory stands. */
export type Outcome<T> = { figures: WorkerFigures } & Answered<T>;

export interface WorkerFigures extends CacheFigures {
  /** Bytes that the kernels' memory has grown to. */
  reserved: number;
}

function plainError(e: unknown): PlainError {
  const name = e instanceof Error ? e.name : 'Error';
  if (e instanceof ShotError) return { name, message: e.message, where: e.where };
  if (e instanceof MediaError) return { name, message: e.message, file: e.file, problem: e.problem };
  return { name, message: messageOf(e) };
}

/** Runs something; what it throws is answered as a plain value. */
export async function answer<T>(run: () => T | Promise<T>): Promise<Answered<T>> {
  try {
    return { value: await run() };
  } catch (e) {
    return { error: plainError(e) };
  }
}

export function reviveError(e: PlainError): Error {
  if (e.name === 'Cancelled') return new Cancelled();
  if (e.name === 'ShotError') return new ShotError(e.message, e.where);
  if (e.name === 'MediaError') return new MediaError(e.file ?? '', e.problem ?? e.message);
  return new Error(e.message);
}

/** The value of an answer; throws its error. */
export function valueOf<T>(answered: Answered<T>): T {
  if ('error' in answered) throw reviveError(answered.error);
  return answered.value;
}
