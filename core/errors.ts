import { OutOfMemory } from '@/kernels';

/** Something in the shot is wrong: says what, and in which lane and step. */
export class ShotError extends Error {
  readonly code = 'shot';
  constructor(
    message: string,
    readonly where: { lane?: string; step?: string; source?: string; path?: string } = {},
  ) {
    super(message);
    this.name = 'ShotError';
  }
}

/** A file is not what it should be: names the file and what is wrong with it. */
export class MediaError extends Error {
  readonly code = 'media';
  constructor(
    readonly file: string,
    readonly problem: string,
  ) {
    super(`${file}: ${problem}`);
    this.name = 'MediaError';
  }
}

/** Work was given up because newer work replaced it. */
export class Cancelled extends Error {
  readonly code = 'cancelled';
  constructor() {
    super('cancelled');
    this.name = 'Cancelled';
  }
}

/** An error as a plain value, for the way between threads, where its class would be lost: what it is, what it says, and what it says it of. */
export type PlainError = { readonly message: string } & (
  | { readonly code: 'shot'; readonly where: ShotError['where'] }
  | { readonly code: 'media'; readonly file: string; readonly problem: string }
  | { readonly code: 'memory'; readonly bytes: number }
  | { readonly code: 'cancelled' | 'other' }
);

export function plainError(e: unknown): PlainError {
  const message = messageOf(e);
  if (e instanceof ShotError) return { code: e.code, message, where: e.where };
  if (e instanceof MediaError) return { code: e.code, message, file: e.file, problem: e.problem };
  if (e instanceof OutOfMemory) return { code: e.code, message, bytes: e.bytes };
  return { code: e instanceof Cancelled ? e.code : 'other', message };
}

export function revivedError(e: PlainError): Error {
  switch (e.code) {
    case 'shot':
      return new ShotError(e.message, e.where);
    case 'media':
      return new MediaError(e.file, e.problem);
    case 'memory':
      return new OutOfMemory(e.bytes);
    case 'cancelled':
      return new Cancelled();
    default:
      return new Error(e.message);
  }
}

export const messageOf = (e: unknown): string => (e instanceof Error ? e.message : String(e));
