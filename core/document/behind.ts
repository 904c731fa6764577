import { laneOf, tapIndex, tapsOf } from './graph';
import type { Lane, Shot, Tap } from './types';
import { zoneEndingAt } from './zones';

/** The point right before the join that brings a lane in, wherever that is; the first join that is on, in the order of lanes. */
function candidate(shot: Shot, laneId: string): Tap | null {
  for (const lane of shot.lanes) {
    const index = lane.steps.findIndex((s) => s.type === 'join' && s.on && s.feeds.front?.lane === laneId);
    if (index >= 0) return { lane: lane.id, after: index === 0 ? '' : lane.steps[index - 1]!.id };
  }
  return null;
}

/** Whether a point of a lane is made from another lane, backgrounds that are found by themselves with it. */
function madeFrom(shot: Shot, tap: Tap, target: string, seen: Set<string>): boolean {
  const lane = laneOf(shot, tap.lane);
  if (!lane) return false;
  const follow = (t: Tap): boolean => t.lane === target || madeFrom(shot, t, target, seen);
  for (let i = tapIndex(lane, tap.after); i >= 0; i--) {
    const key = `${lane.id}/${i}`;
    if (seen.has(key)) return false;
    seen.add(key);
    const zone = zoneEndingAt(lane, i);
    for (const { tap: t } of [...tapsOf(lane.steps[i]!), ...(zone ? tapsOf(zone) : [])]) if (follow(t)) return true;
  }
  const own = candidate(shot, lane.id);
  if (own && own.lane !== target && !seen.has(`behind ${lane.id}`)) {
    seen.add(`behind ${lane.id}`);
    if (follow(own)) return true;
  }
  return 'tap' in lane.start && follow(lane.start.tap);
}

const found = new WeakMap<Shot, Map<string, Tap | null>>();

/**
 * What lies behind a lane: the picture right before the join that brings it in. Null where no join does, or where that picture is made from the lane
 * itself. A shot is an immutable value: each is looked for once.
 */
export function behindOf(shot: Shot, lane: Pick<Lane, 'id'>): Tap | null {
  let known = found.get(shot);
  if (!known) found.set(shot, (known = new Map()));
  let tap = known.get(lane.id);
  if (tap === undefined) {
    tap = candidate(shot, lane.id);
    if (tap && madeFrom(shot, tap, lane.id, new Set())) tap = null;
    known.set(lane.id, tap);
  }
  return tap;
}
