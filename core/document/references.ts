import { ShotError } from '../errors';
import { findCycle, laneOf, tapsOf } from './graph';
import { isLink, linksInRing } from './params';
import type { Shot, Step } from './types';
import { limitedOf, zoneTrouble } from './zones';

/** References must meet, names of things be unique, and lanes form no ring. Throws ShotError. */
export function checkReferences(doc: Shot): void {
  const ids = new Set<string>();
  const once = (kind: string, value: string): void => {
    if (ids.has(value)) throw new ShotError(`two things have the id "${value}" (the second is a ${kind})`);
    ids.add(value);
  };
  if (doc.range.last < doc.range.first) {
    throw new ShotError(`the range ${doc.range.first}–${doc.range.last} ends before it starts`);
  }
  for (const s of doc.sources) {
    once('source', s.id);
    if (s.trim && s.trim.last < s.trim.first) throw new ShotError(`the source "${s.name}" ends before it starts`);
    if (s.kind === 'movie' && s.length === undefined) throw new ShotError(`the movie "${s.name}" does not say how long it is`);
  }
  doc.lanes.forEach((l) => {
    once('lane', l.id);
    limitedOf(l).forEach((s) => once('step', s.id));
    const trouble = zoneTrouble(l);
    if (trouble) throw new ShotError(trouble.message);
  });
  for (const r of doc.readings) {
    once('reading', r.id);
    if (r.range.last < r.range.first) throw new ShotError(`the reading "${r.name}" ends before it starts`);
  }
  const known = (laneId: string, from: string): void => {
    if (!laneOf(doc, laneId)) throw new ShotError(`${from} refers to a lane "${laneId}" that does not exist`);
  };
  if (doc.result !== null) known(doc.result, 'the result');
  for (const l of doc.lanes) {
    const { start } = l;
    if ('tap' in start) known(start.tap.lane, `lane "${l.name}"`);
    else if ('source' in start && !doc.sources.some((s) => s.id === start.source)) {
      throw new ShotError(`lane "${l.name}" starts from a source "${start.source}" that does not exist`);
    }
    for (const s of limitedOf(l)) {
      for (const { tap: t, use } of tapsOf(s)) known(t.lane, `"${use}" of ${l.name} ▸ ${s.name}`);
    }
  }
  for (const l of doc.lanes) {
    for (const s of limitedOf(l)) {
      const name = linkedParams(s).find((n) => linksInRing(doc, s, n));
      if (name !== undefined) throw new ShotError(`${l.name} ▸ ${s.name}: its "${name}" follows itself in a ring`);
    }
  }
  const cycle = findCycle(doc);
  if (cycle) throw new ShotError(`lanes feed each other in a ring: ${cycle.join(' ← ')}`);
}

/** The names of a step's parameters that follow another one; `mix` among them. */
export const linkedParams = (step: Step): string[] => [
  ...Object.keys(step.params).filter((n) => isLink(step.params[n])),
  ...(isLink(step.mix) ? ['mix'] : []),
];
