import type { Patch } from 'immer';

/** One change that can be undone. */
export interface Entry {
  label: string;
  forward: Patch[];
  back: Patch[];
  /** Changes of the same gesture are one entry. */
  gesture?: string;
}

/** What can be undone and redone of a shot, kept with it. */
export interface History {
  past: readonly Entry[];
  future: readonly Entry[];
}

const samePath = (a: Patch, b: Patch | undefined): boolean =>
  b !== undefined && a.op === 'replace' && b.op === 'replace' && JSON.stringify(a.path) === JSON.stringify(b.path);

/** An entry with a further change of its gesture: where both set the same places, only where it began and where it is stay. */
export function extend(entry: Entry, forward: Patch[], back: Patch[]): Entry {
  const again = forward.length === entry.forward.length && forward.every((p, i) => samePath(p, entry.forward[i]));
  return again ? { ...entry, forward } : { ...entry, forward: [...entry.forward, ...forward], back: [...back, ...entry.back] };
}

/** Letters of JSON that a shot's kept history may have. */
const MOST = 512 * 1024;
const sizes = new WeakMap<Entry, number>();

function sizeOf(entry: Entry): number {
  let size = sizes.get(entry);
  if (size === undefined) sizes.set(entry, (size = JSON.stringify([entry.forward, entry.back]).length));
  return size;
}

/** The newest part of a history that is small enough to be kept. */
export function keptHistory({ past, future }: History): History {
  let left = MOST;
  const fits = (e: Entry): boolean => (left -= sizeOf(e)) >= 0;
  const newest: Entry[] = [];
  for (let i = past.length - 1; i >= 0 && fits(past[i]!); i--) newest.unshift(past[i]!);
  const next: Entry[] = [];
  for (let i = 0; i < future.length && fits(future[i]!); i++) next.push(future[i]!);
  return { past: newest, future: next };
}
