import type { Draft } from 'immer';
import type { Lane, Param, Shot, Step, Tap } from '../document';
import { isPicture, kindTitle, usersOf } from '../document';
import { ShotError } from '../errors';
import type { PointReading, Reading } from '../readings';
import { inCornerOrder } from '../readings';
import type { Change } from './change';
import { appendStep, readingOf } from './change';
import { freeName, newLane, newStep } from './make';

const stepOn = (type: string, name: string, lane: Draft<Lane>, params: Record<string, Param>): Draft<Step> =>
  ({
    ...newStep(
      type,
      lane.steps.map((x) => x.name),
    ),
    name: freeName(
      name,
      lane.steps.map((x) => x.name),
    ),
    params,
  }) as Draft<Step>;

/**
 * Where in the picture a reading belongs: where it was measured, or, if that lane is only there to be measured or to make a matte,
 * the point of the lane that it was taken from.
 */
export function plateOf(shot: Shot, from: Tap): Tap {
  const lane = shot.lanes.find((l) => l.id === from.lane);
  if (!lane || lane.id === shot.result || !('tap' in lane.start)) return from;
  const shown = usersOf(shot, lane.id).some(({ use }) => use === 'front' || use === 'start');
  return shown ? from : plateOf(shot, lane.start.tap);
}

/** The lane that a reading belongs to in the picture, and the place of a step right after the point. */
function plateLane(s: Draft<Shot>, r: Draft<Reading>): { lane: Draft<Lane>; at: number; after: string } {
  const tap = plateOf(s as Shot, r.from as Tap);
  const lane = s.lanes.find((l) => l.id === tap.lane);
  if (!lane) throw new ShotError('the lane that it was measured in is no longer there');
  const at = tap.after === undefined ? lane.steps.length : lane.steps.findIndex((x) => x.id === tap.after) + 1;
  return { lane, at, after: lane.steps[at - 1]?.id ?? '' };
}

/** Adds a stabilise on a reading after the point of the plate that it was measured at. */
export const steadyPlate =
  (id: string, made: { step?: string } = {}): Change =>
  (s) => {
    const r = readingOf(s, id);
    const { lane, at } = plateLane(s, r);
    const step = stepOn('stabilise', 'Steady', lane, { reading: id });
    made.step = step.id;
    lane.steps.splice(at, 0, step);
  };

/** Adds a follow on a reading at the end of a lane. */
export const followReading =
  (id: string, laneId: string, made: { step?: string } = {}): Change =>
  (s) => {
    readingOf(s, id);
    const lane = s.lanes.find((l) => l.id === laneId);
    if (!lane) throw new ShotError('that lane is no longer there');
    const step = stepOn('follow', 'Follow', lane, { reading: id });
    made.step = step.id;
    lane.steps.push(step);
  };

export interface PinOptions {
  /** The source of the picture that is put in; it is laid over the plate that was measured. */
  source: string;
  /** A plane, or four points in any order. */
  readings: readonly string[];
}

/** A lane of a picture, sized, softened, graded and pinned to a reading with motion blur, laid over another lane. */
export const pinPicture =
  ({ source: sourceId, readings }: PinOptions, made: { lane?: string } = {}): Change =>
  (s) => {
    const source = s.sources.find((x) => x.id === sourceId);
    if (!source) throw new ShotError('that source is no longer there');
    if (!isPicture(source)) throw new ShotError(`${kindTitle(source)} is no picture`);
    const plane = readings.length === 1 && readingOf(s, readings[0]!).kind === 'plane';
    if (!plane && readings.length !== 4) throw new ShotError('it takes a plane, or four points');
    const corners = plane ? [] : inCornerOrder(readings, (r) => (readingOf(s, r) as Draft<PointReading>).at as [number, number]);
    const { lane: behind } = plateLane(s, readingOf(s, readings[0]!));
    const lane = newLane(
      `${source.name} insert`,
      { source: sourceId },
      s.lanes.map((l) => l.name),
    ) as Draft<Lane>;
    const add = (type: string, name: string, params: Record<string, Param>): void => void lane.steps.push(stepOn(type, name, lane, params));
    add('conform', 'Size', { fit: 'stretch' });
    add('grade', 'Match the light', {});
    add('crop', 'Edge softness', {});
    add('blur', 'Defocus', { size: 0, channels: 'colour' });
    const pins: Record<string, Param> = plane
      ? { from: 'plane', plane: readings[0]! }
      : { from: 'points', first: corners[0]!, second: corners[1]!, third: corners[2]!, fourth: corners[3]! };
    add('cornerPin', 'Pin', { ...pins, shutter: 180 });
    made.lane = lane.id;
    s.lanes.unshift(lane);
    const join = stepOn('join', 'over', behind, {});
    join.feeds.front = { lane: lane.id };
    appendStep(behind, join);
  };

/** Two lanes' worth of steps: the plane laid flat to be worked on, and put back over the plate. */
export const unwrapPlane =
  (id: string, made: { lane?: string } = {}): Change =>
  (s) => {
    const r = readingOf(s, id);
    if (r.kind !== 'plane') throw new ShotError('only a plane can be laid flat');
    const { lane: plate, after } = plateLane(s, r);
    const names = s.lanes.map((l) => l.name);
    const flat = newLane(`${r.name} flat`, { tap: { lane: plate.id, after } }, names) as Draft<Lane>;
    flat.steps.push(stepOn('cornerPin', 'Lay flat', flat, { from: 'plane', plane: id, unwrap: true }));
    flat.steps.push(stepOn('paint', 'Work here', flat, {}));
    flat.steps.push(stepOn('cornerPin', 'Put back', flat, { from: 'plane', plane: id }));
    made.lane = flat.id;
    s.lanes.splice(s.lanes.indexOf(plate), 0, flat);
    const join = stepOn('join', 'over', plate, {});
    join.feeds.front = { lane: flat.id };
    appendStep(plate, join);
  };

/** A lane with more contrast and saturation from the point that a reading is measured at; it is measured there from now on. */
export const boostLane =
  (id: string, made: { lane?: string } = {}): Change =>
  (s) => {
    const r = readingOf(s, id);
    const names = s.lanes.map((l) => l.name);
    const lane = newLane(`${r.name} boost`, { tap: { ...r.from } }, names) as Draft<Lane>;
    lane.steps.push(stepOn('grade', 'Boost', lane, { contrast: 2, saturation: 1.6, exposure: 0.3 }));
    made.lane = lane.id;
    s.lanes.splice(s.lanes.findIndex((l) => l.id === r.from.lane) + 1, 0, lane);
    r.from = { lane: lane.id, after: lane.steps[0]!.id };
  };
