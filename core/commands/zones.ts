import type { Draft } from 'immer';
import type { Lane, Shot, Zone } from '../document';
import { findStep, stepsOfZone, zoneOfStep, zoneTrouble } from '../document';
import { ShotError } from '../errors';
import type { Change } from './change';
import { laneOf } from './change';
import { dropZone } from './leave-zone';
import { freeName, newId, newStep } from './make';
import { moveSteps, removeStep } from './structure';

export function findZone(shot: Shot, id: string): { zone: Zone; lane: Lane } | null {
  for (const lane of shot.lanes) {
    const zone = lane.zones?.find((z) => z.id === id);
    if (zone) return { zone, lane };
  }
  return null;
}

function zoneOf(s: Draft<Shot>, id: string): { zone: Draft<Zone>; lane: Draft<Lane> } {
  const found = findZone(s as Shot, id);
  if (!found) throw new ShotError('that zone is no longer there');
  return found as { zone: Draft<Zone>; lane: Draft<Lane> };
}

function refuseTrouble(lane: Draft<Lane>): void {
  const trouble = zoneTrouble(lane as Lane);
  if (trouble) throw new ShotError(trouble.message);
}

/** Gathers steps of a lane that follow each other into a zone: a box in the middle of the frame, to be put where it belongs. */
export const gatherZone =
  (ids: readonly string[], made: { zone?: string } = {}): Change =>
  (s) => {
    const places = ids.map((id) => findStep(s as Shot, id)).filter((f) => f !== null);
    const [first] = places;
    if (!first || places.some((f) => f.lane.id !== first.lane.id)) throw new ShotError('choose steps of one lane to gather');
    const lane = laneOf(s, first.lane.id);
    const indices = places.map((f) => f.index).sort((a, b) => a - b);
    const { width, height } = s.format;
    const zone: Zone = {
      ...newStep('zone', []),
      type: 'zone',
      name: freeName(
        'Zone',
        (lane.zones ?? []).map((z) => z.name),
      ),
      params: { within: 'box', box: [width / 4, height / 4, (3 * width) / 4, (3 * height) / 4] },
      first: lane.steps[indices[0]!]!.id,
      last: lane.steps[indices[indices.length - 1]!]!.id,
    };
    made.zone = zone.id;
    lane.zones = [...(lane.zones ?? []), zone as Draft<Zone>];
    refuseTrouble(lane);
  };

/** Takes a zone away; its steps stay and act everywhere. */
export const dissolveZone =
  (id: string): Change =>
  (s) =>
    dropZone(zoneOf(s, id).lane, id);

/** Deletes a zone with its steps. */
export const removeZone =
  (id: string): Change =>
  (s) => {
    const { zone, lane } = zoneOf(s, id);
    const steps = stepsOfZone(lane as Lane, zone as Zone).map((x) => x.id);
    dropZone(lane, id);
    for (const step of steps) removeStep(step)(s);
  };

/** Moves a zone, or a copy of it, with its steps to a place in a lane. */
export const moveZone =
  (id: string, toLane: string, toIndex: number, copy = false, made: { zone?: string } = {}): Change =>
  (s) => {
    const { zone, lane } = zoneOf(s, id);
    const steps = stepsOfZone(lane as Lane, zone as Zone).map((x) => x.id);
    const target = laneOf(s, toLane);
    const at = lane.steps.findIndex((x) => x.id === zone.first);
    made.zone = id;
    // Into itself it stays where it is.
    if (lane.id === target.id && toIndex >= at && toIndex <= at + steps.length && !copy) return;
    const before = target.steps[toIndex - 1];
    const around = before && zoneOfStep(target as Lane, before.id);
    if (around && around.last !== before.id && around.id !== id) throw new ShotError(`a zone cannot go into the zone "${around.name}"`);
    const plain = JSON.parse(JSON.stringify(zone)) as Zone;
    if (!copy) dropZone(lane, id);
    const moved: { steps?: string[] } = {};
    moveSteps(steps, toLane, toIndex, copy, moved)(s);
    const names = (target.zones ?? []).map((z) => z.name);
    const put: Zone = {
      ...plain,
      id: copy ? newId() : id,
      name: freeName(plain.name, names),
      first: moved.steps![0]!,
      last: moved.steps!.at(-1)!,
    };
    target.zones = [...(target.zones ?? []), put as Draft<Zone>];
    made.zone = put.id;
    refuseTrouble(target);
  };
