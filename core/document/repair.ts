import { ShotError, messageOf } from '../errors';
import { findCycle, laneOf } from './graph';
import { LIMITS, fitName } from './limits';
import { migrate } from './migrate';
import { linkedParams } from './references';
import { linksInRing } from './params';
import type { Problem } from './schema';
import { parseShot, problemsOf, tellProblem } from './schema';
import { tapPlaces, tellPlace } from './taps';
import type { Shot } from './types';
import { zoneTrouble } from './zones';
import { SCHEMA } from './types';

export interface Repaired {
  shot: Shot;
  /** What was wrong, and what was done about it. */
  done: string[];
}

type Json = Record<string, unknown>;

/** Rounds of looking and mending: a thing that is mended may show another fault. */
const MOST_ROUNDS = 40;

const isObject = (v: unknown): v is Json => typeof v === 'object' && v !== null && !Array.isArray(v);
const LISTS = ['sources', 'lanes', 'readings', 'notes'] as const;

/**
 * A document that `parseShot` refuses, with what is wrong taken out: the smallest thing that holds the fault goes, the rest
 * stays as it is. Throws ShotError where it is no shot at all, or one of a later version.
 */
export function repairShot(json: unknown): Repaired {
  if (!isObject(json) || !LISTS.some((l) => Array.isArray(json[l])))
    throw new ShotError('this is not a shot document: nothing of it can be kept');
  return mendWhole(JSON.parse(JSON.stringify(migrate(json))) as Json);
}

/**
 * What is known here of a document that a later version wrote, with what was left out. It is for looking only: saved it would lose
 * that. Throws ShotError where nothing of it can be shown.
 */
export function readNewer(json: unknown): Repaired {
  if (!isObject(json)) throw new ShotError('this is not a shot document');
  const said = String(json.schema);
  const { shot, done } = mendWhole({ ...(JSON.parse(JSON.stringify(json)) as Json), schema: SCHEMA });
  return { shot, done: [`it was written by a later version ("${said}")`, ...done] };
}

function mendWhole(doc: Json): Repaired {
  const done = settleTop(doc);
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const problems = problemsOf(doc);
    if (problems.length === 0) break;
    done.push(...mendAll(doc, problems));
  }
  try {
    mendReferences(doc as unknown as Shot, done);
    return { shot: parseShot(doc), done: [...new Set(done)] };
  } catch (e) {
    throw new ShotError(`this shot cannot be repaired: ${messageOf(e)}`);
  }
}

/** The fields that every shot has. */
function settleTop(doc: Json): string[] {
  const done: string[] = [];
  if (doc.schema !== SCHEMA) done.push('it did not say what it was written for');
  doc.schema = SCHEMA;
  for (const list of LISTS) {
    if (!Array.isArray(doc[list])) {
      done.push(`its ${list} were missing`);
      doc[list] = [];
    }
    const whole = (doc[list] as unknown[]).filter(isObject);
    if (whole.length < (doc[list] as unknown[]).length) done.push(`some of its ${list} held nothing and were taken out`);
    doc[list] = whole;
  }
  return done;
}

/** Mends each problem; the last of a list first, so that the places of the others stay. */
function mendAll(doc: Json, problems: readonly Problem[]): string[] {
  const told = problems.map((p) => tellProblem(doc, p));
  const order = problems.map((_, i) => i).sort((a, b) => comparePaths(problems[b]!.path, problems[a]!.path));
  const gone: string[] = [];
  const done: string[] = [];
  for (const i of order) {
    const { path } = problems[i]!;
    if (gone.some((g) => path.startsWith(g))) continue;
    const { what, whole } = mend(doc, path);
    if (whole) gone.push(whole);
    done.push(`${told[i]!} (${what})`);
  }
  return done.reverse();
}

const comparePaths = (a: string, b: string): number => a.localeCompare(b, 'en', { numeric: true });

/** Fields with a value that they have by themselves. */
const PLAIN: Json = { muted: false, collapsed: false, on: true, mix: 1, params: {}, feeds: {}, text: '' };

/** What stands for a field that is wrong, where something can. */
function standIn(key: string, value: unknown, owner: Json): unknown {
  if (key === 'name' && typeof value === 'string' && value.length > 0)
    return fitName(value, 'hash' in owner ? LIMITS.fileName : LIMITS.name);
  if (key === 'name') return typeof owner.type === 'string' ? fitName(owner.type) : 'without a name';
  if (key in PLAIN) return JSON.parse(JSON.stringify(PLAIN[key])) as unknown;
  if (key === 'start' && 'kind' in owner) return 1;
  if (key === 'missing') return 'error';
  if (key === 'alpha') return 'ignore';
  if (key === 'container') return 'unknown';
  return undefined;
}

/** Fields without which their owner is as good as with them. */
const SPARE = [
  'mask',
  'zones',
  'locked',
  'rate',
  'duration',
  'trim',
  'types',
  'attributes',
  'alphaDoubt',
  'colourReason',
  'bounds',
  'size',
  'parts',
];
const SPARE_OF_NOTES = ['last', 'colour', 'done', 'at'];

interface Mended {
  what: string;
  /** The path of what was taken out whole; nothing more of it needs mending. */
  whole?: string;
}

/** Takes the fault at a path out: the field where it can be spared or stood in for, else the thing in a list that holds it. */
function mend(doc: Json, path: string): Mended {
  const keys = [...path.matchAll(/\["(.*?)"\](?=[.[]|$)|\[(\d+)\]|([^.[\]]+)/g)].map((m) => m[1] ?? m[2] ?? m[3]!);
  const owners: Json[] = [doc];
  for (const k of keys.slice(0, -1)) owners.push((owners.at(-1)?.[k] ?? {}) as Json);
  for (let depth = 0; depth < keys.length; depth++) {
    const key = keys[depth]!;
    const owner = owners[depth]!;
    const last = depth === keys.length - 1;
    const inside = keys[depth - 1];
    if (inside === 'params' || inside === 'feeds' || SPARE.includes(key) || (keys[0] === 'notes' && SPARE_OF_NOTES.includes(key))) {
      // A key of odd letters may not be found again by its path.
      if (key in owner) delete owner[key];
      else if (depth > 1) owners[depth - 1]![inside!] = {};
      return { what: 'taken out', whole: pathTo(keys, depth) };
    }
    const by = last ? standIn(key, owner[key], owner) : undefined;
    if (by !== undefined && depth > 0) {
      owner[key] = by;
      return { what: `now ${typeof by === 'string' ? `"${by.slice(0, 40)}"` : JSON.stringify(by)}` };
    }
  }
  if (!LISTS.includes(keys[0] as (typeof LISTS)[number])) return mendTop(doc, keys[0] ?? '');
  // The innermost thing in a list: a frame, a step, else a lane, a source, a reading, a note.
  const at = Math.max(...keys.map((k, i) => (/^\d+$/.test(k) && i > 0 && ['frames', 'steps', ...LISTS].includes(keys[i - 1]!) ? i : -1)));
  const list = owners[at];
  if (at < 0 || !Array.isArray(list)) return mendTop(doc, keys[0]!);
  list.splice(Number(keys[at]), 1);
  return { what: 'taken out', whole: pathTo(keys, at) };
}

/** "lanes[0].steps[2]" */
const pathTo = (keys: readonly string[], depth: number): string =>
  keys.slice(0, depth + 1).reduce((p, k) => (/^\d+$/.test(k) ? `${p}[${k}]` : p ? `${p}.${k}` : k), '');

/** A field of the shot itself. */
function mendTop(doc: Json, key: string): Mended {
  const defaults: Json = {
    id: 'repaired',
    name: typeof doc.name === 'string' && doc.name !== '' ? fitName(doc.name) : 'Repaired shot',
    format: { width: 1920, height: 1080, pixelAspect: 1 },
    frameRate: 24,
    range: { first: 1, last: 48 },
    result: null,
  };
  doc[key] = key in defaults ? defaults[key] : [];
  return { what: `now ${JSON.stringify(doc[key])}` };
}

/** What does not meet, is there twice or goes round in a ring. */
function mendReferences(shot: Shot, done: string[]): void {
  const ids = new Set<string>();
  const twice = (kind: string, x: { id: string; name: string }): boolean => {
    if (!ids.has(x.id)) {
      ids.add(x.id);
      return false;
    }
    done.push(`the ${kind} "${x.name}" has the id of another thing (taken out)`);
    return true;
  };
  const { first, last } = shot.range;
  if (last < first) {
    shot.range = { first: last, last: first };
    done.push('the range ended before it started (turned round)');
  }
  shot.sources = shot.sources.filter((s) => !twice('source', s));
  for (const s of shot.sources) {
    if (s.trim && s.trim.last < s.trim.first) delete s.trim;
    if (s.kind === 'movie') s.length ??= 1;
  }
  shot.lanes = shot.lanes.filter((l) => !twice('lane', l));
  for (const l of shot.lanes) l.steps = l.steps.filter((s) => !twice('step', s));
  shot.readings = shot.readings.filter((r) => !twice('reading', r));
  for (const r of shot.readings) if (r.range.last < r.range.first) r.range = { first: r.range.last, last: r.range.first };
  cutZones(shot, done);
  cutTaps(shot, done);
  for (let cycle = findCycle(shot); cycle; cycle = findCycle(shot)) {
    const place = tapPlaces(shot).find((p) => p.lane && cycle!.includes(p.step ? p.owner : p.lane.name));
    if (!place) break;
    done.push(`lanes fed each other in a ring: ${cycle.join(' ← ')} (${tellPlace(place)} was cut)`);
    cut(shot, place);
    cutTaps(shot, done);
  }
  for (const l of shot.lanes) {
    for (const s of l.steps) {
      for (const name of linkedParams(s)) {
        if (!linksInRing(shot, s, name)) continue;
        done.push(`${l.name} ▸ ${s.name}: its "${name}" followed itself (the link was cut)`);
        if (name === 'mix') s.mix = 1;
        else delete s.params[name];
      }
    }
  }
  if (shot.result !== null && !laneOf(shot, shot.result)) {
    shot.result = shot.lanes.at(-1)?.id ?? null;
    done.push('the result lane is not there; the last lane is the result now');
  }
}

function cut(shot: Shot, { kind, use, lane, step }: ReturnType<typeof tapPlaces>[number]): void {
  if (step && kind === 'mask') delete step.mask;
  else if (step) delete step.feeds[use];
  else if (lane) shot.lanes = shot.lanes.filter((l) => l !== lane);
}

/** Zones around nothing, or over each other, go; what they were around stays. */
function cutZones(shot: Shot, done: string[]): void {
  for (const lane of shot.lanes) {
    for (let trouble = zoneTrouble(lane); trouble; trouble = zoneTrouble(lane)) {
      const { zone, message } = trouble;
      done.push(`${message} (taken out)`);
      lane.zones = lane.zones!.filter((z) => z !== zone);
    }
  }
}

/** Lanes without a beginning go, then whatever taps a lane that is not there. */
function cutTaps(shot: Shot, done: string[]): void {
  for (;;) {
    const lost = shot.lanes.find(({ start }) =>
      'source' in start ? !shot.sources.some((s) => s.id === start.source) : 'tap' in start && !laneOf(shot, start.tap.lane),
    );
    if (!lost) break;
    done.push(`the lane "${lost.name}" starts from nothing that is there (taken out)`);
    shot.lanes = shot.lanes.filter((l) => l !== lost);
  }
  for (const place of tapPlaces(shot)) {
    if (!place.step || laneOf(shot, place.tap.lane)) continue;
    done.push(`${tellPlace(place)} names a lane that is not there (cut)`);
    cut(shot, place);
  }
}
