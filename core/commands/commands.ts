import type { Draft } from 'immer';
import { current, isDraft } from 'immer';
import type { Key, Lane, Mask, Note, Param, Shot, Source, Step, Tap, Value } from '../document';
import {
  LIMITS,
  filesOf,
  fitName,
  isKeyed,
  isPicture,
  ownRateOf,
  resolveParam,
  spanOf,
  valueAt,
  wholeFrames,
  withKey,
  withValue,
  withoutKey,
} from '../document';
import { ShotError } from '../errors';
import { feedsOf, isStructured, referencesOf, strayParams } from '../params';
import { STEPS } from '../steps';
import type { Change } from './change';
import { appendStep, laneOf, refuseRings, stepNames, stepOf } from './change';
import { freeName, newId, newLane, newStep } from './make';
import type { Place } from './stack';
import { placeLane, stackOf } from './stack';

export type { Change } from './change';
export * from './stack';
export * from './structure';
export * from './zones';

export const renameShot =
  (name: string): Change =>
  (s) =>
    void (s.name = name);

export const setFormat =
  (format: Shot['format'], frameRate: number, range: Shot['range']): Change =>
  (s) => {
    s.format = { ...format };
    s.frameRate = frameRate;
    s.range = { ...range };
  };

/** Adds a source. The first one sets the shot's format and range and becomes the result; a later one is joined over it. */
export const addSource =
  (source: Source): Change =>
  (s) => {
    s.sources.push({
      ...source,
      name: freeName(
        source.name,
        s.sources.map((x) => x.name),
      ),
    } as Draft<Source>);
    if (s.sources.filter(isPicture).length === 1 && isPicture(source)) {
      s.format = { ...source.format };
      if (source.kind === 'movie') s.frameRate = ownRateOf(source) ?? s.frameRate;
      if (source.kind !== 'still') s.range = fitRange(spanOf(source, s.frameRate));
    }
  };

/** Of a source longer than a shot may be, its beginning. */
const fitRange = ({ first, last }: Shot['range']): Shot['range'] => ({ first, last: Math.min(last, first + LIMITS.range - 1) });

type Optional = 'trim' | 'rate' | 'duration';
/** `undefined` takes a choice back. */
export type SourceChange = Partial<Omit<Source, 'id' | 'kind' | Optional>> & { [K in Optional]?: Source[K] | undefined };

export const changeSource =
  (id: string, change: SourceChange): Change =>
  (s) => {
    const source = s.sources.find((x) => x.id === id);
    if (!source) return;
    Object.assign(source, change);
    // A choice is no guess.
    if (change.colourSpace) delete source.colourReason;
    if (change.alpha) delete source.alphaDoubt;
    if (change.trim) {
      const { first, last } = wholeFrames(source as Source);
      if (change.trim.first === first && change.trim.last === last) delete source.trim;
    }
    for (const key of ['trim', 'rate', 'duration'] as const) if (key in change && change[key] === undefined) delete source[key];
    refuseRings(s);
  };

/** A source's first frame comes to stand at the shot's first. */
export const alignSource =
  (id: string): Change =>
  (s) =>
    changeSource(id, { start: s.range.first })(s);

/** Another file or sequence takes a source's place: what was chosen for it stays, what its header says is new. */
export const replaceSource =
  (id: string, by: Source): Change =>
  (s) => {
    const at = s.sources.findIndex((x) => x.id === id);
    const old = s.sources[at];
    if (!old) throw new ShotError('that source is no longer there');
    if (isPicture(old as Source) !== isPicture(by) || (!isPicture(by) && old.kind !== by.kind))
      throw new ShotError('a picture, a colour table and a model cannot stand for each other');
    const chosen = { ...(!old.colourReason && { colourSpace: old.colourSpace }), ...(!old.alphaDoubt && { alpha: old.alpha }) };
    const kept = {
      missing: old.missing,
      start: old.start,
      ...(old.rate && { rate: old.rate }),
      ...(old.duration && { duration: old.duration }),
    };
    const made = { ...by, ...chosen, ...kept, id, name: old.name };
    if (chosen.colourSpace) delete made.colourReason;
    s.sources[at] = made as Draft<Source>;
  };

/** Media of a source that was found again under other hashes: from old hash to new hash and name. */
export const relinkSource =
  (id: string, found: ReadonlyMap<string, { hash: string; name: string }>): Change =>
  (s) => {
    const source = s.sources.find((x) => x.id === id);
    for (const f of source ? filesOf(source as Source) : []) Object.assign(f, found.get(f.hash));
  };

export const removeSource =
  (id: string): Change =>
  (s) => {
    for (const l of s.lanes) {
      const named = l.steps.find((x) => referencesOf(STEPS.get(x.type)?.params, x.params as Step['params']).some(({ to }) => to.id === id));
      if (named) throw new ShotError(`the step "${named.name}" of "${l.name}" uses this table; delete it first`);
    }
    const used = s.lanes.find((l) => 'source' in l.start && l.start.source === id);
    if (used) throw new ShotError(`the lane "${used.name}" starts from this source; delete the lane first`);
    s.sources = s.sources.filter((x) => x.id !== id);
  };

/**
 * A lane from a source: the result where there is none, else joined into it: over everything, or at a place of the stack. Returns
 * its id through `made`.
 */
export const addLane =
  (sourceId: string, made: { lane?: string } = {}, place?: Place): Change =>
  (s) => {
    const source = s.sources.find((x) => x.id === sourceId);
    if (!source) throw new ShotError('that source is no longer there');
    if (source.kind === 'lut')
      throw new ShotError('a colour table is no picture: use it in a LUT step, or to look through in the picture bar');
    if (source.kind === 'model') throw new ShotError('a model is no picture: put it into a scene step, by Add a thing there');
    const lane = newLane(
      source.name,
      { source: sourceId },
      s.lanes.map((l) => l.name),
    ) as Draft<Lane>;
    made.lane = lane.id;
    const { width, height } = source.format;
    const other = s.result !== null && (width !== s.format.width || height !== s.format.height);
    if (other) lane.steps.push({ ...newStep('conform', []), params: { positive: true } } as Draft<Step>);
    stackNew(s, lane, place);
  };

/** A lane that starts from nothing, for shapes and generators; joined as one from a source is. */
export const emptyLane =
  (made: { lane?: string } = {}, place?: Place): Change =>
  (s) => {
    const lane = newLane(
      'empty',
      { empty: true },
      s.lanes.map((l) => l.name),
    ) as Draft<Lane>;
    made.lane = lane.id;
    stackNew(s, lane, place);
  };

/** Puts a new lane on the board: the result where there is none, else over everything, or at a place of the stack. */
function stackNew(s: Draft<Shot>, lane: Draft<Lane>, place: Place | undefined): void {
  const result = s.result === null ? undefined : s.lanes.find((l) => l.id === s.result);
  if (!result) {
    s.lanes.push(lane);
    s.result = lane.id;
    return;
  }
  s.lanes.unshift(lane);
  if (place && stackOf(s as Shot).some((e) => e.lane === place.lane)) return placeLane(lane.id, place)(s);
  const join = newStep('join', stepNames(result)) as Draft<Step>;
  join.feeds.front = { lane: lane.id };
  appendStep(result, join);
}

/** A lane of one layer of a source, joined to nothing yet; `layer` may also be a lone channel. */
export const layerLane =
  (sourceId: string, layer: string, made: { lane?: string } = {}): Change =>
  (s) => {
    const source = s.sources.find((x) => x.id === sourceId);
    if (!source) throw new ShotError('that source is no longer there');
    const lane = newLane(
      `${source.name} ${layer || 'main'}`,
      { source: sourceId },
      s.lanes.map((l) => l.name),
    ) as Draft<Lane>;
    if (layer) {
      const pick = newStep('pickLayer', []);
      lane.steps.push({ ...pick, name: fitName(`Pick ${layer}`), params: { layer } } as Draft<Step>);
    }
    made.lane = lane.id;
    s.lanes.unshift(lane);
  };

/** A lane that starts from a point of another. */
export const tapLane =
  (tap: Tap, made: { lane?: string } = {}): Change =>
  (s) => {
    const from = laneOf(s, tap.lane);
    const lane = newLane(
      `${from.name} tap`,
      { tap: { ...tap } },
      s.lanes.map((l) => l.name),
    ) as Draft<Lane>;
    made.lane = lane.id;
    s.lanes.splice(s.lanes.indexOf(from) + 1, 0, lane);
  };

export const changeLane =
  (id: string, change: Partial<Pick<Lane, 'name' | 'muted' | 'collapsed' | 'locked'>>): Change =>
  (s) => {
    const lane = laneOf(s, id);
    if (change.name !== undefined) {
      change = {
        ...change,
        name: freeName(
          change.name,
          s.lanes.filter((l) => l.id !== id).map((l) => l.name),
        ),
      };
    }
    Object.assign(lane, change);
  };

/** Adds a step after another (at the lane's end without one); after the last of a zone inside it, or, without `within`, behind it. */
export const addStep =
  (laneId: string, type: string, after: string | undefined, made: { step?: string } = {}, within = true): Change =>
  (s) => {
    const lane = laneOf(s, laneId);
    if (!STEPS.has(type)) throw new ShotError(`there is no step "${type}"`);
    const step = newStep(type, stepNames(lane)) as Draft<Step>;
    made.step = step.id;
    const at = after === '' ? -1 : after === undefined ? lane.steps.length - 1 : lane.steps.findIndex((x) => x.id === after);
    lane.steps.splice(at + 1, 0, step);
    // After the last step of a zone it is in the zone, too.
    const zone = lane.zones?.find((z) => z.last === after);
    if (zone && within) zone.last = step.id;
  };

export const changeStep =
  (id: string, change: Partial<Pick<Step, 'name' | 'on'>>): Change =>
  (s) => {
    const { step, lane } = stepOf(s, id);
    if (change.name !== undefined) {
      change = {
        ...change,
        name: freeName(
          change.name,
          lane.steps.filter((x) => x.id !== id).map((x) => x.name),
        ),
      };
    }
    Object.assign(step, change);
  };

const paramAt = (step: Draft<Step>, name: string): Param | undefined =>
  (name === 'mix' ? step.mix : step.params[name]) as Param | undefined;
function setParamAt(step: Draft<Step>, name: string, value: Param): void {
  if (name === 'mix') {
    step.mix = value as Draft<Param>;
    return;
  }
  const had = step.params[name];
  if (isStructured(value) && isStructured(had) && had.length > 0) setItems(had as object[], value);
  else step.params[name] = value as Draft<Param>;
}

/** Parameters of parts that are gone go with them. */
export function dropStray(step: Draft<Step>): void {
  const definition = STEPS.get(step.type);
  if (!definition) return;
  for (const name of strayParams(definition.params, step.params as Step['params'])) delete step.params[name];
  const feeds = feedsOf(definition, step.params as Step['params']);
  for (const name of Object.keys(step.feeds)) if (name.includes('.') && !feeds.some((f) => f.name === name)) delete step.feeds[name];
}

/** Makes a list another one by what differs, so that undo keeps what differs and not the whole list for each change. */
function setItems(list: object[], next: readonly object[]): void {
  // As plain values: each item that is read of a draft becomes a draft of its own.
  const had = isDraft(list) ? current(list) : list;
  const same = (a: object, b: object): boolean => a === b || JSON.stringify(a) === JSON.stringify(b);
  let head = 0;
  while (head < had.length && head < next.length && same(had[head]!, next[head]!)) head++;
  let tail = 0;
  while (tail < Math.min(had.length, next.length) - head && same(had[had.length - 1 - tail]!, next[next.length - 1 - tail]!)) tail++;
  const [gone, come] = [had.length - head - tail, next.length - head - tail];
  for (let i = 0; i < Math.min(gone, come); i++) list[head + i] = next[head + i]!;
  if (gone !== come)
    list.splice(head + Math.min(gone, come), gone - Math.min(gone, come), ...next.slice(head + Math.min(gone, come), head + come));
}

/** Sets parameters at a frame: a keyed one gets or moves a key there. */
export const setParams =
  (id: string, values: Readonly<Record<string, Value>>, frame: number): Change =>
  (s) => {
    const { step } = stepOf(s, id);
    for (const [name, value] of Object.entries(values)) setParamAt(step, name, withValue(paramAt(step, name), frame, value));
    dropStray(step);
  };

/** Puts a parameter, keys and all, in the place of the one that is there; none leaves the default. */
export const setParam =
  (id: string, name: string, param: Param | undefined): Change =>
  (s) => {
    const { step } = stepOf(s, id);
    if (param !== undefined) setParamAt(step, name, param);
    else if (name === 'mix') step.mix = 1;
    else delete step.params[name];
    dropStray(step);
  };

/** Sets a key at the frame, or takes away the one that is there. */
export const toggleKey =
  (id: string, name: string, value: Value, frame: number): Change =>
  (s) => {
    const { step } = stepOf(s, id);
    const had = paramAt(step, name);
    const keyed = isKeyed(had) ? had : undefined;
    const here = keyed?.keys.some((k) => k.frame === frame);
    setParamAt(step, name, here ? withoutKey(keyed!, frame) : withKey(keyed, frame, value));
  };

export const resetParam =
  (id: string, name: string): Change =>
  (s) => {
    const { step } = stepOf(s, id);
    if (name === 'mix') step.mix = 1;
    else delete step.params[name];
    dropStray(step);
  };

export const resetStep =
  (id: string): Change =>
  (s) => {
    const { step } = stepOf(s, id);
    step.params = {};
    step.mix = 1;
    dropStray(step);
  };

export const setFeed =
  (id: string, feed: string, tap: Tap | null): Change =>
  (s) => {
    const { step } = stepOf(s, id);
    if (tap) step.feeds[feed] = { ...tap };
    else delete step.feeds[feed];
    refuseRings(s);
  };

export const setMask =
  (id: string, mask: Mask | null): Change =>
  (s) => {
    const { step } = stepOf(s, id);
    if (mask) step.mask = { ...mask };
    else delete step.mask;
    refuseRings(s);
  };

export const addNote =
  (frame: number, made: { note?: string } = {}): Change =>
  (s) => {
    const note = { id: newId(), frame, text: '', colour: 'clay' } as const;
    made.note = note.id;
    s.notes.push({ ...note });
    s.notes.sort((a, b) => a.frame - b.frame);
  };

export const changeNote =
  (id: string, change: Partial<Omit<Note, 'id'>>): Change =>
  (s) => {
    const note = s.notes.find((n) => n.id === id);
    if (!note) throw new ShotError('that note is no longer there');
    Object.assign(note, change);
    if (note.last !== undefined && note.last <= note.frame) delete note.last;
    s.notes.sort((a, b) => a.frame - b.frame);
  };

export const removeNote =
  (id: string): Change =>
  (s) =>
    void (s.notes = s.notes.filter((n) => n.id !== id));

/** Puts a parameter's keys in place of those it has; none leaves the value at the frame as a constant. */
export const setKeys =
  (id: string, name: string, keys: readonly Key[], frame: number): Change =>
  (s) => {
    const { step } = stepOf(s, id);
    const had = paramAt(step, name);
    const sorted = [...keys].sort((a, b) => a.frame - b.frame).filter((k, i, all) => k.frame !== all[i + 1]?.frame);
    if (sorted.length > 0) setParamAt(step, name, { keys: sorted.map((k) => ({ ...k })) });
    else if (isKeyed(had)) setParamAt(step, name, valueAt(had.keys, frame));
  };

/** Links a parameter to another one of the same kind, or, with null, leaves the value that it has at the frame. */
export const setLink =
  (id: string, name: string, to: { step: string; param: string } | null, fallback: Value, frame: number): Change =>
  (s) => {
    const { step } = stepOf(s, id);
    if (to) setParamAt(step, name, { link: { ...to } });
    else setParamAt(step, name, resolveParam(s as Shot, paramAt(step, name), fallback, frame));
    refuseRings(s);
  };
