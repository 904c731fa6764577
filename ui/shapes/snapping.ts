import { proxy } from 'comlink';
import type { TrackReading } from '@/core/readings';
import { isTrack } from '@/core/readings';
import type { Lane, Step, Tap, Zone } from '@/core/document';
import { Cancelled, messageOf } from '@/core/errors';
import type { Shape } from '@/core/shape';
import { DOUBTFUL, withSnapped } from '@/core/shape';
import { readingWorker } from '@/engine/browser';
import { changeSome } from '@/core/commands';
import { startJob, useJobs } from '../jobs/jobs';
import { pixelsOf } from '../readings/measuring';
import { toast, toastError } from '../theme/toast';
import type { Bench } from '../workbench/context';

/** The picture that a step's shapes lie on. */
function pictureBelow(lane: Lane, step: Step): Tap {
  const first = step.type === 'zone' ? (step as Zone).first : step.id;
  const at = lane.steps.findIndex((s) => s.id === first);
  return { lane: lane.id, after: lane.steps[at - 1]?.id ?? '' };
}

/** Draws a shape to the picture's edges on the frames between its keys, in a worker; one undo. */
export async function snapShape(bench: Bench, lane: Lane, step: Step, shape: Shape): Promise<void> {
  if (useJobs.getState().list.some((j) => j.kind === 'snap')) return;
  const own = shape.keys.filter((k) => k.sure === undefined).map((k) => k.frame);
  const between = own.slice(1).reduce((sum, f, i) => sum + f - own[i]! - 1, 0);
  if (between === 0) return toast('info', 'There is no frame between its keys: set a key on two frames that lie apart.');
  const job = startJob('snap', `Snapping ${shape.name}`, 'frames', between);
  const { readings } = bench.session.store.getState().shot;
  const below = pictureBelow(lane, step);
  let done = 0;
  try {
    const page = {
      frame: (f: number) => pixelsOf(bench, below, f, job.signal),
      told: () => {
        job.tell(++done, between);
        return Promise.resolve(!job.signal.aborted);
      },
    };
    const carried = readings.filter((r): r is TrackReading => isTrack(r) && shape.follows.includes(r.id));
    const made = await readingWorker.call((w) => w.snap(carried, shape, proxy(page)));
    bench.session.run(
      'Snap between keys',
      changeSome(step.id, [shape.id], (s) => withSnapped(s, made)),
    );
    const doubtful = made.keys.filter((k) => k.sure !== undefined && k.sure < DOUBTFUL).length;
    toast(
      'info',
      `${between} frames of ${shape.name} were drawn to the picture; ${doubtful === 0 ? 'none is' : doubtful === 1 ? 'one is' : `${doubtful} are`} doubtful.`,
    );
  } catch (e) {
    if (!(e instanceof Cancelled) && !job.signal.aborted) toastError(new Error(`"${shape.name}" was not snapped: ${messageOf(e)}`));
  } finally {
    job.end();
  }
}
