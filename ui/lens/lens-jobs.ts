import { Cancelled, ShotError, messageOf } from '@/core/errors';
import { stepSpace } from '@/core/evaluate';
import type { Crossing, StraightLine } from '@/core/lens';
import type { LensReading } from '@/core/readings';
import { STEPS } from '@/core/steps';
import type { Seen } from '@/engine/browser';
import { readingWorker } from '@/engine/browser';
import type { Change } from '@/core/commands';
import { lensCommands } from '@/core/commands';
import { newGesture } from '../controls/NumberField';
import { startJob, useJobs } from '../jobs/jobs';
import { pixelsOf } from '../readings/measuring';
import { toast, toastError } from '../theme/toast';
import { attempt } from '../workbench/attempt';
import type { Bench } from '../workbench/context';
import { seenTap } from '../workbench/context';
import { view } from '../workbench/state';

const readingOf = (bench: Bench, id: string): LensReading | undefined =>
  bench.session.store.getState().shot.readings.find((r): r is LensReading => r.id === id && r.kind === 'lens');

const never = new AbortController().signal;
const look = (bench: Bench, { from }: LensReading, frame: number, signal = never): Promise<Seen> => pixelsOf(bench, from, frame, signal);

/** Finds the charts on some frames, each written as it is found, and solves the lens anew: one undo. */
export async function measureCharts(bench: Bench, id: string, frames: readonly number[]): Promise<void> {
  if (!readingOf(bench, id) || useJobs.getState().list.some((j) => j.kind === 'lens')) return;
  const job = startJob('lens', `Looking for charts in ${readingOf(bench, id)!.name}`, 'frames', frames.length);
  const gesture = newGesture();
  const blind: number[] = [];
  try {
    for (const [i, frame] of frames.entries()) {
      const reading = readingOf(bench, id);
      if (!reading || job.signal.aborted) break;
      const seen = await look(bench, reading, frame, job.signal);
      try {
        const chart = await readingWorker.call((w) => w.chart(seen, frame, reading));
        bench.session.run('Measure charts', lensCommands.setChart(id, chart), gesture);
      } catch (e) {
        if (frames.length === 1) throw e;
        blind.push(frame);
      }
      job.tell(i + 1, frames.length);
    }
    if (blind.length === frames.length)
      toast('warning', 'No chart was found on any of the frames: look whether they show one whole and sharp enough.');
    else if (blind.length > 0) toast('info', `No chart was found on frame ${blind.join(', ')}; the others count.`);
    if (blind.length < frames.length && !job.signal.aborted) await solve(bench, id, 'Measure charts', gesture);
  } catch (e) {
    if (!(e instanceof Cancelled) && !job.signal.aborted) toastError(e);
  } finally {
    job.end();
  }
}

/** Solves the lens from what there is; added to the undo of a gesture where one is given. */
export async function solve(bench: Bench, id: string, label = 'Solve the lens', gesture = newGesture()): Promise<void> {
  const reading = readingOf(bench, id);
  if (!reading) return;
  const { from, reference } = reading;
  // Of the picture its size alone counts: that is planned, not rendered.
  const format = stepSpace(bench.session.store.getState().shot, from, from, reference, STEPS)?.format;
  if (!format) throw new ShotError('the picture that it is measured in cannot be made: look at its lane first');
  const made = await readingWorker.call((w) => w.solveLens(reading, format));
  // What was changed meanwhile is solved by itself.
  if (readingOf(bench, id)?.frames === reading.frames && readingOf(bench, id)?.lines === reading.lines)
    bench.session.run(label, lensCommands.setSolved(id, made), gesture);
}

/** A change by hand; where the lens was solved it is solved again, in the same undo. */
export async function changeAndSolve(bench: Bench, id: string, label: string, change: Change, gesture = newGesture()): Promise<void> {
  const before = readingOf(bench, id);
  if (!before) return;
  try {
    bench.session.run(label, change, gesture);
    if (before.solved.length > 0) await solve(bench, id, label, gesture);
  } catch (e) {
    toastError(e);
  }
}

/** A crossing that was put somewhere by hand: onto the crossing near it, and the lens anew. */
export async function settleCrossing(
  bench: Bench,
  id: string,
  frame: number,
  which: Pick<Crossing, 'column' | 'row'>,
  label: string,
  gesture: string,
): Promise<void> {
  const reading = readingOf(bench, id);
  const chart = reading?.frames.find((f) => f.frame === frame);
  const crossing = chart?.crossings.find((c) => c.column === which.column && c.row === which.row);
  if (!reading || !chart || !crossing) return;
  try {
    const seen = await look(bench, reading, frame);
    const [x, y] = await readingWorker.call((w) => w.crossing(seen, reading.channel, chart, crossing.x, crossing.y));
    await changeAndSolve(bench, id, label, lensCommands.moveCrossing(id, frame, which, x, y), gesture);
  } catch (e) {
    toastError(e);
  }
}

/** A crossing where there was none. */
export async function putCrossing(bench: Bench, id: string, frame: number, x: number, y: number): Promise<void> {
  const gesture = newGesture();
  try {
    bench.session.run('Add crossing', lensCommands.addCrossing(id, frame, x, y), gesture);
    const added = readingOf(bench, id)
      ?.frames.find((f) => f.frame === frame)
      ?.crossings.at(-1);
    if (added) await settleCrossing(bench, id, frame, added, 'Add crossing', gesture);
  } catch (e) {
    toastError(e);
  }
}

/** A line along something straight, on the edge that lies under it. */
export async function drawStraight(bench: Bench, id: string, frame: number, drawn: readonly number[], ruler: boolean): Promise<void> {
  const reading = readingOf(bench, id);
  if (!reading) return;
  try {
    const seen = await look(bench, reading, frame);
    const line: StraightLine = { frame, drawn: [...drawn], found: [], ...(ruler && { ruler }) };
    const found = await readingWorker.call((w) => w.straight(seen, reading.channel, line));
    const gesture = newGesture();
    bench.session.run(ruler ? 'Draw ruler' : 'Draw straight line', lensCommands.addLine(id, found), gesture);
    const now = readingOf(bench, id)!;
    const enough = now.frames.length > 0 || now.lines.filter((l) => !l.ruler).length >= 2;
    if (enough || now.solved.length > 0) await solve(bench, id, ruler ? 'Draw ruler' : 'Draw straight line', gesture);
  } catch (e) {
    toast('error', messageOf(e));
  }
}

/** A lens reading of what is seen, selected. */
export function newLens({ session }: Pick<Bench, 'session'>): void {
  const { seen, frame } = view.get();
  const tap = seenTap(session.store.getState().shot, seen);
  const made: { reading?: string } = {};
  if (!tap) return toast('info', 'There is nothing to measure yet: bring in a chart, or a plate with straight things, first.');
  attempt(session, 'New lens', lensCommands.addLens(tap, frame, made));
  if (made.reading) view.set({ selection: { kind: 'reading', id: made.reading }, dock: 'readings' });
}
