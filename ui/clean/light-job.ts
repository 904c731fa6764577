import { ringShots } from '@/core/cleaning';
import type { Param, Shot, Tap } from '@/core/document';
import { findStep, isKeyed } from '@/core/document';
import { Cancelled, messageOf } from '@/core/errors';
import type { Seen } from '@/engine/browser';
import { readingWorker } from '@/engine/browser';
import { setParam } from '@/core/commands';
import { startJob, useJobs } from '../jobs/jobs';
import { toast, toastError } from '../theme/toast';
import type { Bench } from '../workbench/context';
import { requestFor } from '../workbench/use-picture';

const keyOf = (frame: number, value: readonly number[]) => ({
  frame,
  value: value.map((v) => Number(v.toPrecision(5))),
  ease: 'linear' as const,
});

/** Measures the light of a patch's surroundings on every frame, and writes it as keys: one undo. */
export async function measureLight(bench: Bench, patch: string): Promise<void> {
  if (useJobs.getState().list.some((j) => j.kind === 'light')) return;
  const { shot } = bench.session.store.getState();
  const found = findStep(shot, patch);
  if (!found) return;
  const { lane, step } = found;
  const { first, last } = shot.range;
  const job = startJob('light', `Measuring the light around ${step.name}`, 'frames', last - first + 1);
  const at = lane.steps.indexOf(step);
  const below: Tap = { lane: lane.id, after: lane.steps[at - 1]?.id ?? '' };
  const own: Tap = { lane: lane.id, after: step.id };
  const { inside, wide } = ringShots(shot, step);
  // Measured again it is as it was measured before.
  const lift = step.params.light === 'both' || (step.params.light === 'keys' && isKeyed(step.params.lift));
  const look = async (of: Shot, tap: Tap, frame: number): Promise<Seen> => {
    const { pixels, region, format } = await bench.viewer.fetchToKeep(of, requestFor(tap, frame, 1), 'view', job.signal);
    return { pixels, region, format };
  };
  const gain: ReturnType<typeof keyOf>[] = [];
  const lifts: ReturnType<typeof keyOf>[] = [];
  let blind = 0;
  try {
    for (let frame = first; frame <= last; frame++) {
      const [plate, over, own_] = [await look(shot, below, frame), await look(wide, own, frame), await look(inside, own, frame)];
      const fit = await readingWorker.call((w) => w.light(plate, over, own_, lift));
      // Where the ring is hidden the neighbours say what the light is.
      if (fit.pixels > 0) {
        gain.push(keyOf(frame, fit.gain));
        lifts.push(keyOf(frame, fit.lift));
      } else blind++;
      job.tell(frame - first + 1, last - first + 1);
    }
    if (gain.length === 0) return toast('warning', 'Nothing of the ring around the patch is to be seen on any frame: make the ring wider.');
    const params: Record<string, Param | undefined> = { gain: { keys: gain }, light: 'keys', lift: lift ? { keys: lifts } : undefined };
    bench.session.run('Measure the light', (s) => Object.entries(params).forEach(([name, p]) => setParam(patch, name, p)(s)));
    toast(
      'info',
      `The light of ${gain.length} frames is in Gain${lift ? ' and Lift' : ''}, seen in Curves${blind ? `; on ${blind} the ring is hidden` : ''}.`,
    );
  } catch (e) {
    if (!(e instanceof Cancelled) && !job.signal.aborted) toastError(new Error(`The light was not measured: ${messageOf(e)}`));
  } finally {
    job.end();
  }
}
