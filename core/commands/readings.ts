import type { Draft } from 'immer';
import { copyOf } from '../document/copy';
import type { Key, Lane, Param, Shot, Step, Tap } from '../document';
import { applies, findStep, isKeyed, limitedOf, moveTaps, stepValues } from '../document';
import { referencesOf } from '../params';
import { ShotError } from '../errors';
import { invert, mapPoint, mapPolygon, multiply } from '../geometry';
import { acrossFrom } from '../lens';
import type { PlaneFrame, PlaneReading, PointFrame, PointReading, Reading, TrackReading } from '../readings';
import { dataOf, isTrack, kindOf, newPlane, newPoint, reviewPath, withFrames } from '../readings';
import { STEPS } from '../steps';
import type { CornerPinValues, FollowValues, StabiliseValues } from '../steps';
import { CORNERS, cornersAt, followedMap, frameCorners, stabiliseMap } from '../steps';
import type { Change } from './commands';
import { freeName, newId } from './make';
import { readingOf } from './change';

export * from './reading-uses';

export const aboutReading = (s: Draft<Shot>, from: Tap, reference: number, name: string) => ({
  id: newId(),
  name: freeName(
    name,
    s.readings.map((r) => r.name),
  ),
  // The point as it is now: steps that are added later are not measured.
  from: { lane: from.lane, after: from.after ?? s.lanes.find((l) => l.id === from.lane)?.steps.at(-1)?.id ?? '' },
  reference,
  range: { ...s.range },
});

export const addPoint =
  (from: Tap, at: readonly [number, number], frame: number, made: { reading?: string } = {}): Change =>
  (s) => {
    const reading = newPoint(at, aboutReading(s, from, frame, 'Point 1'));
    made.reading = reading.id;
    s.readings.push(reading as Draft<PointReading>);
  };

export const addPlane =
  (from: Tap, shape: readonly number[], frame: number, made: { reading?: string } = {}): Change =>
  (s) => {
    if (shape.length < 6) throw new ShotError('a region needs three corners or more');
    const reading = newPlane([shape], aboutReading(s, from, frame, 'Plane 1'));
    made.reading = reading.id;
    s.readings.push(reading as Draft<PlaneReading>);
  };

/** Readings that were read from a file; names that are taken get a number. */
export const addReadings =
  (list: readonly Reading[]): Change =>
  (s) => {
    for (const r of list) {
      const name = freeName(
        r.name,
        s.readings.map((x) => x.name),
      );
      const from = s.lanes.some((l) => l.id === r.from.lane) ? r.from : { lane: s.result ?? '' };
      const own = copyOf(r) as Draft<Reading>;
      moveTaps(own, (tap) => (s.lanes.some((l) => l.id === tap.lane) ? tap : null));
      s.readings.push({ ...own, id: newId(), name, from });
    }
  };

/** Steps that use a reading; one that is frozen does not. */
export const usersOfReading = (shot: Shot, id: string): { lane: Lane; step: Step }[] =>
  shot.lanes.flatMap((lane) =>
    limitedOf(lane)
      .filter((step) => {
        const schema = STEPS.get(step.type)?.params ?? {};
        return referencesOf(schema, step.params).some(({ name, to }) => to.id === id && applies(schema, name, step));
      })
      .map((step) => ({ lane, step })),
  );

export const removeReading =
  (id: string): Change =>
  (s) => {
    const [user] = usersOfReading(s as Shot, id);
    if (user) throw new ShotError(`the step "${user.step.name}" of "${user.lane.name}" uses this reading; delete it, or freeze it, first`);
    s.readings = s.readings.filter((r) => r.id !== id);
    for (const r of s.readings) kindOf(r as Reading).forget?.(r, id);
  };

/** What was measured no longer is what measuring would find. */
function outdate(r: Draft<Reading>): void {
  if (r.frames.length > 1) r.stale = true;
}

/** Changes what does not depend on its kind. */
export const changeReading =
  (id: string, change: Partial<Pick<Reading, 'name' | 'from' | 'channel' | 'range'>>): Change =>
  (s) => {
    const r = readingOf(s, id);
    if (change.range && change.range.last < change.range.first) throw new ShotError('the range ends before it starts');
    const named =
      change.name === undefined
        ? {}
        : {
            name: freeName(
              change.name,
              s.readings.filter((x) => x.id !== id).map((x) => x.name),
            ),
          };
    Object.assign(r, change, named);
    if (change.from || change.channel) outdate(r);
  };

/**
 * Another frame becomes the one at which the reading changes nothing: what was drawn on the old one is carried there, and maps
 * are counted from there. Refused where that frame is not measured.
 */
export const setReference =
  (id: string, frame: number): Change =>
  (s) => {
    const r = readingOf(s, id) as Reading;
    if (frame === r.reference) return;
    if (!isTrack(r)) throw new ShotError('this reading is not counted from a frame: it has no reference frame');
    const measured = r.frames.length > 1;
    if (measured && !r.frames.some((f) => f.frame === frame)) throw new ShotError(`frame ${frame} is not measured; measure it first`);
    const target = readingOf(s, id);
    target.reference = frame;
    if (!measured) {
      target.frames = [] as never;
    } else if (r.kind === 'point') {
      (target as Draft<PointReading>).at = [...dataOf({ ...r }, 1).positionAt(frame)] as [number, number];
    } else {
      const moved = dataOf({ ...r }, 1).mapAt(frame);
      const back = invert(moved);
      if (!back) throw new ShotError(`the plane is folded on frame ${frame}; choose another`);
      const carried = (p: readonly number[]): number[] => mapPolygon(moved, p);
      const plane = target as Draft<PlaneReading>;
      plane.surface = r.surface.map(([x, y]) => mapPoint(moved, x, y)) as never;
      plane.region = { shapes: r.region.shapes.map(carried), without: r.region.without.map(carried) };
      plane.frames = r.frames.map((f) => ({ ...f, homography: multiply(f.homography, back) })) as never;
    }
  };

export const changePoint =
  (id: string, change: Partial<Pick<PointReading, 'at'>> & { settings?: Partial<PointReading['settings']> }): Change =>
  (s) => {
    const r = readingOf(s, id) as Draft<PointReading>;
    Object.assign(r, change, { settings: { ...r.settings, ...change.settings } });
    if (change.at || change.settings) outdate(r);
  };

export const changePlane =
  (
    id: string,
    change: Partial<Pick<PlaneReading, 'surface' | 'region' | 'matte'>> & { settings?: Partial<PlaneReading['settings']> },
  ): Change =>
  (s) => {
    const r = readingOf(s, id) as Draft<PlaneReading>;
    Object.assign(r, change, { settings: { ...r.settings, ...change.settings } });
    if ('matte' in change && !change.matte) delete r.matte;
    if (change.region || change.settings || 'matte' in change) outdate(r);
  };

/** Features are for looking: a tenth of a pixel is enough of them. */
const lean = (f: PointFrame | PlaneFrame): PointFrame | PlaneFrame => {
  if (!('used' in f) || !f.used) return f;
  const tenths = (list: readonly number[] = []): number[] => list.map((v) => Math.round(v * 10) / 10);
  return { ...f, used: tenths(f.used), rejected: tenths(f.rejected) };
};

/** Frames of a reading again; a path is looked at as a whole each time, so that what is flagged and bridged fits what is there now. */
function put(r: Draft<Reading>, frames: readonly (PointFrame | PlaneFrame)[]): void {
  r.frames = (r.kind === 'point' ? reviewPath(frames as readonly PointFrame[]) : frames) as never;
}

/** What was measured with this reading, which is another now. */
function outdateUsers(s: Draft<Shot>, id: string): void {
  for (const r of s.readings) if (kindOf(r as Reading).restsOn?.(r as Reading, id)) r.stale = true;
}

/** What was measured takes the place of what was there on those frames; frames `gone` were looked for and not found. */
export const setFrames =
  (id: string, frames: readonly (PointFrame | PlaneFrame)[], gone: readonly number[] = []): Change =>
  (s) => {
    const r = readingOf(s, id);
    const kept = (r.frames as readonly (PointFrame | PlaneFrame)[]).filter((f) => f.pinned || !gone.includes(f.frame));
    put(r, withFrames(kept, frames.map(lean)));
    outdateUsers(s, id);
    const measured = new Set(frames.map((f) => f.frame));
    if ((r.frames as readonly (PointFrame | PlaneFrame)[]).every((f) => f.pinned || f.frame === r.reference || measured.has(f.frame)))
      delete r.stale;
  };

export const removeFrames =
  (id: string, frames: readonly number[]): Change =>
  (s) => {
    const r = readingOf(s, id);
    put(
      r,
      (r.frames as readonly (PointFrame | PlaneFrame)[]).filter((f) => !frames.includes(f.frame)),
    );
    outdateUsers(s, id);
  };

/** Puts a point where it belongs on a frame; measuring keeps it. On the reference frame the point itself is moved. */
export const pinPoint =
  (id: string, frame: number, x: number, y: number): Change =>
  (s) => {
    const r = readingOf(s, id) as Draft<PointReading>;
    outdateUsers(s, id);
    if (frame === r.reference) {
      r.at = [x, y];
      outdate(r);
    }
    const here: PointFrame = { frame, x, y, confidence: 1, error: 0, ...(frame !== r.reference && { pinned: true }) };
    put(r, withFrames(r.frames as PointFrame[], [here]));
  };

export const pinPlane =
  (id: string, frame: number, homography: PlaneFrame['homography']): Change =>
  (s) => {
    const r = readingOf(s, id) as Draft<PlaneReading>;
    put(r, withFrames(r.frames as unknown as PlaneFrame[], [{ frame, homography, confidence: 1, error: 0, pinned: true }]));
  };

/** Lays a frame of a path on the line between its neighbours that are trusted. */
export const interpolateFrame =
  (id: string, frame: number): Change =>
  (s) => {
    const r = readingOf(s, id);
    const trusted = (r.frames as PointFrame[]).filter((f) => f.frame !== frame && !f.flag);
    const before = trusted.filter((f) => f.frame < frame).pop();
    const after = trusted.find((f) => f.frame > frame);
    if (!before || !after) throw new ShotError('there is no trusted frame on both sides to lay it between');
    const data = dataOf({ ...(r as TrackReading), frames: [before, after] } as TrackReading, 1);
    if (r.kind === 'point') {
      const [x, y] = data.positionAt(frame);
      pinPoint(id, frame, x, y)(s);
    } else pinPlane(id, frame, data.mapAt(frame))(s);
  };

/** Whether a step can be driven by a reading and by keys in turn. */
export const canFreeze = (step: Step): boolean => ['stabilise', 'follow', 'cornerPin'].includes(step.type);
export const isFrozen = (step: Step): boolean =>
  step.type === 'cornerPin' ? step.params.from === undefined || step.params.from === 'corners' : step.params.from === 'keys';

/** Writes what a reading makes of a step into keys of its corners, frame by frame: later corrections no longer reach it. */
export const freezeStep =
  (id: string): Change =>
  (s) => {
    const found = findStep(s as Shot, id);
    if (!found || !canFreeze(found.step)) throw new ShotError('that step follows no reading');
    const { lane, step } = found;
    for (const { to } of referencesOf(STEPS.get(step.type)!.params, step.params)) {
      const from = s.readings.find((r) => r.id === to.id)?.from;
      if (from && acrossFrom(s as Shot, from as Tap, lane, step, { frame: s.range.first, scale: 1 })) {
        throw new ShotError(
          'its reading was made on the other side of a lens, and four corners cannot follow a bend: measure it on this side to freeze it',
        );
      }
    }
    const frames: Record<(typeof CORNERS)[number], Key[]> = { topLeft: [], topRight: [], bottomRight: [], bottomLeft: [] };
    for (let f = s.range.first; f <= s.range.last; f++) {
      const corners = cornersOf(s as Shot, step, f);
      if (!corners) throw new ShotError('it has no reading to be frozen');
      const home = frameCorners(s.format);
      CORNERS.forEach((c, i) => {
        const value = [corners[i]![0] - home[i]![0], corners[i]![1] - home[i]![1]];
        frames[c].push({ frame: f, value, ease: 'linear' });
      });
    }
    const target = findStep(s as Shot, id)!.step as Draft<Step>;
    for (const c of CORNERS) target.params[c] = { keys: frames[c] } as Draft<Param>;
    target.params.from = step.type === 'cornerPin' ? 'corners' : 'keys';
  };

/** The reading drives it again; the keys go. */
export const unfreezeStep =
  (id: string): Change =>
  (s) => {
    const found = findStep(s as Shot, id);
    if (!found || !canFreeze(found.step)) throw new ShotError('that step follows no reading');
    const step = found.step as Draft<Step>;
    const by = step.type !== 'cornerPin' ? 'reading' : step.params.plane ? 'plane' : step.params.first ? 'points' : null;
    if (!by) throw new ShotError('it has no reading to go back to');
    for (const c of CORNERS) if (isKeyed(step.params[c] as Param)) delete step.params[c];
    step.params.from = by;
  };

/** Where a step puts the frame's corners on a frame. */
function cornersOf(shot: Shot, step: Step, frame: number): readonly (readonly [number, number])[] | null {
  const p: unknown = stepValues(shot, STEPS.get(step.type)!.params, step, frame);
  if (step.type === 'cornerPin') return cornersAt(p as CornerPinValues, shot.format, frame);
  const map =
    step.type === 'follow' ? followedMap(p as FollowValues, shot.format, frame) : stabiliseMap(p as StabiliseValues, shot.format, frame);
  return map && frameCorners(shot.format).map(([x, y]) => mapPoint(map, x, y));
}
