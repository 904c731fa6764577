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

/** Whether a patch replaces what another one put. */
const samePath = (a: Patch, b: Patch): boolean => a.op === 'replace' && JSON.stringify(a.path) === JSON.stringify(b.path);

/** An entry with a further change of its gesture: where both set the same places, only where it began and where it is stay. */
export function extend(entry: Entry, forward: Patch[], back: Patch[]): Entry {
  const folded = fold(entry.forward, forward);
  return folded ? { ...entry, forward: folded } : { ...entry, forward: [...entry.forward, ...forward], back: [...back, ...entry.back] };
}

/** Patches with further ones taken into them, where all of those set again what was set or added last; else null. */
function fold(had: readonly Patch[], more: readonly Patch[]): Patch[] | null {
  const out = [...had];
  for (const p of more) {
    const at = out.findLastIndex((o) => o.op !== 'remove' && samePath(p, o));
    // What was put into or taken out of a list since may stand where that was.
    if (at < 0 || out.slice(at + 1).some((o) => o.op !== 'replace')) return null;
    out[at] = { ...out[at]!, value: p.value as unknown };
  }
  return out;
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
