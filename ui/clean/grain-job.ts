import type { Tap } from '@/core/document';
import { Cancelled, messageOf } from '@/core/errors';
import type { ChannelGrain } from '@/core/grain';
import type { Seen } from '@/engine/browser';
import { readingWorker } from '@/engine/browser';
import { startJob } from '../jobs/jobs';
import { pixelsOf } from '../readings/measuring';
import { toastError } from '../theme/toast';
import type { Bench } from '../workbench/context';

/** Frames that grain is measured on, spread over the shot. */
const FRAMES = 5;

/** The grain of what a point shows, of all of it or of a box, in a worker; null where it was stopped or could not be had. */
export async function measureGrainOf(
  bench: Bench,
  tap: Tap,
  box: readonly [number, number, number, number] | null,
): Promise<ChannelGrain[] | null> {
  const { first, last } = bench.session.store.getState().shot.range;
  const frames = [...new Set(Array.from({ length: FRAMES }, (_, i) => Math.round(first + ((last - first) * i) / (FRAMES - 1))))];
  const job = startJob('grain', 'Measuring grain', 'frames', frames.length);
  try {
    const looks: Seen[] = [];
    for (const f of frames) {
      looks.push(await pixelsOf(bench, tap, f, job.signal));
      job.tell(looks.length, frames.length);
    }
    return await readingWorker.call((w) => w.grain(looks, box));
  } catch (e) {
    if (!(e instanceof Cancelled) && !job.signal.aborted) toastError(new Error(`The grain was not measured: ${messageOf(e)}`));
    return null;
  } finally {
    job.end();
  }
}
