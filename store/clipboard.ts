import * as yup from 'yup';
import type { Draft } from 'immer';
import { checkReferences } from '@/core/document/schema';
import { isLink } from '@/core/document/params';
import type { Lane, Shot, Source, Step, Tap } from '@/core/document/types';
import { ShotError } from '@/core/errors';
import { tableParams } from '@/core/param';
import { STEPS } from '@/core/steps';
import type { Change } from './commands';
import { freeName, newId } from './make';

/** A run of steps that can be put into any lane: what they do, without what they were connected to. */
export interface Recipe {
  format: typeof RECIPE;
  name: string;
  steps: Step[];
}

/** Lanes with the sources that they start from. */
export interface LaneClip {
  format: typeof LANES;
  lanes: Lane[];
  sources: Source[];
}

export const RECIPE = 'ostracon/recipe/1';
export const LANES = 'ostracon/lanes/1';

/** Steps as a recipe; what feeds, masks and links name outside of them is left out. */
export function recipeOf(steps: readonly Step[], name: string): Recipe {
  const inside = new Set(steps.map((s) => s.id));
  const bare = steps.map((s): Step => {
    const params = Object.fromEntries(Object.entries(s.params).filter(([, p]) => !isLink(p) || inside.has(p.link.step)));
    const { mask: _, ...rest } = s;
    return { ...rest, params, feeds: {} };
  });
  return JSON.parse(JSON.stringify({ format: RECIPE, name, steps: bare })) as Recipe;
}

const schema = yup.object({
  format: yup.string().oneOf([RECIPE]).required(),
  name: yup.string().trim().required().max(200),
  steps: yup
    .array(
      yup.object({
        id: yup.string().required(),
        type: yup.string().required(),
        name: yup.string().required().max(200),
        on: yup.boolean().required(),
        params: yup.object().required(),
        feeds: yup.object().required(),
        mix: yup.mixed().required(),
      }),
    )
    .min(1)
    .required(),
});

/** Reads a recipe's JSON. Throws ShotError saying what is wrong with it. */
export function parseRecipe(text: string, file: string): Recipe {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    throw new ShotError(`${file}: this is no recipe: it is not JSON`);
  }
  try {
    return schema.validateSync(json, { strict: true }) as unknown as Recipe;
  } catch (e) {
    throw new ShotError(`${file}: this is no recipe: ${(e as Error).message}`);
  }
}

/** Steps with other ids; whatever they name that has another id, too, is named by it. */
function renamed(steps: readonly Step[], ids: ReadonlyMap<string, string>): Step[] {
  const to = (id: string): string => ids.get(id) ?? id;
  const tap = <T extends Tap>(t: T): T => ({ ...t, lane: to(t.lane), ...(t.after && { after: to(t.after) }) });
  return structuredClone(steps as Step[]).map((step) => {
    const tables = tableParams(STEPS.get(step.type)?.params);
    return {
      ...step,
      id: to(step.id),
      params: Object.fromEntries(
        Object.entries(step.params).map(([name, p]) => {
          if (isLink(p)) return [name, { link: { ...p.link, step: to(p.link.step) } }];
          return [name, tables.includes(name) ? to(String(p)) : p];
        }),
      ),
      feeds: Object.fromEntries(Object.entries(step.feeds).map(([name, t]) => [name, tap(t)])),
      ...(step.mask && { mask: tap(step.mask) }),
    };
  });
}

const renewed = (steps: readonly Step[]): Step[] => renamed(steps, new Map(steps.map((s) => [s.id, newId()])));

/** Puts a recipe's steps into a lane, after a step of it or at its end. Steps of types that are not known here are refused. */
export const addRecipe =
  (recipe: Recipe, laneId: string, after: string | undefined, made: { steps?: string[] } = {}): Change =>
  (s) => {
    const lane = s.lanes.find((l) => l.id === laneId);
    if (!lane) throw new ShotError('that lane is no longer there');
    const unknown = recipe.steps.find((x) => !STEPS.has(x.type));
    if (unknown) throw new ShotError(`the recipe has a step "${unknown.type}" that is not known here`);
    const steps = renewed(recipe.steps);
    for (const step of steps) {
      step.name = freeName(
        step.name,
        lane.steps.map((x) => x.name),
      );
      const at = lane.steps.findIndex((x) => x.id === after);
      lane.steps.splice(at < 0 ? lane.steps.length : at + 1, 0, step as Draft<Step>);
      after = step.id;
    }
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
    for (const s of lane.steps) for (const t of [...Object.values(s.feeds), ...(s.mask ? [s.mask] : [])]) visit(t.lane);
  };
  visit(laneId);
  const lanes = shot.lanes.filter((l) => wanted.has(l.id));
  const used = new Set(lanes.flatMap((l) => ('source' in l.start ? [l.start.source] : [])));
  const tables = new Set(
    lanes.flatMap((l) => l.steps.flatMap((s) => tableParams(STEPS.get(s.type)?.params).map((name) => s.params[name]))),
  );
  return { format: LANES, lanes, sources: shot.sources.filter((s) => used.has(s.id) || tables.has(s.id)) };
}

/** Puts lanes of another shot (or this one) on the board under new ids; a source with the same files is used again. */
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
      s.sources.push({ ...structuredClone(source), id: ids.get(source.id)!, name } as Draft<Source>);
    }
    for (const lane of clip.lanes) for (const id of [lane.id, ...lane.steps.map((x) => x.id)]) ids.set(id, newId());
    const to = (id: string): string => ids.get(id) ?? id;
    const lanes = clip.lanes.map((lane): Lane => {
      const { start } = lane;
      const from =
        'source' in start
          ? { source: to(start.source) }
          : { tap: { lane: to(start.tap.lane), ...(start.tap.after !== undefined && { after: to(start.tap.after) }) } };
      return { ...lane, id: to(lane.id), start: from, steps: renamed(lane.steps, ids) };
    });
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
