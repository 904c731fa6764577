import { proxy } from 'comlink';
import type { Tap } from '@/core/document';
import { Cancelled, messageOf } from '@/core/errors';
import type { LearntSoFar, LessonNote, Occluder, TrainingInput, WeightsFile } from '@/core/learn';
import { judged, placesOf, setsOf, teachMost } from '@/core/learn';
import type { LessonReading } from '@/core/readings';
import type { TrainWorker, TrainingStart } from '@/engine/browser';
import { Hired, LoneWorker, blobOf, mediaDb, sha256 } from '@/engine/browser';
import type { Report } from '@/engine';
import { lessonInput, sharedBytes } from '@/engine';
import { db, keepMedia } from '@/store';
import { setLearnt, setSureness } from '@/core/commands';
import type { RunningJob } from '../jobs/jobs';
import { startJob, useJobs } from '../jobs/jobs';
import { pixelsOf } from '../readings/measuring';
import { toast, toastError } from '../theme/toast';
import type { Bench } from '../workbench/context';
import { requestFor } from '../workbench/use-picture';
import { IDLE, useTraining } from './live';

const makeWorker = (): Worker => new Worker(new URL('../../engine/browser/train.worker.ts', import.meta.url), { type: 'module' });
const worker = new LoneWorker<TrainWorker>('The training', makeWorker);

export const lessonIn = (bench: Bench, id: string): LessonReading | undefined =>
  bench.session.store.getState().shot.readings.find((r): r is LessonReading => r.id === id && r.kind === 'lesson');

const rowOf = (bench: Bench, id: string): string => `${bench.session.store.getState().shot.id} ${id}`;

/** Milliseconds between two states that are kept, so that nothing is lost, and looked at. */
const KEPT = 5000;

/** The frames of a lesson and their targets, in memory that workers share. Throws ShotError. */
async function gather(bench: Bench, lesson: LessonReading, job: RunningJob): Promise<Omit<TrainingInput, 'look' | 'seed'>> {
  const shown = async (tap: Tap, frame: number): Promise<Occluder> => {
    const seen = await pixelsOf(bench, tap, frame, job.signal);
    return worker.call((w) => w.shown(seen), job.signal);
  };
  const { input, said } = await lessonInput(
    lesson,
    shown,
    (examples, teaches) => worker.call((w) => w.check(examples, teaches), job.signal),
    (done, of) => job.tell(done, of),
  );
  for (const what of said) toast('info', `“${lesson.name}”: ${what}`);
  return input;
}

const bytesOf = async ({ hash, name }: WeightsFile): Promise<Uint8Array> => new Uint8Array(await (await blobOf(hash, name)).arrayBuffer());

/** Keeps what is learnt by now among the media, by its hash. */
async function keep(lesson: LessonReading): Promise<WeightsFile> {
  const bytes = await worker.call((w) => w.file(lesson.name));
  const hash = await sha256(bytes);
  const name = `${lesson.name}.lesson`;
  await keepMedia(hash, { file: new File([bytes as Uint8Array<ArrayBuffer>], name) }, false);
  return { hash, name };
}

/**
 * Trains a lesson for its minutes, from what it has learnt or from `other` weights. Stopped, it is a pause: what was learnt is kept
 * with all that it goes on from.
 */
export async function train(bench: Bench, id: string, minutes: number, other?: { bytes: Uint8Array; name: string }): Promise<void> {
  const lesson = lessonIn(bench, id);
  if (!lesson || useTraining.getState().reading) return;
  const job = startJob('training', `Training ${lesson.name}`, 'frames', Math.max(1, lesson.examples.length));
  let partner: Hired<TrainWorker> | null = null;
  const kept: WeightsFile[] = [];
  try {
    useTraining.setState(({ fed }) => ({ ...IDLE, fed, reading: id, stage: 'gathering' }));
    const gathered = await gather(bench, lesson, job);
    const bytes = other?.bytes ?? (lesson.weights && (await bytesOf(lesson.weights)));
    const before = bytes && (await worker.call((w) => w.read(bytes, other?.name ?? lesson.name), job.signal));
    if (before && setsOf(before.note.teaches) !== setsOf(lesson.teaches) && other)
      toast('info', `“${before.note.name}” teaches another kind: its features are taken, its results learnt anew.`);
    const look =
      other || !before || lesson.stale ? await worker.call((w) => w.look(gathered.examples, lesson.teaches)) : before.learnt.look;
    const input: TrainingInput = {
      ...gathered,
      look,
      seed: lesson.settings.seed,
      ...(before && { from: other ? { weights: before.learnt.weights } : before.state }),
    };
    const length = placesOf(setsOf(lesson.teaches)).length;
    const two = navigator.hardwareConcurrency > 1;
    const shared = two ? new SharedArrayBuffer(sharedBytes(length)) : null;
    const fresh = other !== undefined || !before;
    const start: TrainingStart = {
      input,
      shared,
      length,
      seconds: fresh ? 0 : lesson.seconds,
      losses: fresh ? [] : lesson.losses,
    };
    if (shared) {
      // Where it dies the training goes on without it. It answers when it is let go.
      partner = new Hired<TrainWorker>(makeWorker(), () => undefined);
      partner.remote.help(start).catch(() => undefined);
    }
    const first = await worker.call((w) => w.begin(start), job.signal);
    useTraining.setState({ stage: 'training', report: first });
    const until = start.seconds + 60 * minutes;
    let last = performance.now();
    let busy = false;
    const told = (report: Report): void => {
      job.tell(Math.round(report.seconds - start.seconds), Math.round(60 * minutes));
      useTraining.setState({ report });
      if (busy || performance.now() - last < KEPT) return;
      busy = true;
      void (async () => {
        const sheet = await worker.call((w) => w.sheet(ROWS));
        useTraining.setState({ sheet });
        const file = await keep(lesson);
        await db.trainings.put({ id: rowOf(bench, id), weights: file, steps: report.step, seconds: report.seconds, losses: report.losses });
        useTraining.setState({ live: file });
        // The one before may still be asked for by frames under way; the one before that is nobody's.
        const [older] = kept.length > 1 ? kept.splice(0, 1) : [];
        kept.push(file);
        if (older && !kept.some((k) => k.hash === older.hash)) await mediaDb.media.delete(older.hash);
      })()
        .catch(() => undefined)
        .finally(() => {
          busy = false;
          last = performance.now();
        });
    };
    job.signal.addEventListener('abort', () => void worker.call((w) => w.pause()).catch(() => undefined));
    if (job.signal.aborted) throw new Cancelled();
    job.counts('s', 60 * minutes);
    const report = await worker.call((w) => w.run(until, proxy(told)));
    while (busy) await new Promise((r) => setTimeout(r, 50));
    if (report.step > first.step) await takeUp(bench, lesson, { ...report, weights: await keep(lesson), steps: report.step });
  } catch (e) {
    if (!(e instanceof Cancelled)) toastError(new Error(`“${lesson.name}” was not trained: ${messageOf(e)}`));
  } finally {
    job.end();
    await worker.call((w) => w.end()).catch(() => undefined);
    partner?.end();
    useTraining.setState(({ sheet, fed }) => ({ ...IDLE, sheet, fed }));
  }
}

/** Rows of the sheet. */
const ROWS = 6;

/** What a training came to becomes part of the shot. */
async function takeUp(bench: Bench, { id }: LessonReading, { weights, steps, seconds, losses }: LearntSoFar): Promise<void> {
  if (lessonIn(bench, id)) bench.session.run('Train', setLearnt(id, { weights, steps, seconds, losses }));
  await db.trainings.delete(rowOf(bench, id));
}

/** A training that the page was left in the middle of is taken up as it stood. */
export async function takeUpInterrupted(bench: Bench, lesson: LessonReading): Promise<void> {
  if (useTraining.getState().reading === lesson.id) return;
  const row = await db.trainings.get(rowOf(bench, lesson.id));
  if (!row || row.steps <= lesson.steps || useTraining.getState().reading === lesson.id) return;
  await takeUp(bench, lesson, row);
  toast('info', `“${lesson.name}” was being trained when the page was left: it is taken up at step ${row.steps}.`);
}

/** Crops as they are fed, without training. */
export async function lookAtFed(bench: Bench, id: string): Promise<void> {
  const lesson = lessonIn(bench, id);
  if (!lesson) return;
  if (useTraining.getState().stage === 'training') {
    useTraining.setState({ fed: await worker.call((w) => w.fed(FED)) });
    return;
  }
  if (useTraining.getState().reading) return;
  const job = startJob('training', `Varying the frames of ${lesson.name}`, 'frames', lesson.examples.length);
  try {
    const gathered = await gather(bench, lesson, job);
    const fed = await worker.call((w) => w.vary(gathered, Math.floor(Math.random() * 1e6), FED), job.signal);
    useTraining.setState({ fed });
  } catch (e) {
    if (!(e instanceof Cancelled)) toastError(new Error(`“${lesson.name}”: ${messageOf(e)}`));
  } finally {
    job.end();
  }
}
const FED = 12;

/** How sure a lesson is of each of its frames: three looks at each. */
export async function measureSureness(bench: Bench, id: string): Promise<void> {
  const lesson = lessonIn(bench, id);
  if (!lesson?.weights || useJobs.getState().list.some((j) => j.kind === 'training')) return;
  const { first, last } = lesson.range;
  const job = startJob('training', `How sure ${lesson.name} is`, 'frames', last - first + 1);
  try {
    const bytes = await bytesOf(lesson.weights);
    await worker.call((w) => w.judge(bytes), job.signal);
    const spreads: { frame: number; spread: number }[] = [];
    for (let frame = first; frame <= last; frame++) {
      const seen = await pixelsOf(bench, lesson.from, frame, job.signal);
      spreads.push({ frame, spread: await worker.call((w) => w.sureness(seen), job.signal) });
      job.tell(spreads.length, last - first + 1);
    }
    bench.session.run('Sureness', setSureness(id, judged(spreads)));
  } catch (e) {
    if (!(e instanceof Cancelled)) toastError(new Error(`“${lesson.name}”: ${messageOf(e)}`));
  } finally {
    job.end();
  }
}

/** Frames that would teach most, the best first. */
export async function suggestFrames(bench: Bench, id: string, count: number): Promise<number[]> {
  const lesson = lessonIn(bench, id);
  if (!lesson) return [];
  const { first, last } = lesson.range;
  const job = startJob('training', 'Looking for frames that teach most', 'frames', last - first + 1);
  try {
    const looks: { frame: number; features: Float32Array }[] = [];
    const step = Math.max(1, Math.floor((last - first + 1) / 120));
    for (let frame = first; frame <= last; frame += step) {
      const { shot } = bench.session.store.getState();
      const { pixels, region, format } = await bench.viewer.fetchToKeep(shot, requestFor(lesson.from, frame, 0.25), 'view', job.signal);
      looks.push({ frame, features: await worker.call((w) => w.features({ pixels, region, format }), job.signal) });
      job.tell(frame - first + 1, last - first + 1);
    }
    const unsure = lesson.frames.length > 0 ? new Map(lesson.frames.map((f) => [f.frame, 1 - f.confidence])) : undefined;
    const given = lesson.examples.map((e) => e.frame);
    return teachMost(looks, given, count, unsure).sort((a, b) => a - b);
  } catch (e) {
    if (!(e instanceof Cancelled)) toastError(e);
    return [];
  } finally {
    job.end();
  }
}

/** What was learnt, of a file that was given. Throws MediaError. */
export async function learntFrom(file: File): Promise<{ learnt: LearntSoFar; note: LessonNote }> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  const { note } = await worker.call((w) => w.read(bytes, file.name));
  const hash = await sha256(bytes);
  await keepMedia(hash, { file }, false);
  return { learnt: { weights: { hash, name: file.name }, steps: note.steps, seconds: note.seconds, losses: [] }, note };
}

export { bytesOf as bytesOfWeights };
