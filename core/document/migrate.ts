import { ShotError } from '../errors';
import { STEPS } from '../steps';
import { SCHEMA } from './types';

type Json = Record<string, unknown>;
const isObject = (v: unknown): v is Json => typeof v === 'object' && v !== null && !Array.isArray(v);

/** The form of a document: the number behind "ostracon/"; null where it says none. */
export function formOf(json: unknown): number | null {
  const said = isObject(json) && typeof json.schema === 'string' ? /^ostracon\/(\d+)$/.exec(json.schema) : null;
  return said ? Number(said[1]) : null;
}

/** The form that is written now. */
export const FORM = formOf({ schema: SCHEMA })!;

/** Whether a document was written by a later version. */
export const isNewer = (json: unknown): boolean => (formOf(json) ?? 0) > FORM;

/** Up to form 1 lists of samples and strokes were JSON inside a text. A text that is none is left for whoever repairs it. */
function unfold(value: unknown): unknown {
  if (typeof value !== 'string') return value;
  try {
    const list: unknown = value === '' ? [] : JSON.parse(value);
    return Array.isArray(list) ? list : value;
  } catch {
    return value;
  }
}

function stepFrom1(step: unknown): unknown {
  if (!isObject(step) || !isObject(step.params)) return step;
  const schema = STEPS.get(String(step.type))?.params ?? {};
  const params = Object.entries(step.params).map(([name, p]): [string, unknown] => {
    const kind = schema[name]?.kind;
    return [name, kind === 'samples' || kind === 'strokes' ? unfold(p) : p];
  });
  return { ...step, params: Object.fromEntries(params) };
}

/** Up to form 2 all strokes of a paint step did the same, by its effect; since then each has a brush of its own. */
function stepFrom2(step: unknown): unknown {
  if (!isObject(step) || !isObject(step.params) || step.type !== 'paint') return step;
  const { effect = 'colourOnly', ...params } = step.params;
  if (effect === 'matte') return { ...step, params: { ...params, output: 'matte' } };
  const { strokes } = params;
  if (effect === 'colour' || !Array.isArray(strokes)) return { ...step, params };
  return {
    ...step,
    params: { ...params, strokes: strokes.map((s) => (isObject(s) && s.tool === 'paint' ? { ...s, tool: 'tint' } : (s as unknown))) },
  };
}

/** Up to form 3 steps that pin and follow had names of their own for two of the filters. */
function stepFrom3(step: unknown): unknown {
  if (!isObject(step) || !isObject(step.params) || !['cornerPin', 'follow', 'stabilise'].includes(String(step.type))) return step;
  const filter = { cubic: 'catmullRom', linear: 'bilinear' }[String(step.params.filter)];
  return filter ? { ...step, params: { ...step.params, filter } } : step;
}

/** From each form to the next: what a step is there. */
const STEP_FROM: Readonly<Record<number, (step: unknown) => unknown>> = { 1: stepFrom1, 2: stepFrom2, 3: stepFrom3 };

/** Steps of an older form in the form of today, for documents and recipes alike. */
export function migrateSteps(steps: unknown, form: number): unknown {
  if (!Array.isArray(steps)) return steps;
  let list: unknown[] = steps;
  for (let f = form; f < FORM; f++) list = list.map((s) => STEP_FROM[f]?.(s) ?? s);
  return list;
}

/**
 * A document of any older form in the form of today; what is of today, or none, comes back as it is. Every door leads through here:
 * the browser's storage, versions, bundles, files, the command line. Throws ShotError where it is of a later form.
 */
export function migrate(json: unknown): unknown {
  const form = formOf(json);
  if (!isObject(json) || form === null || form === FORM) return json;
  if (form > FORM) {
    throw new ShotError(
      `this shot was written by a later version, for "${String(json.schema)}"; "${SCHEMA}" is the latest form known here`,
    );
  }
  const lanes = Array.isArray(json.lanes)
    ? (json.lanes as unknown[]).map((l) => (isObject(l) ? { ...l, steps: migrateSteps(l.steps, form) } : l))
    : json.lanes;
  return { ...json, schema: SCHEMA, lanes };
}
