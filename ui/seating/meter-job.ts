import { create } from 'zustand';
import type { Shot } from '@/core/document';
import { behindOf } from '@/core/document';
import { Cancelled, ShotError, messageOf } from '@/core/errors';
import type { Around, Figures } from '@/core/seating';
import { overFrames } from '@/core/seating';
import { readingWorker } from '@/engine/browser';
import { startJob } from '../jobs/jobs';
import { pixelsOf } from '../readings/measuring';
import { toastError } from '../theme/toast';
import type { Bench } from '../workbench/context';

/** What was read on a frame. */
export interface Read {
  frame: number;
  element: Figures;
  plate: Figures;
}

/** What the meter read last: of a lane of a shot as it was then, and how that was asked for. */
export interface MeterReading {
  shot: Shot;
  lane: string;
  asked: string;
  frames: readonly Read[];
  element: Figures;
  plate: Figures;
  /** Frames that had too little to be read, with the reason. */
  left: readonly string[];
}

export const useMeter = create<{ last: MeterReading | null }>(() => ({ last: null }));

/** Whether a reading still tells what is there: nothing of the pictures was changed since, and the same is asked for. */
export const isFresh = (r: MeterReading, shot: Shot, asked: string): boolean =>
  r.asked === asked &&
  r.shot.lanes === shot.lanes &&
  r.shot.sources === shot.sources &&
  r.shot.readings === shot.readings &&
  r.shot.format === shot.format;

/** Stands for what is asked for. */
export const askedOf = (around: Around, frames: readonly number[]): string => JSON.stringify([around, frames]);

/** Frames that are read, spread over the shot. */
const FRAMES = 5;
export const framesOf = ({ first, last }: Shot['range']): number[] => [
  ...new Set(Array.from({ length: FRAMES }, (_, i) => Math.round(first + ((last - first) * (i + 0.5)) / FRAMES))),
];

/**
 * Reads an element and the plate around it, on one frame or on frames of the whole shot; null where it was stopped or could not be read. What a match has
 * changed is the element: the plate that was `known` before is not read again.
 */
export async function readMeter(
  bench: Bench,
  lane: string,
  around: Around,
  frames: readonly number[],
  known?: MeterReading,
): Promise<MeterReading | null> {
  const job = startJob('meter', 'Reading the meter', 'frames', frames.length);
  try {
    const read: Read[] = [];
    const left: string[] = [];
    const { shot } = bench.session.store.getState();
    const plate = behindOf(shot, { id: lane });
    if (!plate) throw new ShotError('no join brings this lane in over a background');
    for (const [i, frame] of frames.entries()) {
      const own = await pixelsOf(bench, { lane }, frame, job.signal);
      const had = known?.frames.find((r) => r.frame === frame)?.plate;
      const back = had ? null : await pixelsOf(bench, plate, frame, job.signal);
      if (back && (own.format.width !== back.format.width || own.format.height !== back.format.height)) {
        const [a, b] = [own.format, back.format];
        throw new ShotError(`the element is ${a.width}×${a.height} px and the plate ${b.width}×${b.height}: conform it first`);
      }
      try {
        const element = await readingWorker.call((w) => w.meterElement(own, frame));
        read.push({ frame, element, plate: had ?? (await readingWorker.call((w) => w.meterPlate(own, back!, around, frame))) });
      } catch (e) {
        left.push(messageOf(e));
      }
      job.tell(i + 1, frames.length);
    }
    if (read.length === 0) throw new ShotError(left[0] ?? 'nothing could be read');
    const reading: MeterReading = {
      shot,
      lane,
      asked: askedOf(around, frames),
      frames: read,
      left,
      element: overFrames(read.map((r) => r.element)),
      plate: overFrames(read.map((r) => r.plate)),
    };
    useMeter.setState({ last: reading });
    return reading;
  } catch (e) {
    if (!(e instanceof Cancelled) && !job.signal.aborted) toastError(new Error(`The meter was not read: ${messageOf(e)}`));
    return null;
  } finally {
    job.end();
  }
}
