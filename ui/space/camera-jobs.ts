import { proxy } from 'comlink';
import { create } from 'zustand';
import { Cancelled, ShotError } from '@/core/errors';
import { stepSpace } from '@/core/evaluate';
import type { CameraReading } from '@/core/readings';
import type { Assessed } from '@/core/space';
import { solveInputOf, suggestPrunes } from '@/core/space';
import { straightLensAt } from '@/core/lens';
import { STEPS } from '@/core/steps';
import { readingWorker } from '@/engine/browser';
import { space } from '@/core/commands';
import { startJob, useJobs } from '../jobs/jobs';
import { pixelsOf } from '../readings/measuring';
import { toast, toastError } from '../theme/toast';
import { attempt } from '../workbench/attempt';
import type { Bench } from '../workbench/context';
import { seenTap } from '../workbench/context';
import { view } from '../workbench/state';

/** What is being found right now: positions on a frame, or a camera as it stands. */
export const useCameraWork = create<{
  reading: string | null;
  frame: number;
  live: readonly number[];
  stage: string;
  so: Assessed | null;
}>(() => ({ reading: null, frame: 0, live: [], stage: '', so: null }));
const IDLE = { reading: null, live: [], stage: '', so: null };

export const cameraReading = (bench: Bench, id: string): CameraReading | undefined =>
  bench.session.store.getState().shot.readings.find((r): r is CameraReading => r.id === id && r.kind === 'camera');

const busy = (): boolean => useJobs.getState().list.some((j) => j.kind === 'camera');

/** A camera for what is seen, selected. */
export function newCamera(bench: Bench): void {
  const { session } = bench;
  const tap = seenTap(session.store.getState().shot, view.get().seen);
  if (!tap) return toast('info', 'There is no lane whose camera could be found: bring in a plate first.');
  const made: { reading?: string } = {};
  attempt(session, 'New camera', space.addCamera(tap, view.get().frame, made));
  const added = made.reading && cameraReading(bench, made.reading);
  if (added) view.set({ selection: { kind: 'reading', id: added.id }, dock: 'readings', tracks: [], seen: { ...added.from }, layer: '' });
}

/** Finds tracks over the range; what was found takes the place of what there was: one undo. */
export async function findCameraTracks(bench: Bench, id: string): Promise<void> {
  const reading = cameraReading(bench, id);
  if (!reading || busy()) return;
  const { first, last } = reading.range;
  const count = last - first + 1;
  const job = startJob('camera', `Finding tracks for ${reading.name}`, 'frames', 2 * count);
  let done = 0;
  try {
    const { exclude, settings, from, channel } = reading;
    const page = {
      frame: (f: number) => pixelsOf(bench, from, f, job.signal),
      matte: (f: number, i: number) => pixelsOf(bench, exclude[i]!, f, job.signal),
      told: ({ frame, live }: { frame: number; live: readonly number[] }) => {
        job.tell(++done, 2 * count);
        useCameraWork.setState({ reading: id, frame, live, stage: 'Finding tracks' });
        view.set({ frame });
        return Promise.resolve(!job.signal.aborted);
      },
    };
    const tracks = await readingWorker.call((w) =>
      w.findTracks(
        settings,
        reading.range,
        channel,
        exclude.map(({ invert }) => ({ invert })),
        proxy(page),
      ),
    );
    if (!tracks || job.signal.aborted) return;
    if (tracks.length === 0)
      throw new ShotError(
        exclude.length > 0
          ? 'no tracks were found: the mattes may cover everything that could be followed. Look at them on the stage, or invert them'
          : 'no tracks were found: there is too little detail, or it lasts too short. Ask for more tracks, or for shorter ones',
      );
    const before = cameraReading(bench, id);
    if (before) bench.session.run('Find tracks', space.setTracks(id, tracks));
    if (before && before.groups.length + before.cards.length > 0)
      toast('info', 'Groups and test cards belonged to the tracks before and went with them; undo brings them back.');
    view.set({ tracks: [] });
  } catch (e) {
    if (!(e instanceof Cancelled) && !job.signal.aborted) toastError(e);
  } finally {
    job.end();
    useCameraWork.setState(IDLE);
    view.set({ frame: reading.reference });
  }
}

/** Solves the camera, anew or from what was solved before. */
export async function solveCameraOf(bench: Bench, id: string, again: boolean): Promise<void> {
  const reading = cameraReading(bench, id);
  if (!reading || busy()) return;
  const { shot } = bench.session.store.getState();
  const format = stepSpace(shot, reading.from, reading.from, reading.reference, STEPS)?.format;
  if (!format) return toast('error', 'The picture that the camera is found in cannot be made: look at its lane first.');
  const job = startJob('camera', `Solving ${reading.name}`, '%', 100);
  try {
    const straight = straightLensAt(shot, reading.from, reading.reference);
    const input = solveInputOf(reading, shot.readings, { width: format.width, height: format.height }, again, straight);
    const told = (stage: { title: string; share: number; so?: Assessed }): Promise<boolean> => {
      job.tell(Math.round(100 * stage.share), 100);
      useCameraWork.setState({ reading: id, stage: stage.title, so: stage.so ?? useCameraWork.getState().so });
      return Promise.resolve(!job.signal.aborted);
    };
    const made = await readingWorker.call((w) => w.solveCamera(input, proxy(told)), job.signal);
    if (!made || job.signal.aborted) return;
    const now = cameraReading(bench, id);
    // What was changed meanwhile is solved by itself.
    if (now?.tracks === reading.tracks && now.hand === reading.hand && now.settings === reading.settings)
      bench.session.run(again ? 'Solve again' : 'Solve the camera', space.setCamera(id, made, format));
  } catch (e) {
    if (!(e instanceof Cancelled) && !job.signal.aborted) toastError(e);
  } finally {
    job.end();
    useCameraWork.setState(IDLE);
  }
}

/** Takes out the tracks that would better go, and solves again. */
export async function pruneCamera(bench: Bench, id: string): Promise<void> {
  const reading = cameraReading(bench, id);
  const prune = reading?.solved && suggestPrunes({ ...reading.solved, frames: reading.frames });
  if (!prune || busy()) return;
  try {
    bench.session.run('Prune tracks', space.removeTracks(id, prune.tracks, prune.expected));
  } catch (e) {
    return toastError(e);
  }
  view.set({ tracks: [] });
  await solveCameraOf(bench, id, true);
}

/** Deletes the tracks that are chosen; what is used by hand is only left out. */
export function removeChosenTracks(bench: Bench, id: string): void {
  const { tracks } = view.get();
  if (tracks.length === 0) return;
  attempt(bench.session, tracks.length === 1 ? 'Delete track' : `Delete ${tracks.length} tracks`, space.removeTracks(id, tracks));
  view.set({ tracks: [] });
}
