/** Something in the shot is wrong: says what, and in which lane and step. */
export class ShotError extends Error {
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
  constructor() {
    super('cancelled');
    this.name = 'Cancelled';
  }
}

export const messageOf = (e: unknown): string => (e instanceof Error ? e.message : String(e));
