import type { Shot } from '@/core/document';

type ListName = 'sources' | 'lanes' | 'readings' | 'notes';
const LISTS: readonly ListName[] = ['sources', 'lanes', 'readings', 'notes'];

/** A list by the ids of what is in it, with those things that the other side does not have as they are now. */
interface ListPatch {
  ids: readonly string[];
  things: readonly { id: string }[];
}

/** A shot for the other side of a thread: whole, or by what differs from the one that was sent last. */
export type ShotMessage =
  | { whole: Shot }
  | { fields: Partial<Shot>; gone: readonly (keyof Shot)[]; lists: Partial<Record<ListName, ListPatch>> };

const isList = (key: string): key is ListName => (LISTS as readonly string[]).includes(key);

/**
 * The sending side. A shot is an immutable value: what is the same object as in the shot that was sent last is there already, so that
 * an edit of one step sends one lane, and a scrub nothing.
 */
export class ShotSender {
  private last: Shot | null = null;

  message(shot: Shot): ShotMessage {
    const { last } = this;
    this.last = shot;
    if (!last) return { whole: shot };
    const keys = Object.keys(shot) as (keyof Shot)[];
    const fields = Object.fromEntries(keys.filter((k) => !isList(k) && shot[k] !== last[k]).map((k) => [k, shot[k]]));
    const gone = (Object.keys(last) as (keyof Shot)[]).filter((k) => !(k in shot));
    const lists: Partial<Record<ListName, ListPatch>> = {};
    for (const name of LISTS) {
      if (shot[name] === last[name]) continue;
      const had = new Map<string, object>(last[name].map((x) => [x.id, x]));
      const things = (shot[name] as readonly { id: string }[]).filter((x) => had.get(x.id) !== x);
      lists[name] = { ids: shot[name].map((x) => x.id), things };
    }
    return { fields, gone, lists };
  }
}

const isPlain = (v: unknown): v is Record<string, unknown> => typeof v === 'object' && v !== null && !ArrayBuffer.isView(v);
const idOf = (v: unknown): unknown => (isPlain(v) ? v.id : undefined);

/**
 * `now` with what of it is as it was in `was` replaced by that, all the way down: things of a list are found by their ids, where they have
 * some. What is new is frozen, as it is on the page, so that it is checked once.
 */
export function sharing<T>(was: unknown, now: T): T {
  // One object may stand at several places of a message: what is frozen was looked at.
  if (was === now || !isPlain(now) || Object.isFrozen(now)) return now;
  if (Array.isArray(now)) {
    const had: readonly unknown[] = Array.isArray(was) ? was : [];
    const byId = idOf(now[0]) === undefined ? null : new Map(had.map((v) => [idOf(v), v]));
    let same = Array.isArray(was) && had.length === now.length;
    now.forEach((v: unknown, i) => {
      const kept = sharing(byId ? byId.get(idOf(v)) : had[i], v);
      now[i] = kept;
      same &&= kept === had[i];
    });
    return same ? (was as T) : Object.freeze(now);
  }
  const had = isPlain(was) && !Array.isArray(was) ? was : {};
  const keys = Object.keys(now);
  let same = had === was && Object.keys(had).length === keys.length;
  const to = now as Record<string, unknown>;
  for (const key of keys) {
    to[key] = sharing(had[key], to[key]);
    same &&= key in had && to[key] === had[key];
  }
  return same ? (was as T) : Object.freeze(now);
}

/** The receiving side: what did not change stays the same object, so that what is known of it stays known. */
export class ShotReceiver {
  private shot: Shot | null = null;

  take(message: ShotMessage): Shot {
    if ('whole' in message) return (this.shot = sharing(this.shot, message.whole));
    const { shot } = this;
    if (!shot) throw new Error('a change of a shot came before the shot');
    const { fields, gone, lists } = message;
    if (Object.keys(fields).length + gone.length + Object.keys(lists).length === 0) return shot;
    const next: Record<string, unknown> = { ...shot, ...fields };
    for (const key of gone) delete next[key];
    for (const [name, { ids, things }] of Object.entries(lists) as [ListName, ListPatch][]) {
      const known = new Map<string, { id: string }>(shot[name].map((x) => [x.id, x]));
      for (const x of things) known.set(x.id, sharing(known.get(x.id), x));
      next[name] = ids.map((id) => known.get(id)!);
    }
    return (this.shot = next as unknown as Shot);
  }
}
