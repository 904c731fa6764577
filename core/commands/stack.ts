import type { Draft } from 'immer';
import type { Lane, Shot, Step } from '../document';
import { ShotError } from '../errors';
import type { Change } from './change';
import { appendStep, laneOf, refuseRings, stepNames } from './change';
import { newStep } from './make';

/** Above or below which lane something is put. */
export interface Place {
  lane: string;
  side: 'above' | 'below';
}

const bringsLane = (s: Step): boolean => s.type === 'join' && s.feeds.front !== undefined;
const isUnder = (s: Step): boolean => s.params.operator === 'under';

/** The lanes of the result as they lie on each other, the one in front first, with the joins that bring them; the result among them. */
export function stackOf(shot: Shot): { lane: string; join: Step | null }[] {
  const result = shot.lanes.find((l) => l.id === shot.result);
  if (!result) return [];
  const joins = result.steps.filter(bringsLane).map((join) => ({ lane: join.feeds.front!.lane, join }));
  const over = joins.filter((j) => !isUnder(j.join)).reverse();
  return [...over, { lane: result.id, join: null }, ...joins.filter((j) => isUnder(j.join))];
}

/** Where a place lies in the stack: how many lanes are in front of it; null where its lane is not in the stack. */
function indexOf(stack: readonly { lane: string }[], { lane, side }: Place): number | null {
  const at = stack.findIndex((e) => e.lane === lane);
  return at < 0 ? null : at + (side === 'below' ? 1 : 0);
}

/** Puts joins into the result in the order of a stack, where those that were there stood; rows of the board follow. */
function settle(s: Draft<Shot>, stack: readonly { lane: string; join: Draft<Step> | null }[]): void {
  const result = laneOf(s, s.result!);
  const base = stack.findIndex((e) => e.join === null);
  const over = stack.slice(0, base).reverse();
  const under = stack.slice(base + 1);
  const set = (join: Draft<Step>, down: boolean): Draft<Step> => {
    if (down) join.params.operator = 'under';
    else if (join.params.operator === 'under') delete join.params.operator;
    return join;
  };
  const joins = [...under.map((e) => set(e.join!, true)), ...over.map((e) => set(e.join!, false))];
  const ids = new Set(joins.map((j) => j.id));
  // Other steps keep their places between the joins; what is new comes last.
  const queue = [...joins];
  const steps = result.steps.map((x) => (ids.has(x.id) || bringsLane(x as Step) ? queue.shift() : x)).filter((x) => x !== undefined);
  result.steps = steps;
  queue.forEach((x) => appendStep(result, x));
  // The rows of the stack take the rows that they had among them, in their new order.
  const inStack = new Set(stack.map((e) => e.lane));
  const rows = stack.map((e) => s.lanes.find((l) => l.id === e.lane)!);
  s.lanes = s.lanes.map((l) => (inStack.has(l.id) ? rows.shift()! : l));
}

/** Puts a lane above or below another one. In the stack it changes its place there; what was joined to nothing is joined. */
export const placeLane =
  (id: string, place: Place): Change =>
  (s) => {
    if (id === place.lane) return;
    const lane = laneOf(s, id);
    const target = laneOf(s, place.lane);
    const stack = stackOf(s as Shot) as { lane: string; join: Draft<Step> | null }[];
    const own = stack.findIndex((e) => e.lane === id);
    if (own >= 0 && stack[own]!.join === null)
      throw new ShotError(`"${lane.name}" is the result: move the lanes that lie over or under it`);
    const at = indexOf(stack, place);
    if (at === null) return joinOnto(s, lane, target);
    const [entry] = own >= 0 ? stack.splice(own, 1) : [{ lane: id, join: joinOf(s, id) }];
    stack.splice(own >= 0 && own < at ? at - 1 : at, 0, entry!);
    // A new row stands beside the one it was put at.
    if (own < 0) moveRow(s, id, place);
    settle(s, stack);
    refuseRings(s);
  };

/** One place up or down in the stack. */
export const moveInStack =
  (id: string, by: 1 | -1): Change =>
  (s) => {
    const stack = stackOf(s as Shot);
    const at = stack.findIndex((e) => e.lane === id);
    if (at < 0) throw new ShotError('that lane is not laid into the result; drop it on a lane to join it there');
    const beside = stack[at + by];
    if (!beside) throw new ShotError(by < 0 ? 'it is in front of everything already' : 'it is behind everything already');
    if (stack[at]!.join === null) return placeLane(beside.lane, { lane: id, side: by < 0 ? 'below' : 'above' })(s);
    placeLane(id, { lane: beside.lane, side: by < 0 ? 'above' : 'below' })(s);
  };

function joinOf(s: Draft<Shot>, front: string): Draft<Step> {
  const join = newStep('join', stepNames(laneOf(s, s.result!))) as Draft<Step>;
  join.feeds.front = { lane: front };
  return join;
}

/** Lays a lane over the end of another one. */
function joinOnto(s: Draft<Shot>, lane: Draft<Lane>, onto: Draft<Lane>): void {
  const join = newStep('join', stepNames(onto)) as Draft<Step>;
  join.feeds.front = { lane: lane.id };
  appendStep(onto, join);
  refuseRings(s);
}

function moveRow(s: Draft<Shot>, id: string, { lane, side }: Place): void {
  const row = s.lanes.find((l) => l.id === id)!;
  const others = s.lanes.filter((l) => l.id !== id);
  others.splice(others.findIndex((l) => l.id === lane) + (side === 'below' ? 1 : 0), 0, row);
  s.lanes = others;
}
