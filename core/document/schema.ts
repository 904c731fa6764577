import * as yup from 'yup';
import { SPACE_NAMES } from '../colour/spaces';
import { ShotError } from '../errors';
import { fileName, finite, flag, frame, id, name, once, pass, real, whole } from './fields';
import { isStructured } from '../params/kind';
import { kindOf } from '../params/kinds';
import { schemaOf } from '../params/parts';
import { STEPS } from '../steps';
import type { PassRole } from '../passes/roles';
import { PASS_ROLES } from '../passes/roles';
import { migrate } from './migrate';
import { LIMITS } from './limits';
import { readingSchema } from '../readings/kinds';
import { checkReferences } from './references';
import type { Shot, Step } from './types';
import { NOTE_COLOURS, SCHEMA } from './types';

const isValue = (v: unknown): boolean =>
  typeof v === 'boolean' || typeof v === 'string' || (typeof v === 'number' && Number.isFinite(v)) || isNumberList(v);
const isNumberList = (v: unknown): v is number[] =>
  Array.isArray(v) && v.length <= 64 && v.every((x) => typeof x === 'number' && Number.isFinite(x));

type Json = Record<string, unknown>;
const isObject = (v: unknown): v is Json => typeof v === 'object' && v !== null && !Array.isArray(v);

/** Frames, and a value for each number of the key's. */
const isHandle = (v: unknown, of: unknown): boolean =>
  v === undefined || (isValue(v) && Array.isArray(v) && v.length === 1 + (Array.isArray(of) ? of.length : 1));

/** What is wrong with a parameter as a document keeps it, or null. */
export function paramProblem(v: unknown): string | null {
  if (isValue(v)) return null;
  if (isStructured(v)) return v.length <= LIMITS.things ? null : `holds more than ${LIMITS.things} things`;
  if (typeof v !== 'object' || v === null) return 'is neither a value, keys nor a link';
  const o = v as Record<string, unknown>;
  if (Array.isArray(o.keys)) {
    let last = -Infinity;
    for (const k of o.keys as Record<string, unknown>[]) {
      if (!Number.isInteger(k?.frame)) return 'has a key whose frame is not a whole number';
      if (Math.abs(k.frame as number) > LIMITS.frame) return `has a key beyond frame ±${LIMITS.frame}`;
      if ((k.frame as number) <= last) return `has keys out of order at frame ${String(k.frame)}`;
      last = k.frame as number;
      if (!isValue(k.value)) return `has a key at frame ${last} without a value`;
      if (!['hold', 'linear', 'smooth'].includes(k.ease as string)) return `has a key at frame ${last} with an unknown ease`;
      if (!isHandle(k.before, k.value) || !isHandle(k.after, k.value)) return `has a key at frame ${last} with a wrong tangent`;
    }
    return null;
  }
  const link = o.link as Record<string, unknown> | undefined;
  if (typeof link?.step !== 'string' || typeof link.param !== 'string') return 'is neither a value, keys nor a link';
  const was = link.was as Record<string, unknown> | undefined;
  if (was !== undefined && (was === null || (typeof was === 'object' && 'link' in was) || paramProblem(was) !== null)) {
    return 'keeps a wrong value of what it followed';
  }
  return null;
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
    width: whole().min(1).max(LIMITS.side),
    height: whole().min(1).max(LIMITS.side),
    pixelAspect: real().min(LIMITS.pixelAspect.min).max(LIMITS.pixelAspect.max),
  })
  .required();

/** A parameter that its step does not have, or whose list is damaged. Steps of types that are not known here are kept as they are. */
function paramTrouble({ type, params }: Pick<Step, 'type' | 'params'>): { name: string; message: string } | null {
  const own = STEPS.get(type)?.params;
  if (!own || !isObject(params)) return null;
  const schema = schemaOf(own, params as Step['params']);
  for (const [name, value] of Object.entries(params)) {
    const d = schema[name];
    if (!d) return { name, message: `${name} is no parameter of this step` };
    // What else is of the wrong kind becomes the default.
    // What it follows is looked at where that is.
    if (isObject(value) && 'link' in value) continue;
    const problem = kindOf(d).problem?.(value);
    if (problem) return { name, message: `${name}: ${problem}` };
  }
  return null;
}

function knownParams(step: unknown, ctx: yup.TestContext): true | yup.ValidationError {
  const wrong = paramTrouble(step as Pick<Step, 'type' | 'params'>);
  return wrong ? ctx.createError({ path: `${ctx.path ? `${ctx.path}.` : ''}params.${wrong.name}`, message: wrong.message }) : true;
}

/** A step as a document and a recipe keep it. */
const stepFields = {
  id: id(),
  type: id(),
  name: name(),
  on: flag().required(),
  params: record(param),
  feeds: record(tap),
  mask: yup
    .object({ ...tapFields, channel: id(), invert: flag().required() })
    .default(undefined)
    .optional(),
  mix: param(),
};
export const stepSchema = yup.object(stepFields).test('params', knownParams);

/** A zone of a lane or a recipe. */
export const zoneSchema = yup
  .object({ ...stepFields, type: yup.string().strict().oneOf(['zone']).required(), first: id(), last: id() })
  .test('params', knownParams);

const lane = yup.object({
  id: id(),
  name: name(),
  start: yup.lazy((value: unknown) =>
    isObject(value) && 'tap' in value
      ? yup.object({ tap: tap() }).required()
      : isObject(value) && 'empty' in value
        ? yup.object({ empty: yup.boolean().strict().oneOf([true]).required() }).required()
        : yup.object({ source: id() }).required(),
  ),
  steps: yup.array(once(stepSchema)).required(),
  zones: yup.array(once(zoneSchema)).optional(),
  muted: flag().required(),
  collapsed: flag().required(),
  locked: flag().optional(),
});

const file = {
  hash: yup
    .string()
    .strict()
    .required()
    .matches(/^[0-9a-f]{64}$/, '${path} is not a SHA-256 in hex'),
  name: fileName(),
  bounds: yup.array(whole()).length(4).optional(),
};

const mediaFrame = yup.object({
  frame: frame(),
  ...file,
  parts: yup.array(yup.object({ layer: yup.string().strict().defined(), ...file })).optional(),
  size: yup.array(whole()).length(2).optional(),
});

const passNote = yup.object({
  role: yup
    .string()
    .strict()
    .oneOf(Object.keys(PASS_ROLES) as PassRole[])
    .required(),
  facts: yup
    .object({
      along: yup.string().strict().oneOf(['view', 'ray']).optional(),
      as: yup.string().strict().oneOf(['distance', 'inverse', 'nearness']).optional(),
      from: yup.array(real()).length(2).optional(),
      nothing: finite().optional(),
      space: yup.string().strict().oneOf(['world', 'camera']).optional(),
      turned: yup
        .string()
        .strict()
        .matches(/^x?y?z?$/)
        .optional(),
      packed: flag().optional(),
      times: yup.string().strict().optional(),
      unit: yup.string().strict().oneOf(['px', 'frame', 'half']).optional(),
      towards: yup.string().strict().oneOf(['next', 'previous']).optional(),
    })
    .default(undefined)
    .optional(),
  reason: yup.string().strict().optional(),
  doubt: yup.string().strict().optional(),
});

const source = yup.object({
  id: id(),
  name: name(),
  kind: yup.string().strict().oneOf(['sequence', 'still', 'movie', 'lut', 'model']).required(),
  frames: yup.array(once(mediaFrame)).optional(),
  path: yup.string().strict().optional(),
  format,
  channels: yup.array(fileName()).required(),
  container: yup.string().strict().required(),
  colourSpace: yup.string().strict().oneOf(SPACE_NAMES).required(),
  colourReason: yup.string().strict().optional(),
  alpha: yup.string().strict().oneOf(['premultiplied', 'straight', 'ignore', 'luma']).required(),
  missing: yup.string().strict().oneOf(['error', 'hold', 'black']).required(),
  start: frame(),
  length: finite().integer().min(1).optional(),
  trim: yup.object({ first: frame(), last: frame() }).default(undefined).optional(),
  rate: finite().moreThan(0).max(LIMITS.rate).optional(),
  duration: finite().integer().min(1).max(LIMITS.frame).optional(),
  types: record(() => yup.string().strict().oneOf(['float', 'uint']).required()).optional(),
  alphaDoubt: yup.string().strict().optional(),
  passes: record(() => passNote).optional(),
  attributes: yup.array(yup.array(yup.string().strict().defined()).length(2)).optional(),
});

const note = yup.object({
  id: id(),
  frame: frame(),
  last: finite().integer().max(LIMITS.frame).optional(),
  text: yup.string().strict().defined(),
  colour: yup.string().strict().oneOf(NOTE_COLOURS).optional(),
  done: flag().optional(),
  at: yup.array(real()).length(2).optional(),
});

const shot = yup.object({
  schema: yup.string().strict().oneOf([SCHEMA]).required(),
  id: id(),
  name: name(),
  format,
  frameRate: real().moreThan(0).max(LIMITS.rate),
  range: yup
    .object({ first: frame(), last: frame() })
    .required()
    .test(
      'long',
      `\${path} has more than ${LIMITS.range} frames`,
      (r) => !(typeof r?.last === 'number' && typeof r.first === 'number' && r.last - r.first >= LIMITS.range),
    ),
  sources: yup.array(once(source)).required(),
  lanes: yup.array(once(lane)).required(),
  result: yup.string().strict().nullable().defined(),
  readings: yup.array(once(readingSchema)).required(),
  notes: yup.array(once(note)).required(),
});

/** A wrong place of a document: its path ("lanes[0].steps[1].name"), and what is wrong in words that begin with the end of that path. */
export interface Problem {
  path: string;
  message: string;
}

/** Problems that are looked for: who has that many is not helped by more, and a damaged file may have millions. */
const MOST_PROBLEMS = 200;

/** The lists of a document with the schema of what is in them, and the list inside of that. */
const PARTS: readonly { list: string; of: yup.Schema | yup.Lazy<unknown>; inner?: { list: string; of: yup.Schema | yup.Lazy<unknown> } }[] =
  [
    { list: 'sources', of: source, inner: { list: 'frames', of: mediaFrame } },
    { list: 'lanes', of: lane, inner: { list: 'steps', of: stepSchema } },
    { list: 'readings', of: readingSchema },
    { list: 'notes', of: note },
  ];

function collect(found: Problem[], schema: yup.Schema | yup.Lazy<unknown>, value: unknown, at: string): void {
  try {
    (schema as yup.Schema).validateSync(value, { abortEarly: false, strict: true });
  } catch (e) {
    const { inner, path, message } = e as yup.ValidationError;
    const all = inner?.length ? inner : [{ path, message }];
    for (const p of all) found.push({ path: [at, p.path].filter(Boolean).join('.').replace('.[', '['), message: p.message });
  }
}

/** A list of more things than any shot has: it would take gigabytes to look through. */
function tooMany(json: unknown): Problem | null {
  const over = (owner: unknown, list: string, at: string): Problem | null => {
    const things = isObject(owner) ? owner[list] : undefined;
    const most = list === 'frames' ? LIMITS.frames : LIMITS.things;
    const path = at ? `${at}.${list}` : list;
    return Array.isArray(things) && things.length > most ? { path, message: `${list} holds more than ${most} things` } : null;
  };
  for (const { list, inner } of [...PARTS, { list: 'readings', inner: { list: 'frames' } }]) {
    const much = over(json, list, '');
    if (much) return much;
    const parts = isObject(json) && Array.isArray(json[list]) ? (json[list] as unknown[]) : [];
    for (let i = 0; inner && i < parts.length; i++) {
      const inside = over(parts[i], inner.list, `${list}[${i}]`);
      if (inside) return inside;
    }
  }
  return null;
}

/**
 * What is wrong with the fields of a document, up to a number of problems; whether they refer to each other rightly is
 * `checkReferences`'. A part that is right is looked at once.
 */
export function problemsOf(json: unknown): Problem[] {
  const much = tooMany(json);
  if (much) return [much];
  try {
    shot.validateSync(json, { abortEarly: true, strict: true });
    return [];
  } catch (e) {
    if (!isObject(json)) return [{ path: '', message: (e as Error).message }];
  }
  const found: Problem[] = [];
  const lists = Object.fromEntries(PARTS.map(({ list }) => [list, Array.isArray(json[list]) ? [] : json[list]]));
  collect(found, shot, { ...json, ...lists }, '');
  for (const { list, of, inner } of PARTS) {
    const parts: unknown[] = Array.isArray(json[list]) ? (json[list] as unknown[]) : [];
    for (let i = 0; i < parts.length && found.length < MOST_PROBLEMS; i++) {
      const part = parts[i];
      const inside = inner && isObject(part) && Array.isArray(part[inner.list]) ? (part[inner.list] as unknown[]) : null;
      collect(found, of, inside ? { ...(part as Json), [inner!.list]: [] } : part, `${list}[${i}]`);
      for (let k = 0; inside && k < inside.length && found.length < MOST_PROBLEMS; k++) {
        collect(found, inner!.of, inside[k], `${list}[${i}].${inner!.list}[${k}]`);
      }
    }
  }
  return found.slice(0, MOST_PROBLEMS);
}

/** A problem with the things of its path by their names: 'the step "Blur" of the lane "keeper": mix is missing'. */
export function tellProblem(json: unknown, { path, message }: Problem): string {
  const words: string[] = [];
  let at = json as Json | undefined;
  let rest = path;
  for (;;) {
    const found = /^(\w+)\[(\d+)\]\.?/.exec(rest);
    const kind = found && KINDS[found[1]!];
    if (!found || !kind) break;
    const list = at?.[found[1]!];
    const thing = Array.isArray(list) ? (list[Number(found[2])] as unknown) : undefined;
    at = isObject(thing) ? thing : undefined;
    words.unshift(`the ${kind} ${typeof at?.name === 'string' ? `"${at.name.slice(0, 60)}"` : `number ${Number(found[2]) + 1}`}`);
    rest = rest.slice(found[0].length);
  }
  // What is wrong is named once: by the message where that begins with it.
  const said = message.startsWith('this ') ? message.replace('this', rest || 'it') : message;
  return words.length === 0 ? said : `${words.join(' of ')}: ${said}`;
}

const KINDS: Record<string, string> = {
  sources: 'source',
  frames: 'frame',
  lanes: 'lane',
  steps: 'step',
  readings: 'reading',
  notes: 'note',
};

/** Throws ShotError with every problem in words. */
function refuse(json: unknown, what: string): void {
  const problems = problemsOf(json);
  if (problems.length === 0) return;
  const more = problems.length > 6 ? ` (and ${problems.length - 6} more)` : '';
  const told = problems.slice(0, 6).map((p) => tellProblem(json, p));
  throw new ShotError(`${what}: ${told.join('; ')}${more}`);
}

/** Checks a document read from anywhere, of this form or an older one, and returns it as a shot of this form. Throws ShotError with every problem in words. */
export function parseShot(json: unknown): Shot {
  const given = (json as { schema?: unknown } | null)?.schema;
  if (typeof json !== 'object' || json === null || given === undefined) {
    throw new ShotError('this is not a shot document: it has no "schema"');
  }
  const doc = migrate(json) as Shot;
  if (doc.schema !== SCHEMA) throw new ShotError(`this was written for "${String(given)}", which is no form of a shot that is known here`);
  refuse(doc, 'the shot document is wrong');
  checkReferences(doc);
  return doc;
}

/** Throws ShotError where a changed shot could not be opened again. Frozen parts that were right before are not looked at. */
export function checkShot(shot: Shot): void {
  refuse(shot, 'this cannot be kept');
  checkReferences(shot);
  for (const list of [shot.sources, shot.lanes, shot.readings, shot.notes]) list.forEach(pass);
  for (const { frames } of shot.sources) frames?.forEach(pass);
  for (const { steps } of shot.lanes) steps.forEach(pass);
  for (const { frames } of shot.readings) frames.forEach(pass);
}
