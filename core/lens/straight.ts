import { laneOf, tapIndex } from '../document/graph';
import type { Lane, Shot, Step } from '../document/types';
import type { Tap } from '../document/tap';
import { stepValues } from '../document/values';
import { limitedOf } from '../document/zones';
import type { Mapping } from '../geometry/mapping';
import { scaleFormat } from '../picture';
import type { Lens } from './lens';
import type { LensStepValues } from './of-step';
import { lensInUse, lensParams, straightened } from './of-step';

interface When {
  readonly frame: number;
  readonly scale: number;
}

const has = new WeakMap<Shot, boolean>();
const hasLens = (shot: Shot): boolean => {
  let known = has.get(shot);
  if (known === undefined) has.set(shot, (known = shot.lanes.some((l) => l.steps.some((s) => s.type === 'lens'))));
  return known;
};

/** What a lens step straightens by, for filmed pictures of the shot's format; null where it does nothing. */
function straighteningOf(
  shot: Shot,
  step: Step,
  { frame, scale }: When,
): { mapping: Mapping; direction: LensStepValues['direction']; lens: Lens } | null {
  const p = stepValues(shot, lensParams, step, frame, scale) as unknown as LensStepValues;
  const format = scaleFormat(shot.format, scale);
  const lens = lensInUse(p, format);
  return lens && { mapping: straightened(lens, format, p.size).mapping, direction: p.direction, lens };
}

/** What straightened the picture at a tap; null where it is as filmed. */
function straightenerAt(shot: Shot, tap: Tap, when: When, seen = new Set<string>()): ReturnType<typeof straighteningOf> {
  if (!hasLens(shot) || seen.has(tap.lane)) return null;
  const lane = laneOf(shot, tap.lane);
  if (!lane) return null;
  for (let i = tapIndex(lane, tap.after); i >= 0; i--) {
    const step = lane.steps[i]!;
    const done = step.type === 'lens' && step.on ? straighteningOf(shot, step, when) : null;
    if (done) return done.direction === 'straighten' ? done : null;
  }
  return 'tap' in lane.start ? straightenerAt(shot, lane.start.tap, when, new Set([...seen, lane.id])) : null;
}

/** From filmed positions to those of the picture at a tap, where that has been straightened; null where it is as filmed. */
export const straightAt = (shot: Shot, tap: Tap, when: When): Mapping | null => straightenerAt(shot, tap, when)?.mapping ?? null;

/** Where the axis of the lens meets a picture that has been straightened, and its focal length there, px; null where it is as filmed. */
export function straightLensAt(shot: Shot, tap: Tap, frame: number): { centre: readonly [number, number]; focal: number } | null {
  const done = straightenerAt(shot, tap, { frame, scale: 1 });
  if (!done) return null;
  const { centre, focal } = done.lens;
  const at = (x: number): readonly [number, number] => done.mapping.place(x, centre[1]);
  const [left, middle, right] = [at(centre[0] - 0.5), at(centre[0]), at(centre[0] + 0.5)];
  return { centre: middle, focal: focal * Math.hypot(right[0] - left[0], right[1] - left[1]) };
}

/** From positions where a reading was measured to those where a step uses it; null where no lens lies between. */
export function acrossFrom(shot: Shot, from: Tap, lane: Lane, step: Step, when: When): Mapping | null {
  if (!hasLens(shot)) return null;
  const at = lane.steps.findIndex((s) => s.id === step.id);
  const here = ahead(shot, lane, at, when, new Set());
  const there = straightAt(shot, from, when);
  if (!there && !here) return null;
  const across = here ? (there ? there.inverse.then(here) : here) : there!.inverse;
  return across.isIdentity ? null : across;
}

/**
 * Whether what stands at a place of a lane is taken for straight: by the lens step that comes after it, else by the picture that its lane is joined to,
 * else by what its lane came from.
 */
function ahead(shot: Shot, lane: Lane, from: number, when: When, seen: Set<string>): Mapping | null {
  for (const later of lane.steps.slice(from + 1)) {
    const done = later.type === 'lens' && later.on ? straighteningOf(shot, later, when) : null;
    if (done) return done.direction === 'bend' ? done.mapping : null;
  }
  if (!seen.has(lane.id)) {
    seen.add(lane.id);
    for (const other of shot.lanes) {
      const user = limitedOf(other).find((s) => s.type === 'join' && s.feeds.front?.lane === lane.id);
      const index = user ? other.steps.findIndex((s) => s.id === user.id) : -1;
      if (index < 0) continue;
      return straightAt(shot, { lane: other.id, after: other.steps[index - 1]?.id ?? '' }, when) ?? ahead(shot, other, index, when, seen);
    }
  }
  return straightAt(shot, { lane: lane.id, after: lane.steps[from]?.id ?? '' }, when);
}
