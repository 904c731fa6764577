import type { Draft } from 'immer';
import type { Param, Shot, Step } from '../document';
import { findStep, isLink, lastKnown, linksInto, moveTaps, tapPlaces, tapsAfter, tellPlace } from '../document';
import { ShotError } from '../errors';
import type { Change } from './change';
import { laneOf, refuseRings, stepNames, stepOf } from './change';
import { joinZone, leaveZone } from './leave-zone';
import { freeName, newId } from './make';

/** Parameters that follow steps which are about to go keep what those were last. */
function keepFollowed(s: Draft<Shot>, steps: ReadonlySet<string>): void {
  for (const { step, name } of linksInto(s as Shot, steps)) {
    const param = (name === 'mix' ? step.mix : step.params[name]) as Param;
    if (!isLink(param)) continue;
    const was = lastKnown(s as Shot, param.link);
    if (was !== undefined) param.link.was = JSON.parse(JSON.stringify(was)) as typeof was;
  }
}

/** Whoever taps after a step taps after the one before it. */
function tapBefore(s: Draft<Shot>, laneId: string, stepId: string, before: string): void {
  for (const { tap } of tapsAfter(s as Shot, laneId, stepId)) tap.after = before;
}

export const setResult =
  (id: string): Change =>
  (s) => {
    laneOf(s, id);
    s.result = id;
  };

/** The lane that is the result when another one is deleted: the last that starts from it, else the last of all. */
export const nextResult = (shot: Shot, without: string): string | null => shot.lanes.filter((l) => l.id !== without).at(-1)?.id ?? null;

/**
 * Deletes a lane. Joins that bring it go with it, other feeds and masks are cut, readings stay with their data; of the result,
 * `result` becomes the result. Refused while another lane starts from it.
 */
export const removeLane =
  (id: string, result?: string | null): Change =>
  (s) => {
    const lane = laneOf(s, id);
    const users = tapPlaces(s as Shot).filter((p) => p.tap.lane === id && p.lane?.id !== id);
    const start = users.find((u) => u.kind === 'start');
    if (start) throw new ShotError(`the lane "${start.owner}" starts from this one; delete it first`);
    const joins = users.filter((u) => u.step?.type === 'join' && u.kind === 'feed').map((u) => u.step!.id);
    keepFollowed(s, new Set([...lane.steps.map((x) => x.id), ...joins]));
    for (const { kind, use, step } of users) {
      if (!step || joins.includes(step.id)) continue;
      const target = stepOf(s, step.id).step;
      if (kind === 'mask') delete target.mask;
      else delete target.feeds[use];
    }
    for (const join of joins) if (findStep(s as Shot, join)) removeStep(join)(s);
    for (const r of s.readings) {
      moveTaps(r, (tap) => (tap.lane === id ? null : tap));
    }
    s.lanes = s.lanes.filter((l) => l.id !== id);
    if (s.result === id) s.result = result === undefined ? nextResult(s as Shot, id) : result;
  };

/** What deleting a lane does besides, in words; nothing where it only goes. */
export function lossesOfLane(shot: Shot, id: string): string[] {
  const steps = new Set(shot.lanes.find((l) => l.id === id)?.steps.map((x) => x.id));
  const taps = tapPlaces(shot)
    .filter((p) => p.tap.lane === id && p.lane?.id !== id)
    .map((p) => {
      if (p.kind === 'start') return `${tellPlace(p)} is taken from it: delete that lane first`;
      if (p.kind === 'reading') return `${tellPlace(p)} keeps its data but cannot be measured again`;
      return p.step?.type === 'join' && p.kind === 'feed' ? `${p.owner} goes with it` : `${tellPlace(p)} is cut`;
    });
  const links = linksInto(shot, steps).map(({ lane, step }) => `${lane.name} ▸ ${step.name} no longer follows it and keeps its values`);
  return [...taps, ...new Set(links)];
}

/** Deletes a step. What was tapped or measured after it is so after the one before it. */
export const removeStep =
  (id: string): Change =>
  (s) => {
    const { lane, index } = stepOf(s, id);
    keepFollowed(s, new Set([id]));
    leaveZone(lane, id);
    tapBefore(s, lane.id, id, lane.steps[index - 1]?.id ?? '');
    lane.steps.splice(index, 1);
  };

/** What else changes with a step that goes from its place, in words: "the mask of harbour ▸ Grade". */
export const usersAfter = (shot: Shot, id: string): string[] => {
  const found = findStep(shot, id);
  return found ? tapsAfter(shot, found.lane.id, id).map(tellPlace) : [];
};

/** Moves steps, or copies of them, to a place in a lane, one after the other; at the edge of a zone into it, where `zone` names it. */
export const moveSteps =
  (
    ids: readonly string[],
    toLane: string,
    toIndex: number,
    copy = false,
    made: { steps?: string[] } = {},
    follow = false,
    zone?: string,
  ): Change =>
  (s) => {
    made.steps = [];
    let at = toIndex;
    for (const id of ids) {
      const one: { step?: string } = {};
      moveStep(id, toLane, at, copy, one, follow)(s);
      made.steps.push(one.step!);
      if (zone !== undefined) joinZone(laneOf(s, toLane), zone, one.step!);
      at = laneOf(s, toLane).steps.findIndex((x) => x.id === one.step) + 1;
    }
  };

/** Moves a step, or a copy of it, to a place in a lane. What was tapped after it stays in its lane, or, with `follow`, goes along. */
export const moveStep =
  (id: string, toLane: string, toIndex: number, copy = false, made: { step?: string } = {}, follow = false): Change =>
  (s) => {
    const { lane, index, step } = stepOf(s, id);
    const target = laneOf(s, toLane);
    let at = toIndex;
    const plain = JSON.parse(JSON.stringify(step)) as Step;
    if (copy) plain.id = newId();
    else {
      if (lane.id !== target.id) {
        for (const { tap } of tapsAfter(s as Shot, lane.id, id)) {
          if (follow) tap.lane = target.id;
          else tap.after = lane.steps[index - 1]?.id ?? '';
        }
      }
      leaveZone(lane, id);
      lane.steps.splice(index, 1);
      if (lane === target && index < toIndex) at--;
    }
    if (copy || lane !== target) plain.name = freeName(plain.name, stepNames(target));
    made.step = plain.id;
    target.steps.splice(Math.max(0, Math.min(at, target.steps.length)), 0, plain as Draft<Step>);
    refuseRings(s);
  };
