import type { Shot } from '@/core/document/types';
import type { OutputSettings } from '@/core/formats/output';
import { exportRange } from '@/engine/export';
import { FramePool } from '@/engine/node/workers';
import { median, ms, times } from './timing';

/** Exports are timed by turns, and a median is taken: a machine's neighbours come and go. */
const ROUNDS = 5;

interface Exported {
  shot: Shot;
  files: Map<string, string>;
  /** The program that the workers run. */
  entry: URL;
  settings: OutputSettings;
  /** Frames of each worker before those that are measured, on which it settles: code is compiled as it runs. */
  settling: number;
  frames: number;
}

/** Milliseconds a frame of an export by so many new workers. */
async function exported({ shot, files, entry, settings, settling, frames }: Exported, workers: number): Promise<number> {
  const pool = new FramePool(entry, workers, files);
  const run = (first: number, last: number): Promise<void> =>
    exportRange(
      pool,
      shot,
      { lane: shot.result!, first, last, scale: 1, name: 'f.####', settings },
      { write: async () => undefined },
      2 * workers,
      () => undefined,
      new AbortController().signal,
    );
  await run(1, workers * settling);
  const first = 2 * settling + 1;
  const started = performance.now();
  await run(first, first + frames - 1);
  const took = performance.now() - started;
  await pool.close();
  return took / frames;
}

/** The rows of a table: an export by one worker and by two. */
export async function workerRows(title: string, about: Exported): Promise<[string, string][]> {
  const [one, two]: [number[], number[]] = [[], []];
  for (let round = 0; round < ROUNDS; round++) {
    one.push(await exported(about, 1));
    two.push(await exported(about, 2));
  }
  const each = one.map((t, i) => t / two[i]!);
  const span = `${times(Math.min(...each))} to ${times(Math.max(...each))} in ${ROUNDS} rounds by turns`;
  return [
    [`${title}, one worker: median`, `${ms(median(one))} ms a frame`],
    ['the same, two workers', `${ms(median(two))} ms a frame: ${times(median(one) / median(two))} (${span})`],
  ];
}
