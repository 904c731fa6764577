import type { ParamDefinition, ParamSchema } from '../param';
import { kindOf } from '../params/kinds';
import { schemaOf } from '../params/parts';
import { STEPS } from '../steps';
import { valueAt } from './curve';
import type { Key, Link, Param, Shot, Step, Value } from './types';

export const isKeyed = (p: Param | undefined): p is { keys: Key[] } => typeof p === 'object' && !Array.isArray(p) && 'keys' in p;
export const isLink = (p: Param | undefined): p is { link: Link } => typeof p === 'object' && !Array.isArray(p) && 'link' in p;

/** The step with this id, wherever it stands. */
export function findStep(shot: Shot, id: string): { step: Step; lane: Shot['lanes'][number]; index: number } | null {
  for (const lane of shot.lanes) {
    const index = lane.steps.findIndex((s) => s.id === id);
    if (index >= 0) return { step: lane.steps[index]!, lane, index };
  }
  return null;
}

/** All parameters that a step has, those of its parts too. */
export const paramsOf = (step: Pick<Step, 'type' | 'params'>): ParamSchema => schemaOf(STEPS.get(step.type)?.params, step.params);

/** What a step's parameter is that nobody has set. */
const untouched = (step: Step, name: string): Value | undefined => (name === 'mix' ? 1 : paramsOf(step)[name]?.default);

/** What a link leads to: the parameter and its own default; what it last was where its step is gone; undefined where nothing is known. */
function followed(shot: Shot, { step: id, param: name, was }: Link): Param | undefined {
  const target = findStep(shot, id);
  if (!target) return was;
  return (name === 'mix' ? target.step.mix : target.step.params[name]) ?? untouched(target.step, name);
}

/**
 * The value of a parameter at a time in frames. Links are followed, those to a step that is gone to what it last was; a ring of
 * links is told by `checkReferences` when it is made, and gives the fallback here.
 */
export function resolveParam(shot: Shot, param: Param | undefined, fallback: Value, time: number, depth = 0): Value {
  if (param === undefined || depth > MOST_LINKS) return fallback;
  if (isKeyed(param)) return param.keys.length ? valueAt(param.keys, time) : fallback;
  if (isLink(param)) return resolveParam(shot, followed(shot, param.link), fallback, time, depth + 1);
  return param;
}

/** Links that may follow each other. */
const MOST_LINKS = 32;

/** The value or the keys at the end of a chain of links. */
export function lastKnown(shot: Shot, link: Link): Link['was'] {
  let param = followed(shot, link);
  for (let i = 0; isLink(param) && i < MOST_LINKS; i++) param = followed(shot, param.link);
  return isLink(param) ? undefined : param;
}

/** Whether following a step's parameter comes back to it, or has no end in sight. */
export function linksInRing(shot: Shot, step: Step, name: string): boolean {
  let param: Param | undefined = name === 'mix' ? step.mix : step.params[name];
  for (let i = 0; i <= MOST_LINKS; i++) {
    if (!isLink(param)) return false;
    param = followed(shot, param.link);
  }
  return true;
}

/** Whether the step that a parameter follows is no longer there. */
export const followsNothing = (shot: Shot, param: Param | undefined): boolean =>
  isLink(param) && (!findStep(shot, param.link.step) || followed(shot, param.link) === undefined);

/** Keeps a value inside what the definition allows; a value of the wrong kind becomes the default. */
export const admit = (d: ParamDefinition, value: Value): Value => kindOf(d).admit(value, d);

/** Sets a parameter at a frame: where it is keyed a key is set or moved there, else it becomes the constant. */
export function withValue(param: Param | undefined, frame: number, value: Value): Param {
  return isKeyed(param) ? withKey(param, frame, value) : value;
}

/** Adds a key, or changes the one at the frame. */
export function withKey(param: { keys: Key[] } | undefined, frame: number, value: Value): { keys: Key[] } {
  const keys = param?.keys ?? [];
  const at = keys.find((k) => k.frame === frame);
  if (at) return { keys: keys.map((k) => (k === at ? { ...k, value } : k)) };
  return { keys: [...keys, { frame, value, ease: 'smooth' as const }].sort((a, b) => a.frame - b.frame) };
}

/** Removes the key at the frame; the last key leaves its value as a constant. */
export function withoutKey(param: { keys: Key[] }, frame: number): Param {
  const keys = param.keys.filter((k) => k.frame !== frame);
  return keys.length ? { keys } : (param.keys[0]?.value ?? 0);
}
