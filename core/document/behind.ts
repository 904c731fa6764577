import { STEPS } from '../steps';
import { laneOf, tapIndex, tapsOf } from './graph';
import type { Lane, Shot, Step, Tap } from './types';
import { zoneEndingAt } from './zones';

/** The point right before the join that brings a lane in, wherever that is; the first join that is on, in the order of lanes. */
function candidate(shot: Shot, laneId: string): Tap | null {
  for (const lane of shot.lanes) {
    const index = lane.steps.findIndex((s) => s.type === 'join' && s.on && s.feeds.front?.lane === laneId);
    if (index >= 0) return { lane: lane.id, after: index === 0 ? '' : lane.steps[index - 1]!.id };
  }
  return null;
}

/** Whether a step looks for what lies behind its lane by itself. */
export const looksBehind = (step: Step): boolean => (STEPS.get(step.type)?.feeds ?? []).some((f) => f.behind && !step.feeds[f.name]);

/** Whether a point is made from a lane at or after one of its steps, through backgrounds that are found by themselves, too. */
function madeFrom(shot: Shot, tap: Tap, target: string, index: number, seen: Set<string>): boolean {
  const lane = laneOf(shot, tap.lane);
  if (!lane) return false;
  const last = tapIndex(lane, tap.after);
  if (lane.id === target && last >= index) return true;
  const follow = (t: Tap): boolean => madeFrom(shot, t, target, index, seen);
  for (let i = last; i >= 0; i--) {
    const key = `${lane.id}/${i}`;
    if (seen.has(key)) return false;
    seen.add(key);
    const step = lane.steps[i]!;
    const zone = zoneEndingAt(lane, i);
    for (const { tap: t } of [...tapsOf(step), ...(zone ? tapsOf(zone) : [])]) if (follow(t)) return true;
    const behind = looksBehind(step) ? candidate(shot, lane.id) : null;
    if (behind && follow(behind)) return true;
  }
  return 'tap' in lane.start && follow(lane.start.tap);
}

const found = new WeakMap<Shot, Map<string, Tap | null>>();

/**
 * What lies behind a lane: the picture right before the join that brings it in. For a step of the lane null where that picture is made from what the step makes.
 * A shot is an immutable value: each is looked for once.
 */
export function behindOf(shot: Shot, lane: Pick<Lane, 'id'>, step?: string): Tap | null {
  let known = found.get(shot);
  if (!known) found.set(shot, (known = new Map()));
  const key = `${lane.id} ${step ?? ''}`;
  let tap = known.get(key);
  if (tap === undefined) {
    tap = candidate(shot, lane.id);
    const index = step === undefined ? -1 : (laneOf(shot, lane.id)?.steps.findIndex((s) => s.id === step) ?? -1);
    if (tap && index >= 0 && madeFrom(shot, tap, lane.id, index, new Set())) tap = null;
    known.set(key, tap);
  }
  return tap;
}
