import { ShotError } from '@/core/errors';

/** Workers in a row that may end before they ever answered, and milliseconds before the next is tried. */
const MOST = 3;
const WAIT = 250;

/** Keeps a worker that cannot be started from being started again and again. */
export class Starts {
  private failures = 0;

  /** A worker has answered: whatever ends one later is another matter. */
  answered(): void {
    this.failures = 0;
  }

  /** A worker has ended: milliseconds until the next, or null where there is none, because too many ended before they ever answered. */
  lost({ answered }: { readonly answered: boolean }): number | null {
    if (answered) return 0;
    return ++this.failures >= MOST ? null : WAIT * 2 ** (this.failures - 1);
  }

  get givenUp(): boolean {
    return this.failures >= MOST;
  }
}

export const cannotStart = (what: string): ShotError =>
  new ShotError(`${what} cannot be started: a part of the application does not load. Load the page again; the shot is saved`);
