import { ShotError } from '../errors';
import type { ParamDefinition } from '../param';
import { valueAt } from './curve';
import type { Key, Param, Shot, Step, Value } from './types';

export const isKeyed = (p: Param | undefined): p is { keys: Key[] } => typeof p === 'object' && !Array.isArray(p) && 'keys' in p;
export const isLink = (p: Param | undefined): p is { link: { step: string; param: string } } =>
  typeof p === 'object' && !Array.isArray(p) && 'link' in p;

/** The step with this id, wherever it stands. */
export function findStep(shot: Shot, id: string): { step: Step; lane: Shot['lanes'][number]; index: number } | null {
  for (const lane of shot.lanes) {
    const index = lane.steps.findIndex((s) => s.id === id);
    if (index >= 0) return { step: lane.steps[index]!, lane, index };
  }
  return null;
}

/** The value of a parameter at a time in frames. Links are followed; a ring of links throws ShotError. */
export function resolveParam(shot: Shot, param: Param | undefined, fallback: Value, time: number, depth = 0): Value {
  if (param === undefined) return fallback;
  if (isKeyed(param)) return param.keys.length ? valueAt(param.keys, time) : fallback;
  if (isLink(param)) {
    if (depth > 32) throw new ShotError(`the parameter "${param.link.param}" is linked to itself in a ring`);
    const target = findStep(shot, param.link.step);
    if (!target) throw new ShotError(`a parameter is linked to a step that no longer exists`);
    const name = param.link.param;
    const of = name === 'mix' ? target.step.mix : target.step.params[name];
    return resolveParam(shot, of, fallback, time, depth + 1);
  }
  return param;
}

/** Keeps a value inside what the definition allows; a value of the wrong kind becomes the default. */
export function admit(d: ParamDefinition, value: Value): Value {
  switch (d.kind) {
    case 'number':
    case 'integer': {
      if (typeof value !== 'number' || !Number.isFinite(value)) return d.default;
      const v = Math.min(Math.max(value, d.min), d.max);
      return d.kind === 'integer' ? Math.round(v) : v;
    }
    case 'toggle':
      return typeof value === 'boolean' ? value : d.default;
    case 'samples':
    case 'strokes':
    case 'reading':
    case 'layer':
    case 'table':
      return typeof value === 'string' ? value : d.default;
    case 'choice':
      return d.options.some((o) => o.value === value) ? value : d.default;
    default:
      return Array.isArray(value) && value.length === d.default.length && value.every((v) => Number.isFinite(v)) ? value : d.default;
  }
}

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
