import * as yup from 'yup';
import type { Param } from '../document/types';
import type { FeedDefinition, ParamDefinition, ParamSchema, PartsParam } from '../param';
import { listOf } from './list-of';
import type { Part } from './part';

export type { Part } from './part';

const item = yup
  .object({
    id: yup
      .string()
      .required()
      .matches(/^[\w-]{1,64}$/),
    name: yup.string().required().max(200),
  })
  .required();

const DAMAGED = 'its list is damaged; reset it';
const listed = listOf<Part>(item, DAMAGED);

/** The parts of a parameter, their ids once each. Throws ShotError where it has none. */
export function checkParts(value: unknown): readonly Part[] {
  const seen = new Set<string>();
  // One that is named twice would have its parameters twice.
  return listed(value).filter(({ id }) => !seen.has(id) && seen.add(id));
}

/** The name of a parameter of a part. */
export const partKey = (part: string, name: string): string => `${part}.${name}`;

/** By schema: asked for at each plan of each step. */
const partLists = new WeakMap<ParamSchema, [string, PartsParam][]>();
function lists(schema: ParamSchema): [string, PartsParam][] {
  let found = partLists.get(schema);
  if (!found) {
    found = Object.entries(schema).filter((entry): entry is [string, PartsParam] => entry[1].kind === 'parts');
    partLists.set(schema, found);
  }
  return found;
}

const partsIn = (value: Param | undefined, d: PartsParam): readonly Part[] =>
  Array.isArray(value) ? (value as unknown as readonly Part[]) : d.default;

/** By schema and list: the same object each time, so that what is drawn from it is drawn once. */
const known = new WeakMap<ParamSchema, WeakMap<object, ParamSchema>>();
const NONE: ParamSchema = {};

/** All parameters of a step: those of its definition, and those of each of its parts as they are listed in `params`. */
export function schemaOf(schema: ParamSchema | undefined, params: Readonly<Record<string, Param>>): ParamSchema {
  if (!schema) return NONE;
  let full = schema;
  for (const [name, d] of lists(schema)) {
    const parts = partsIn(params[name], d);
    let byList = known.get(full);
    if (!byList) known.set(full, (byList = new WeakMap()));
    let made = byList.get(parts);
    if (!made) byList.set(parts, (made = { ...full, ...Object.fromEntries(parts.flatMap((part) => ofPart(part, d.item))) }));
    full = made;
  }
  return full;
}

function ofPart(part: Part, schema: ParamSchema): [string, ParamDefinition][] {
  return Object.entries(schema).map(([name, d]) => {
    const when = d.when && Object.fromEntries(Object.entries(d.when).map(([other, allowed]) => [partKey(part.id, other), allowed]));
    return [partKey(part.id, name), { ...d, title: `${part.name}: ${d.title.toLowerCase()}`, ...(when && { when }) }];
  });
}

/** All feeds of a step: those of its definition, and those of each of its parts. */
export function feedsOf(
  { params: schema, feeds }: { params: ParamSchema; feeds: readonly FeedDefinition[] },
  params: Readonly<Record<string, Param>>,
): readonly FeedDefinition[] {
  const more = lists(schema).flatMap(([name, d]) =>
    partsIn(params[name], d).flatMap((part) => (d.feeds ?? []).map((f) => ({ ...f, name: partKey(part.id, f.name) }))),
  );
  return more.length ? [...feeds, ...more] : feeds;
}

/** Puts the values of parts into their lists: `{ parts: [{ id, name, gain }] }` in the place of `a.gain`. */
export function gatherParts(schema: ParamSchema, values: Record<string, unknown>): void {
  for (const [name, d] of lists(schema)) {
    values[name] = (values[name] as readonly Part[]).map((part) => {
      const own: Record<string, unknown> = { id: part.id, name: part.name };
      for (const field of Object.keys(d.item)) {
        own[field] = values[partKey(part.id, field)];
        delete values[partKey(part.id, field)];
      }
      return own;
    });
  }
}

/** Names of parameters that belong to a part which is no longer listed. */
export function strayParams(schema: ParamSchema | undefined, params: Readonly<Record<string, Param>>): string[] {
  if (!schema || lists(schema).length === 0) return [];
  const full = schemaOf(schema, params);
  return Object.keys(params).filter((name) => name.includes('.') && !full[name]);
}
