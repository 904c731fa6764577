import { readingSchema } from './reading-schema';
import { SPACE_NAMES } from '../colour/spaces';
import * as yup from 'yup';
import { ShotError } from '../errors';
import { findCycle, laneOf, tapsOf } from './graph';
import type { Shot } from './types';
import { NOTE_COLOURS, SCHEMA } from './types';

const id = () => yup.string().strict().required().min(1).max(200);
const name = () => yup.string().strict().required().min(1).max(200);
const whole = () => yup.number().strict().required().integer();

const isValue = (v: unknown): boolean =>
  typeof v === 'boolean' ||
  typeof v === 'string' ||
  (typeof v === 'number' && Number.isFinite(v)) ||
  (Array.isArray(v) && v.length <= 64 && v.every((x) => typeof x === 'number' && Number.isFinite(x)));

const isPair = (v: unknown): boolean => v === undefined || (isValue(v) && Array.isArray(v) && v.length === 2);

function paramProblem(v: unknown): string | null {
  if (isValue(v)) return null;
  if (typeof v !== 'object' || v === null) return 'is neither a value, keys nor a link';
  const o = v as Record<string, unknown>;
  if (Array.isArray(o.keys)) {
    let last = -Infinity;
    for (const k of o.keys as Record<string, unknown>[]) {
      if (!Number.isInteger(k?.frame)) return 'has a key whose frame is not a whole number';
      if ((k.frame as number) <= last) return `has keys out of order at frame ${String(k.frame)}`;
      last = k.frame as number;
      if (!isValue(k.value)) return `has a key at frame ${last} without a value`;
      if (!['hold', 'linear', 'smooth'].includes(k.ease as string)) return `has a key at frame ${last} with an unknown ease`;
      if (!isPair(k.before) || !isPair(k.after)) return `has a key at frame ${last} with a wrong tangent`;
    }
    return null;
  }
  const link = o.link as Record<string, unknown> | undefined;
  return typeof link?.step === 'string' && typeof link.param === 'string' ? null : 'is neither a value, keys nor a link';
}

const param = () =>
  yup.mixed().test('param', (v, ctx) => {
    const problem = v === undefined ? 'is missing' : paramProblem(v);
    return problem ? ctx.createError({ message: `${ctx.path} ${problem}` }) : true;
  });

/** An object whose values all pass the given schema. */
const record = (of: () => yup.Schema) =>
  yup.lazy((value: unknown) =>
    typeof value === 'object' && value !== null && !Array.isArray(value)
      ? yup.object(Object.fromEntries(Object.keys(value).map((k) => [k, of()])))
      : yup.object().required(),
  );

const tapFields = { lane: id(), after: yup.string().strict().optional() };
const tap = () => yup.object(tapFields).required();

const format = yup
  .object({
    width: whole().min(1).max(32768),
    height: whole().min(1).max(32768),
    pixelAspect: yup.number().strict().required().moreThan(0).max(10),
  })
  .required();

const step = yup.object({
  id: id(),
  type: id(),
  name: name(),
  on: yup.boolean().strict().required(),
  params: record(param),
  feeds: record(tap),
  mask: yup
    .object({ ...tapFields, channel: id(), invert: yup.boolean().strict().required() })
    .default(undefined)
    .optional(),
  mix: param(),
});

const lane = yup.object({
  id: id(),
  name: name(),
  start: yup.lazy((value: unknown) =>
    typeof value === 'object' && value !== null && 'tap' in value
      ? yup.object({ tap: tap() }).required()
      : yup.object({ source: id() }).required(),
  ),
  steps: yup.array(step).required(),
  muted: yup.boolean().strict().required(),
  collapsed: yup.boolean().strict().required(),
  locked: yup.boolean().strict().optional(),
});

const file = {
  hash: yup
    .string()
    .strict()
    .required()
    .matches(/^[0-9a-f]{64}$/),
  name: name(),
  bounds: yup.array(whole()).length(4).optional(),
};

const source = yup.object({
  id: id(),
  name: name(),
  kind: yup.string().strict().oneOf(['sequence', 'still', 'movie', 'lut']).required(),
  frames: yup
    .array(
      yup.object({
        frame: whole(),
        ...file,
        parts: yup.array(yup.object({ layer: yup.string().strict().defined(), ...file })).optional(),
        size: yup.array(whole()).length(2).optional(),
      }),
    )
    .optional(),
  path: yup.string().strict().optional(),
  format,
  channels: yup.array(id()).required(),
  container: yup.string().strict().required(),
  colourSpace: yup.string().strict().oneOf(SPACE_NAMES).required(),
  colourReason: yup.string().strict().optional(),
  alpha: yup.string().strict().oneOf(['premultiplied', 'straight', 'ignore', 'luma']).required(),
  missing: yup.string().strict().oneOf(['error', 'hold', 'black']).required(),
  start: whole(),
  length: yup.number().strict().integer().min(1).optional(),
  trim: yup.object({ first: whole(), last: whole() }).default(undefined).optional(),
  rate: yup.number().strict().moreThan(0).max(1000).optional(),
  duration: yup.number().strict().integer().min(1).optional(),
  types: record(() => yup.string().strict().oneOf(['float', 'uint']).required()).optional(),
  alphaDoubt: yup.string().strict().optional(),
  attributes: yup.array(yup.array(yup.string().strict().defined()).length(2)).optional(),
});

const shot = yup.object({
  schema: yup.string().strict().oneOf([SCHEMA]).required(),
  id: id(),
  name: name(),
  format,
  frameRate: yup.number().strict().required().moreThan(0).max(1000),
  range: yup.object({ first: whole(), last: whole() }).required(),
  sources: yup.array(source).required(),
  lanes: yup.array(lane).required(),
  result: yup.string().strict().nullable().defined(),
  readings: yup.array(readingSchema).required(),
  notes: yup
    .array(
      yup.object({
        id: id(),
        frame: whole(),
        last: yup.number().strict().integer().optional(),
        text: yup.string().strict().defined(),
        colour: yup.string().strict().oneOf(NOTE_COLOURS).optional(),
        done: yup.boolean().strict().optional(),
        at: yup.array(yup.number().strict().required()).length(2).optional(),
      }),
    )
    .required(),
});

/**
 * Checks a document read from anywhere and returns it as a shot. Throws ShotError with every problem in words, the path of
 * the place included.
 */
export function parseShot(json: unknown): Shot {
  const given = (json as { schema?: unknown } | null)?.schema;
  if (typeof json !== 'object' || json === null || given === undefined) {
    throw new ShotError('this is not a shot document: it has no "schema"');
  }
  if (given !== SCHEMA) {
    throw new ShotError(`this shot was written for "${String(given)}", and only "${SCHEMA}" is known here`);
  }
  let doc: Shot;
  try {
    doc = shot.validateSync(json, { abortEarly: false, stripUnknown: false }) as unknown as Shot;
  } catch (e) {
    const errors = (e as yup.ValidationError).errors ?? [String(e)];
    const more = errors.length > 6 ? ` (and ${errors.length - 6} more)` : '';
    throw new ShotError(`the shot document is wrong: ${errors.slice(0, 6).join('; ')}${more}`);
  }
  checkReferences(doc);
  return doc;
}

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
    l.steps.forEach((s) => once('step', s.id));
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
    else if (!doc.sources.some((s) => s.id === start.source)) {
      throw new ShotError(`lane "${l.name}" starts from a source "${start.source}" that does not exist`);
    }
    for (const s of l.steps) {
      for (const { tap: t, use } of tapsOf(s)) known(t.lane, `"${use}" of ${l.name} ▸ ${s.name}`);
    }
  }
  const cycle = findCycle(doc);
  if (cycle) throw new ShotError(`lanes feed each other in a ring: ${cycle.join(' ← ')}`);
}
