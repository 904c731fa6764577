import type { Draft } from 'immer';
import type { Lane, Param, Shot, Step } from '../document';
import { stepValues } from '../document';
import type { Match, Now } from '../seating';
import { STEPS } from '../steps';
import type { Change } from '../commands/change';
import { laneOf, stepNames } from '../commands/change';
import { setParams } from '../commands/commands';
import { newStep } from '../commands/make';

/** The steps that a match sets, in the order in which they act: light, softness, what creeps over the edge, grain. */
const ORDER = ['grade', 'blur', 'lightWrap', 'grain'] as const;
const MATCH_NAMES: Record<Match['step'], string> = { grade: 'Match to plate', blur: 'Match softness', grain: 'Match grain' };

/** The step of a lane that a match of a kind sets: the last one of its type that is on; a grade or blur of another use is left alone by its name. */
export const matchStep = (lane: Pick<Lane, 'steps'>, type: Match['step']): Step | undefined =>
  lane.steps.findLast((s) => s.type === type && s.on && s.name.startsWith('Match')) ??
  (type === 'grain' ? lane.steps.findLast((s) => s.type === 'grain' && s.on) : undefined);

/** What the steps that a match sets say now, at a frame. */
export function matchNow(shot: Shot, laneId: string, frame: number): Now {
  const lane = shot.lanes.find((l) => l.id === laneId);
  const of = (type: Match['step']): Record<string, unknown> | null => {
    const step = lane && matchStep(lane, type);
    return step ? (stepValues(shot, STEPS.get(type)!.params, step, frame) as Record<string, unknown>) : null;
  };
  const [grade, blur, grain] = [of('grade'), of('blur'), of('grain')];
  return {
    slope: (grade?.slope as Now['slope'] | undefined) ?? [1, 1, 1],
    offset: (grade?.offset as Now['offset'] | undefined) ?? [0, 0, 0],
    contrast: (grade?.contrast as number | undefined) ?? 1,
    pivot: (grade?.pivot as number | undefined) ?? 0.18,
    saturation: (grade?.saturation as number | undefined) ?? 1,
    blur: (blur?.size as number | undefined) ?? 0,
    grain: (grain?.amount as number | undefined) ?? 0,
  };
}

/** Puts a new step in a lane where its kind acts: before the first that acts later. */
function place(lane: Draft<Lane>, type: Match['step']): Draft<Step> {
  const step = { ...newStep(type, stepNames(lane)), name: MATCH_NAMES[type] } as Draft<Step>;
  const later = ORDER.slice(ORDER.indexOf(type) + 1) as readonly string[];
  // Only the run of seating steps at the end of the lane is looked at.
  let at = lane.steps.length;
  while (at > 0 && later.includes(lane.steps[at - 1]!.type)) at--;
  lane.steps.splice(at, 0, step);
  return step;
}

const round = (v: number): number => Number(v.toPrecision(6));

/** Sets what the meter found into the named step of the element's lane, which is made where it is not there. */
export function setMatch(laneId: string, match: Match, frame: number): Change {
  return (shot) => {
    const lane = laneOf(shot, laneId);
    const had = matchStep(lane as Lane, match.step);
    const step = had ? lane.steps.find((s) => s.id === had.id)! : place(lane, match.step);
    const params: Record<string, Param> =
      match.step === 'grade'
        ? (Object.fromEntries(
            Object.entries(match.params).map(([k, v]) => [k, typeof v === 'number' ? round(v) : (v as readonly number[]).map(round)]),
          ) as Record<string, Param>)
        : match.step === 'blur'
          ? { size: round(match.size), measure: 'sigma' }
          : { from: 'measured', measured: match.model as unknown as Param, amount: round(match.amount) };
    setParams(step.id, params as never, frame)(shot);
  };
}
