import type { Lane, Shot, Step, Tap } from './types';
import { limitedOf, zoneEndingAt } from './zones';

export const laneOf = (shot: Shot, id: string): Lane | undefined => shot.lanes.find((l) => l.id === id);

/** Every tap a step has, with what it is for. */
export function tapsOf(step: Step): { tap: Tap; use: string }[] {
  const taps = Object.entries(step.feeds).map(([use, tap]) => ({ tap, use }));
  if (step.mask) taps.push({ tap: step.mask, use: 'mask' });
  return taps;
}

/** Index of the last step that a tap takes in: −1 for `after: ''`, the start of the lane; the end where it names no step. */
export function tapIndex(lane: Lane, after: string | undefined): number {
  if (after === '') return -1;
  const i = after === undefined ? -1 : lane.steps.findIndex((s) => s.id === after);
  return i < 0 ? lane.steps.length - 1 : i;
}

/**
 * A ring of references, as names to show ("keeper ▸ Screen key → keeper core → keeper"), or null. The graph's points are
 * (lane, step), so a lane may be tapped before a step that is fed by the tapping lane.
 */
export function findCycle(shot: Shot): string[] | null {
  const state = new Map<string, 'open' | 'done'>();
  const trail: string[] = [];
  const visit = (laneId: string, index: number): string[] | null => {
    const lane = laneOf(shot, laneId);
    if (!lane) return null;
    const key = `${laneId}/${index}`;
    if (state.get(key) === 'done') return null;
    const name = index < 0 ? lane.name : `${lane.name} ▸ ${lane.steps[index]!.name}`;
    if (state.get(key) === 'open') return [...trail.slice(trail.indexOf(name)), name];
    state.set(key, 'open');
    trail.push(name);
    const follow = (tap: Tap): string[] | null => {
      const to = laneOf(shot, tap.lane);
      return to ? visit(tap.lane, tapIndex(to, tap.after)) : null;
    };
    let found: string[] | null = null;
    if (index < 0) {
      if ('tap' in lane.start) found = follow(lane.start.tap);
    } else {
      found = visit(laneId, index - 1);
      const zone = zoneEndingAt(lane, index);
      for (const { tap } of [...tapsOf(lane.steps[index]!), ...(zone ? tapsOf(zone) : [])]) found ??= follow(tap);
    }
    trail.pop();
    state.set(key, 'done');
    return found;
  };
  for (const lane of shot.lanes) {
    for (let i = -1; i < lane.steps.length; i++) {
      const found = visit(lane.id, i);
      if (found) return found;
    }
  }
  return null;
}

/** Ids of a lane and of every lane that it is made from. */
export function lanesBehind(shot: Shot, laneId: string, reached = new Set<string>()): Set<string> {
  const lane = reached.has(laneId) ? undefined : laneOf(shot, laneId);
  if (!lane) return reached;
  reached.add(laneId);
  if ('tap' in lane.start) lanesBehind(shot, lane.start.tap.lane, reached);
  for (const step of limitedOf(lane)) for (const { tap } of tapsOf(step)) lanesBehind(shot, tap.lane, reached);
  return reached;
}

const isBringing = (s: Step): boolean => s.type === 'join' && s.feeds.front !== undefined;

/**
 * The shot as it would be if of all lanes that joins bring only these, and what brings or makes them, were there. The result alone
 * is what it is before anything is joined to it; a lane that is joined nowhere, a feed for instance, is then the result.
 */
export function soloShot(shot: Shot, ids: readonly string[]): Shot {
  const kept = ids.map((id) => laneOf(shot, id)).filter((l) => l !== undefined);
  if (kept.length === 0) return shot;
  const alone = (l: Lane): Lane => (l.id === shot.result ? { ...l, steps: l.steps.filter((s) => !isBringing(s)) } : l);
  const base = { ...shot, lanes: shot.lanes.map(alone) };
  const needed = new Set(kept.flatMap((l) => [...lanesBehind(base, l.id)]));
  const brings = (lane: Lane): boolean => ids.some((id) => lanesBehind(shot, lane.id).has(id));
  const brought = new Set(shot.lanes.flatMap((l) => l.steps.filter(isBringing).map((s) => s.feeds.front!.lane)));
  const lanes = shot.lanes.map((l) => (brought.has(l.id) && !needed.has(l.id) && !brings(l) ? { ...l, muted: true } : l));
  const joined = kept.some((l) => l.id === shot.result || brought.has(l.id));
  return { ...shot, lanes, result: joined ? shot.result : kept[kept.length - 1]!.id };
}

/** The shot with a lane of its own for a source, which is the result: for looking at a source that no lane starts from. */
export function sourceShot(shot: Shot, source: string): Shot {
  const { id, name } = shot.sources.find((s) => s.id === source) ?? {};
  if (!id) return shot;
  const lane: Lane = { id: `source ${id}`, name: name!, start: { source: id }, steps: [], muted: false, collapsed: false };
  return { ...shot, lanes: [...shot.lanes, lane], result: lane.id };
}

/** Lanes that refer to this one, by their start, feeds or masks, with the words for it. */
export function usersOf(shot: Shot, laneId: string): { lane: Lane; step?: Step; use: string }[] {
  const users: { lane: Lane; step?: Step; use: string }[] = [];
  for (const lane of shot.lanes) {
    if ('tap' in lane.start && lane.start.tap.lane === laneId) users.push({ lane, use: 'start' });
    for (const step of limitedOf(lane)) {
      for (const { tap, use } of tapsOf(step)) if (tap.lane === laneId) users.push({ lane, step, use });
    }
  }
  return users;
}
