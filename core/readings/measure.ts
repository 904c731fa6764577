import { IDENTITY_H, invert, multiply } from '../geometry/fit';
import { mapPolygon } from '../geometry/polygon';
import type { Kernels } from '@/kernels';
import type { Gray, GrayFrame } from './gray';
import type { PlaneFrame, PlaneRegion } from './plane';
import { PlaneTracker, chained } from './plane';
import type { PointFrame } from './point';
import { PointTracker, reviewPath } from './point';
import type { PlaneReading, PointReading } from './types';

/** What is measured: frames of the channel, and of the matte where there is one. */
export interface Pictures {
  frame(frame: number): Promise<GrayFrame>;
  matte?(frame: number): Promise<Gray>;
}

export type Direction = 1 | -1;

/** Frames from an anchor on, that one excluded. */
function* onward(from: number, direction: Direction, { first, last }: { first: number; last: number }): Generator<number> {
  for (let f = from + direction; f >= first && f <= last; f += direction) yield f;
}

/** Where measuring starts: a frame whose place is known. */
export interface Anchor {
  frame: number;
  direction: Direction;
}

/** Of the frames that are known for sure, the reference and those put right by hand, the nearest to a frame. */
function origin(reading: PointReading | PlaneReading, frame: number): number {
  const sure = [reading.reference, ...reading.frames.filter((f) => f.pinned).map((f) => f.frame)];
  return sure.reduce((a, b) => (Math.abs(b - frame) < Math.abs(a - frame) ? b : a));
}

/** Frames of a path that tell how it was moving. */
const MOMENTUM = 3;

/**
 * Follows a point from a frame that is measured, frame by frame as they are asked for, always by the pattern of the reference
 * frame. Frames put there by hand stay, and what follows is measured by theirs. Ends where it is lost and shall stop.
 */
export async function* followPoint(
  kernels: Kernels,
  reading: PointReading,
  { frame, direction }: Anchor,
  pictures: Pictures,
): AsyncGenerator<PointFrame> {
  const known = new Map(reading.frames.map((f) => [f.frame, f]));
  known.set(reading.reference, known.get(reading.reference) ?? (referenceFrame(reading) as PointFrame));
  const start = known.get(frame);
  if (!start) return;
  const trackerOf = async (f: number): Promise<PointTracker> =>
    new PointTracker(kernels, reading.settings, await pictures.frame(f), known.get(f)!.x, known.get(f)!.y);
  const from = origin(reading, frame);
  let tracker = await trackerOf(from);
  if (from !== frame) {
    const behind = Array.from({ length: MOMENTUM }, (_, i) => known.get(frame - direction * (MOMENTUM - i))).filter((f) => f !== undefined);
    tracker.resume(await pictures.frame(frame), [...behind, start]);
  }
  for (const f of onward(frame, direction, reading.range)) {
    const pin = known.get(f);
    if (pin?.pinned) {
      tracker = await trackerOf(f);
      yield pin;
      continue;
    }
    const made = tracker.next(await pictures.frame(f), f);
    yield made;
    if (ends(made, reading.settings)) return;
  }
}

/** Whether nothing is measured after a frame. */
const ends = ({ flag }: PointFrame | PlaneFrame, { lost }: PointReading['settings'] | PlaneReading['settings']): boolean =>
  flag === 'low' || (flag === 'left' && lost === 'stop');

/** Follows a plane from a frame that is measured; as `followPoint`. */
export async function* followPlane(
  kernels: Kernels,
  reading: PlaneReading,
  { frame, direction }: Anchor,
  pictures: Pictures,
): AsyncGenerator<PlaneFrame> {
  const known = new Map(reading.frames.map((f) => [f.frame, f]));
  const mapAt = (f: number): PlaneFrame['homography'] => (f === reading.reference ? IDENTITY_H : known.get(f)!.homography);
  const anchorOf = async (f: number): Promise<{ tracker: PlaneTracker; base: PlaneFrame['homography'] }> => {
    const base = mapAt(f);
    const region: PlaneRegion = {
      shapes: reading.region.shapes.map((p) => mapPolygon(base, p)),
      without: reading.region.without.map((p) => mapPolygon(base, p)),
    };
    const [picture, matte] = [await pictures.frame(f), await pictures.matte?.(f)];
    return { tracker: new PlaneTracker(kernels, reading.settings, picture, region, matte), base };
  };
  if (frame !== reading.reference && !known.get(frame)) return;
  const from = origin(reading, frame);
  let { tracker, base } = await anchorOf(from);
  try {
    const back = invert(base);
    if (from !== frame && back) {
      tracker.resume(await pictures.frame(frame), multiply(mapAt(frame), back), await pictures.matte?.(frame));
    }
    for (const f of onward(frame, direction, reading.range)) {
      const pin = known.get(f);
      if (pin?.pinned) {
        const next = await anchorOf(f);
        tracker.close();
        ({ tracker, base } = next);
        yield pin;
        continue;
      }
      const made = chained(tracker.next(await pictures.frame(f), f, await pictures.matte?.(f)), base);
      yield made;
      if (ends(made, reading.settings)) return;
    }
  } finally {
    tracker.close();
  }
}

/** The frame at which nothing has changed yet. */
export const referenceFrame = (reading: PointReading | PlaneReading): PointFrame | PlaneFrame =>
  reading.kind === 'point'
    ? { frame: reading.reference, x: reading.at[0], y: reading.at[1], confidence: 1, error: 0 }
    : { frame: reading.reference, homography: IDENTITY_H, confidence: 1, error: 0 };

/** Results put in order, each frame once, later ones in the place of earlier. */
export function withFrames<F extends PointFrame | PlaneFrame>(had: readonly F[], made: readonly F[]): F[] {
  const all = new Map(had.map((f) => [f.frame, f]));
  for (const f of made) all.set(f.frame, f);
  return [...all.values()].sort((a, b) => a.frame - b.frame);
}

/** A whole point reading, both ways from its reference frame. */
export async function measurePoint(kernels: Kernels, reading: PointReading, pictures: Pictures): Promise<PointFrame[]> {
  let frames: PointFrame[] = [referenceFrame(reading) as PointFrame];
  for (const direction of [1, -1] as const) {
    for await (const f of followPoint(kernels, reading, { frame: reading.reference, direction }, pictures))
      frames = withFrames(frames, [f]);
  }
  return reviewPath(frames);
}

/** A whole plane reading, both ways from its reference frame. */
export async function measurePlane(kernels: Kernels, reading: PlaneReading, pictures: Pictures): Promise<PlaneFrame[]> {
  let frames: PlaneFrame[] = [referenceFrame(reading) as PlaneFrame];
  for (const direction of [1, -1] as const) {
    for await (const f of followPlane(kernels, reading, { frame: reading.reference, direction }, pictures))
      frames = withFrames(frames, [f]);
  }
  return frames;
}
