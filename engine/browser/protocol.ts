import type { ShotError } from '@/core/errors';
import type { CacheFigures } from '@/core/evaluate/results';

/** The integers that a worker and the page share while a task runs. */
export const STATUS = { cancel: 0, beat: 1, node: 2, length: 3 } as const;

/** What a worker answers, with how its cache stands. */
export type Outcome<T> = { figures: CacheFigures } & (
  { value: T } | { error: { name: string; message: string; where?: ShotError['where'] } }
);
