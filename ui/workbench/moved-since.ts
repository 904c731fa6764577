import type { Shot, Tap } from '@/core/document';
import { tapIndex } from '@/core/document';
import { STEPS } from '@/core/steps';

/** Whether what is seen has been moved since a point: by placing steps of the point's lane, as far as that is seen. */
export function movedSince(shot: Shot, point: Tap, seen: Tap): boolean {
  const lane = shot.lanes.find((l) => l.id === point.lane);
  if (!lane) return false;
  const end = seen.lane === lane.id ? tapIndex(lane, seen.after) : lane.steps.length - 1;
  const between = lane.steps.slice(tapIndex(lane, point.after) + 1, end + 1);
  return between.some((s) => s.on && STEPS.get(s.type)?.family === 'Place & warp');
}
