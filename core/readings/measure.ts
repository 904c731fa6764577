import { IDENTITY_H } from '../geometry/fit';
import { applyHomography } from '../geometry/homography';
import type { Polygon } from '../geometry/polygon';
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

/**
 * Follows a point from an anchor, frame by frame as they are asked for. Frames put there by hand stay, and what follows is
 * measured from them. Ends where it is lost and shall stop.
 */
export async function* followPoint(reading: PointReading, { frame, direction }: Anchor, pictures: Pictures): AsyncGenerator<PointFrame> {
  const known = new Map(reading.frames.map((f) => [f.frame, f]));
  const start = frame === reading.reference ? { x: reading.at[0], y: reading.at[1] } : known.get(frame);
  if (!start) return;
  let tracker = new PointTracker(reading.settings, await pictures.frame(frame), start.x, start.y);
  for (const f of onward(frame, direction, reading.range)) {
    const image = await pictures.frame(f);
    const pin = known.get(f);
    if (pin?.pinned) {
      tracker = new PointTracker(reading.settings, image, pin.x, pin.y);
      yield pin;
      continue;
    }
    const made = tracker.next(image, f);
    if (made.flag === 'low' || (made.flag === 'left' && reading.settings.lost === 'stop')) {
      yield made;
      return;
    }
    yield made;
  }
}

const moved = (map: PlaneFrame['homography'], p: Polygon): number[] => {
  const to: number[] = [];
  for (let i = 0; i < p.length; i += 2) to.push(...applyHomography(map, p[i]!, p[i + 1]!).slice(0, 2));
  return to;
};

/** Follows a plane from an anchor; as `followPoint`. */
export async function* followPlane(reading: PlaneReading, { frame, direction }: Anchor, pictures: Pictures): AsyncGenerator<PlaneFrame> {
  const known = new Map(reading.frames.map((f) => [f.frame, f]));
  const anchorOf = async (f: number): Promise<{ tracker: PlaneTracker; base: PlaneFrame['homography'] }> => {
    const base = f === reading.reference ? IDENTITY_H : known.get(f)!.homography;
    const region: PlaneRegion = {
      shapes: reading.region.shapes.map((p) => moved(base, p)),
      without: reading.region.without.map((p) => moved(base, p)),
    };
    return { tracker: new PlaneTracker(reading.settings, await pictures.frame(f), region, await pictures.matte?.(f)), base };
  };
  if (frame !== reading.reference && !known.get(frame)) return;
  let { tracker, base } = await anchorOf(frame);
  for (const f of onward(frame, direction, reading.range)) {
    const pin = known.get(f);
    if (pin?.pinned) {
      ({ tracker, base } = await anchorOf(f));
      yield pin;
      continue;
    }
    const made = chained(tracker.next(await pictures.frame(f), f, await pictures.matte?.(f)), base);
    yield made;
    if (made.flag === 'low' || (made.flag === 'left' && reading.settings.lost === 'stop')) return;
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
export async function measurePoint(reading: PointReading, pictures: Pictures): Promise<PointFrame[]> {
  let frames: PointFrame[] = [referenceFrame(reading) as PointFrame];
  for (const direction of [1, -1] as const) {
    for await (const f of followPoint(reading, { frame: reading.reference, direction }, pictures)) frames = withFrames(frames, [f]);
  }
  return reviewPath(frames);
}

/** A whole plane reading, both ways from its reference frame. */
export async function measurePlane(reading: PlaneReading, pictures: Pictures): Promise<PlaneFrame[]> {
  let frames: PlaneFrame[] = [referenceFrame(reading) as PlaneFrame];
  for (const direction of [1, -1] as const) {
    for await (const f of followPlane(reading, { frame: reading.reference, direction }, pictures)) frames = withFrames(frames, [f]);
  }
  return frames;
}
