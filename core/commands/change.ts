import type { Draft } from 'immer';
import type { Lane, Shot, Step } from '../document';
import { checkReferences, findStep } from '../document';
import { ShotError } from '../errors';
import type { Reading } from '../readings';

/**
 * Every change a user can make is a function on a draft of the shot. They throw ShotError where the change is refused; the
 * draft is then thrown away.
 */
export type Change = (shot: Draft<Shot>) => void;

export const laneOf = (shot: Draft<Shot>, id: string): Draft<Lane> => {
  const lane = shot.lanes.find((l) => l.id === id);
  if (!lane) throw new ShotError('that lane is no longer there');
  return lane;
};

/** A zone has a name, parameters, mix and mask as a step has, and is changed by the same commands; its place is none. */
function zoneById(shot: Shot, id: string): { step: Step; lane: Lane; index: number } | null {
  for (const lane of shot.lanes) {
    const step = lane.zones?.find((z) => z.id === id);
    if (step) return { step, lane, index: -1 };
  }
  return null;
}

export const stepOf = (shot: Draft<Shot>, id: string): { step: Draft<Step>; lane: Draft<Lane>; index: number } => {
  const found = findStep(shot as Shot, id) ?? zoneById(shot as Shot, id);
  if (!found) throw new ShotError('that step is no longer there');
  return found as { step: Draft<Step>; lane: Draft<Lane>; index: number };
};

/** Puts a step at the end of a lane; where that bends straight pixels back at its end, before that: new work lands on straight pixels. */
export function appendStep(lane: Draft<Lane>, step: Draft<Step>): void {
  const last = lane.steps[lane.steps.length - 1];
  const bends = last?.type === 'lens' && last.params.direction === 'bend';
  lane.steps.splice(bends ? lane.steps.length - 1 : lane.steps.length, 0, step);
}

export const stepNames = (lane: Draft<Lane>): string[] => lane.steps.map((s) => s.name);
export const refuseRings: Change = (shot) => checkReferences(shot as Shot);

export const readingOf = (s: Draft<Shot>, id: string): Draft<Reading> => {
  const found = s.readings.find((r) => r.id === id);
  if (!found) throw new ShotError('that reading is no longer there');
  return found;
};
