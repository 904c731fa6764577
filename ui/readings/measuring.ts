import { proxy } from 'comlink';
import { create } from 'zustand';
import type { Tap } from '@/core/document';
import { Cancelled, messageOf } from '@/core/errors';
import type { Anchor, Direction, PlaneFrame, PointFrame, Reading } from '@/core/readings';
import { isTrack, referenceFrame } from '@/core/readings';
import type { PageSide, Seen } from '@/engine/browser';
import { readingWorker } from '@/engine/browser';
import { setFrames } from '@/core/commands';
import { startJob } from '../jobs/jobs';
import { toast, toastError } from '../theme/toast';
import type { Bench } from '../workbench/context';
import { view } from '../workbench/state';
import { requestFor } from '../workbench/use-picture';

type Result = PointFrame | PlaneFrame;

/** Results of a measurement under way, shown before they are written into the shot. */
export const useMeasuring = create<{ reading: string | null; results: readonly Result[] }>(() => ({ reading: null, results: [] }));

/** A reading with what is being measured right now. */
export function withLive<R extends Reading>(reading: R, live: readonly Result[]): R {
  if (live.length === 0 || !isTrack(reading)) return reading;
  const byFrame = new Map<number, Result>([...(reading.frames as readonly Result[]), ...live].map((f) => [f.frame, f]));
  return { ...reading, frames: [...byFrame.values()].sort((a, b) => a.frame - b.frame) } as R;
}

/** How much: from where and which ways, and how many frames each at most; as far as the range goes without. */
export interface Extent {
  anchors: readonly Anchor[];
  most?: number;
}

/** Both ways from a frame. */
export const bothWays = (frame: number): Anchor[] => [
  { frame, direction: 1 },
  { frame, direction: -1 },
];

/** Where a reading that was stopped goes on: from its last measured frame, and from its first. Empty where it is whole. */
export function openEnds({ frames, range }: Reading): Anchor[] {
  const [first, last] = [frames[0], frames[frames.length - 1]];
  if (!first || !last || frames.length < 2) return [];
  return [
    ...(last.frame < range.last ? [{ frame: last.frame, direction: 1 as const }] : []),
    ...(first.frame > range.first ? [{ frame: first.frame, direction: -1 as const }] : []),
  ];
}

/** What a point of the shot shows on a frame, at full size. */
export async function pixelsOf(bench: Bench, tap: Tap, frame: number, signal: AbortSignal): Promise<Seen> {
  const { pixels, region, format } = await bench.viewer.fetchToKeep(
    bench.session.store.getState().shot,
    requestFor(tap, frame, 1),
    'view',
    signal,
  );
  return { pixels, region, format };
}

/** Frames of a range after one, in a direction. */
function framesFrom(from: number, direction: Direction, { first, last }: Reading['range']): number[] {
  const count = Math.max(0, direction > 0 ? last - from : from - first);
  return Array.from({ length: count }, (_, i) => from + direction * (i + 1));
}

/** Measures a reading in a worker; what was found is one undo, also where it was stopped. */
export async function measureReading(bench: Bench, id: string, { anchors, most = Infinity }: Extent): Promise<void> {
  const { session } = bench;
  const reading = session.store.getState().shot.readings.find((r) => r.id === id);
  if (!isTrack(reading) || useMeasuring.getState().reading) return;
  const asked = anchors.flatMap(({ frame, direction }) => framesFrom(frame, direction, reading.range).slice(0, most));
  const total = asked.length;
  const job = startJob('reading', `Measuring ${reading.name}`, 'frames', total);
  const results: Result[] = [];
  const known = reading.frames.some((f) => f.frame === reading.reference);
  if (!known) results.push(referenceFrame(reading));
  useMeasuring.setState({ reading: id, results: [...results] });
  const follows = reading.frames.length < 2 || most === 1;
  let whole = false;
  try {
    for (const anchor of anchors) {
      let count = 0;
      const page: PageSide = {
        frame: (f) => pixelsOf(bench, reading.from, f, job.signal),
        matte: (f) => pixelsOf(bench, (reading as { matte: Tap }).matte, f, job.signal),
        told: (result) => {
          results.push(result);
          job.tell(results.length, total);
          useMeasuring.setState({ results: [...results] });
          if (follows) view.set({ frame: result.frame });
          return Promise.resolve(!job.signal.aborted && ++count < most);
        },
      };
      await readingWorker.call((w) => w.measure(reading, anchor, proxy(page)));
      if (job.signal.aborted) break;
    }
    whole = !job.signal.aborted;
  } catch (e) {
    if (!(e instanceof Cancelled) && !job.signal.aborted) toast('error', `"${reading.name}" was not measured to the end: ${messageOf(e)}`);
  } finally {
    job.end();
    useMeasuring.setState({ reading: null, results: [] });
    if (follows && most > 1) view.set({ frame: anchors[0]!.frame });
    // What was measured before stays where this was stopped; where it was lost, it goes.
    const found = new Set(results.map((f) => f.frame));
    write(bench, id, results, whole ? asked.filter((f) => !found.has(f)) : []);
  }
}

function write({ session }: Bench, id: string, results: readonly Result[], gone: readonly number[]): void {
  if (results.length === 0 || !session.store.getState().shot.readings.some((r) => r.id === id)) return;
  try {
    session.run('Measure', setFrames(id, results, gone));
  } catch (e) {
    return toastError(e);
  }
  const flagged = results.filter((f) => f.flag).length;
  if (flagged) toast('info', `${flagged} of ${results.length} frames are flagged; the list in Controls leads to them.`);
}

/** Measures again from a frame away from the reference. */
export const measureAgainFrom = (bench: Bench, { id, reference }: Reading, frame: number): Promise<void> =>
  measureReading(bench, id, { anchors: [{ frame, direction: frame >= reference ? 1 : -1 }] });
