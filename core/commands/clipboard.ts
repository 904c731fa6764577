import * as yup from 'yup';
import type { Draft } from 'immer';
import { copyOf } from '../document/copy';
import type { Lane, Param, Shot, Source, Step, Tap, Value, Zone } from '../document';
import {
  FORM,
  LIMITS,
  checkReferences,
  isKeyed,
  isLink,
  lastKnown,
  limitedOf,
  migrateSteps,
  moveTaps,
  name,
  paramsOf,
  stepSchema,
  text,
  unfollowed,
  zoneSchema,
} from '../document';
import type { Reading } from '../readings';
import { ShotError } from '../errors';
import { kindOf, referencesOf, schemaOf } from '../params';
import { STEPS } from '../steps';
import type { Change } from './change';
import { freeName, newId } from './make';

/** A run of steps that can be put into any lane: what they do, without what they were connected to. */
export interface Recipe {
  format: typeof RECIPE;
  name: string;
  steps: Step[];
  /** Zones around some of them. */
  zones?: Zone[];
}

/** Lanes with the sources that they start from and the readings that their steps use. */
export interface LaneClip {
  format: typeof LANES;
  lanes: Lane[];
  sources: Source[];
  readings: Reading[];
}

export const RECIPE = 'ostracon/recipe/2';
export const LANES = 'ostracon/lanes/2';

/** A recipe or lanes of an older form in the form of today; anything else as it is. */
function renew(json: unknown): unknown {
  const { format, ...rest } = (json ?? {}) as { format?: unknown; steps?: unknown; lanes?: unknown };
  const said = typeof format === 'string' ? /^ostracon\/(recipe|lanes)\/(\d+)$/.exec(format) : null;
  const form = Number(said?.[2]);
  if (!said || !(form < FORM)) return json;
  if (said[1] === 'recipe') return { ...rest, format: RECIPE, steps: migrateSteps(rest.steps, form) };
  const lanes = (Array.isArray(rest.lanes) ? rest.lanes : []) as Lane[];
  return { ...rest, format: LANES, lanes: lanes.map((l) => ({ ...l, steps: migrateSteps(l.steps, form) })) };
}

/** What was copied: steps or lanes, of whichever form; null where it is neither. */
export function parseCopied(text: string): Recipe | LaneClip | null {
  const json = renew(JSON.parse(text)) as Recipe | LaneClip | null;
  return json?.format === RECIPE || json?.format === LANES ? json : null;
}

/** Steps of a shot as a recipe. Feeds and masks are left out; a parameter that follows one outside has what that one is now. */
export function recipeOf(shot: Shot, steps: readonly Step[], name: string): Recipe {
  const inside = new Set(steps.map((s) => s.id));
  const loose = (p: Param): Param | undefined => (isLink(p) && !inside.has(p.link.step) ? unfollowed(shot, p) : p);
  const bare = steps.map((s): Step => {
    const params = Object.entries(s.params).flatMap(([key, p]): [string, Param][] => {
      const own = loose(p);
      return own === undefined ? [] : [[key, own]];
    });
    const { mask: _, ...rest } = s;
    return { ...rest, params: Object.fromEntries(params), feeds: {}, mix: loose(s.mix) ?? 1 };
  });
  const zones = shot.lanes
    .flatMap((l) => l.zones ?? [])
    .filter((z) => inside.has(z.first) && inside.has(z.last))
    .map(({ mask: _, ...z }) => ({
      ...z,
      mix: loose(z.mix) ?? 1,
      params: Object.fromEntries(
        Object.entries(z.params).flatMap(([key, p]) => {
          const own = loose(p);
          return own === undefined ? [] : [[key, own]];
        }),
      ),
    }));
  return JSON.parse(JSON.stringify({ format: RECIPE, name, steps: bare, ...(zones.length && { zones }) })) as Recipe;
}

const schema = yup.object({
  format: text().oneOf([RECIPE]),
  name: name().trim(),
  steps: yup.array(stepSchema).min(1).required(),
  zones: yup.array(zoneSchema).optional(),
});

/** Reads a recipe's JSON. Throws ShotError saying what is wrong with it. */
export function parseRecipe(content: string, file: string): Recipe {
  let json: unknown;
  if (content.length > LIMITS.document) throw new ShotError(`${file}: this is no recipe: it is too large`);
  try {
    json = JSON.parse(content);
  } catch {
    throw new ShotError(`${file}: this is no recipe: it is not JSON`);
  }
  try {
    return schema.validateSync(renew(json), { strict: true }) as unknown as Recipe;
  } catch (e) {
    throw new ShotError(`${file}: this is no recipe: ${(e as Error).message}`);
  }
}

/** Steps with other ids; whatever they name that has another id, too, is named by it. */
function renamed<S extends Step>(steps: readonly S[], ids: ReadonlyMap<string, string>): S[] {
  const to = (id: string): string => ids.get(id) ?? id;
  const tap = <T extends Tap>(t: T): T => ({ ...t, lane: to(t.lane), ...(t.after && { after: to(t.after) }) });
  return copyOf(steps as S[]).map((step) => {
    const schema = paramsOf(step);
    const param = (name: string, p: Param): Param => {
      if (isLink(p)) return { link: { ...p.link, step: to(p.link.step) } };
      const d = schema[name];
      return (d && !isKeyed(p) && kindOf(d).remap?.(p, to)) ?? p;
    };
    return {
      ...step,
      id: to(step.id),
      params: Object.fromEntries(Object.entries(step.params).map(([name, p]) => [name, param(name, p)])),
      mix: param('mix', step.mix),
      feeds: Object.fromEntries(Object.entries(step.feeds).map(([name, t]) => [name, tap(t)])),
      ...(step.mask && { mask: tap(step.mask) }),
    };
  });
}

/** A table or a reading of another shot is not to be had here. */
function forget(step: Step, there: ReadonlySet<string>): void {
  const schema = schemaOf(STEPS.get(step.type)?.params, step.params);
  for (const { name } of referencesOf(schema, step.params)) {
    const kind = kindOf(schema[name]!);
    step.params[name] = kind.remap!(step.params[name] as Value, (id) => (there.has(id) ? id : ''));
  }
}

/** Zones with other ids, around the steps that have others now. */
const renamedZones = (zones: readonly Zone[], ids: ReadonlyMap<string, string>): Zone[] =>
  renamed(zones, ids).map((z) => ({ ...z, first: ids.get(z.first) ?? z.first, last: ids.get(z.last) ?? z.last }));

/** Puts a recipe's steps into a lane, after a step of it or at its end. Steps of types that are not known here are refused. */
export const addRecipe =
  (recipe: Recipe, laneId: string, after: string | undefined, made: { steps?: string[] } = {}): Change =>
  (s) => {
    const lane = s.lanes.find((l) => l.id === laneId);
    if (!lane) throw new ShotError('that lane is no longer there');
    const unknown = recipe.steps.find((x) => !STEPS.has(x.type));
    if (unknown) throw new ShotError(`the recipe has a step "${unknown.type}" that is not known here`);
    const ids = new Map([...recipe.steps, ...(recipe.zones ?? [])].map((x) => [x.id, newId()]));
    const steps = renamed(recipe.steps, ids);
    const there = new Set([...s.readings, ...s.sources].map((x) => x.id));
    for (const step of steps) {
      forget(step, there);
      step.name = freeName(
        step.name,
        lane.steps.map((x) => x.name),
      );
      const at = lane.steps.findIndex((x) => x.id === after);
      lane.steps.splice(at < 0 ? lane.steps.length : at + 1, 0, step as Draft<Step>);
      after = step.id;
    }
    const zones = renamedZones(recipe.zones ?? [], ids);
    for (const zone of zones) forget(zone, there);
    if (zones.length) lane.zones = [...(lane.zones ?? []), ...(zones as Draft<Zone>[])];
    made.steps = steps.map((x) => x.id);
    checkReferences(s as Shot);
  };

/** A lane and every lane it needs, with their sources. */
export function clipLane(shot: Shot, laneId: string): LaneClip {
  const wanted = new Set<string>();
  const visit = (id: string): void => {
    const lane = shot.lanes.find((l) => l.id === id);
    if (!lane || wanted.has(id)) return;
    wanted.add(id);
    if ('tap' in lane.start) visit(lane.start.tap.lane);
    for (const s of limitedOf(lane)) for (const t of [...Object.values(s.feeds), ...(s.mask ? [s.mask] : [])]) visit(t.lane);
  };
  visit(laneId);
  const steps = new Set(shot.lanes.flatMap((l) => (wanted.has(l.id) ? l.steps.map((x) => x.id) : [])));
  const remember = (p: Param): Param => {
    if (!isLink(p) || steps.has(p.link.step)) return p;
    const was = lastKnown(shot, p.link);
    return { link: { ...p.link, ...(was !== undefined && { was }) } };
  };
  const lanes = shot.lanes
    .filter((l) => wanted.has(l.id))
    .map((l) => ({
      ...l,
      steps: l.steps.map((x) => ({
        ...x,
        params: Object.fromEntries(Object.entries(x.params).map(([key, p]) => [key, remember(p)])),
        mix: remember(x.mix),
      })),
    }));
  const used = new Set(lanes.flatMap((l) => ('source' in l.start ? [l.start.source] : [])));
  const named = new Set(
    lanes.flatMap((l) => limitedOf(l).flatMap((s) => referencesOf(STEPS.get(s.type)?.params, s.params).map(({ to }) => to.id))),
  );
  return {
    format: LANES,
    lanes,
    sources: shot.sources.filter((s) => used.has(s.id) || named.has(s.id)),
    readings: shot.readings.filter((r) => named.has(r.id)),
  };
}

/**
 * Puts lanes of another shot (or this one) on the board under new ids; a source with the same files and a reading with the same
 * data are used again. A reading that was measured in a lane which did not come along is measured at the start of the first one
 * from now on. What a parameter followed that is not here leaves its value.
 */
export const pasteLanes =
  (clip: LaneClip, made: { lane?: string } = {}): Change =>
  (s) => {
    const content = (x: Source): string => `${x.kind} ${x.frames?.map((f) => f.hash).join('') ?? x.path ?? ''} ${x.colourSpace} ${x.alpha}`;
    const ids = new Map<string, string>();
    for (const source of clip.sources) {
      const same = s.sources.find((x) => content(x as Source) === content(source));
      ids.set(source.id, same?.id ?? newId());
      if (same) continue;
      const name = freeName(
        source.name,
        s.sources.map((x) => x.name),
      );
      s.sources.push({ ...copyOf(source), id: ids.get(source.id)!, name } as Draft<Source>);
    }
    for (const r of clip.readings ?? []) {
      const same = s.readings.find((x) => x.id === r.id && JSON.stringify(x) === JSON.stringify(r));
      ids.set(r.id, same?.id ?? newId());
    }
    for (const lane of clip.lanes) for (const id of [lane.id, ...limitedOf(lane).map((x) => x.id)]) ids.set(id, newId());
    const to = (id: string): string => ids.get(id) ?? id;
    const lanes = clip.lanes.map((lane): Lane => {
      const { start } = lane;
      const from =
        'empty' in start
          ? start
          : 'source' in start
            ? { source: to(start.source) }
            : { tap: { lane: to(start.tap.lane), ...(start.tap.after !== undefined && { after: to(start.tap.after) }) } };
      const zones = lane.zones && { zones: renamedZones(lane.zones, ids) };
      return { ...lane, id: to(lane.id), start: from, steps: renamed(lane.steps, ids), ...zones };
    });
    for (const r of clip.readings ?? []) {
      const id = ids.get(r.id)!;
      if (s.readings.some((x) => x.id === id)) continue;
      const at = <T extends Tap>(tap: T): T => ({ ...tap, lane: to(tap.lane), ...(tap.after && { after: to(tap.after) }) });
      const along = (tap: Tap): boolean => ids.has(tap.lane);
      const own = copyOf(r) as Draft<Reading>;
      moveTaps(own, (tap) => (along(tap) ? at(tap) : null));
      const name = freeName(
        r.name,
        s.readings.map((x) => x.name),
      );
      const from = along(r.from) ? at(r.from) : { lane: lanes[0]!.id, after: '' };
      s.readings.push({ ...own, id, name, from });
    }
    const here = new Set([...s.lanes, ...lanes].flatMap((l) => l.steps.map((x) => x.id)));
    for (const step of lanes.flatMap((l) => l.steps)) {
      for (const [key, p] of Object.entries(step.params)) {
        if (!isLink(p) || here.has(p.link.step)) continue;
        if (p.link.was === undefined) delete step.params[key];
        else step.params[key] = p.link.was;
      }
      if (isLink(step.mix) && !here.has(step.mix.link.step)) step.mix = step.mix.link.was ?? 1;
    }
    for (const lane of lanes) {
      lane.name = freeName(
        lane.name,
        s.lanes.map((l) => l.name),
      );
    }
    s.lanes.unshift(...(lanes as Draft<Lane>[]));
    s.result ??= lanes[lanes.length - 1]?.id ?? null;
    made.lane = lanes[0]!.id;
    checkReferences(s as Shot);
  };
