import { applyPatches, enablePatches, produceWithPatches } from 'immer';
import { createStore } from 'zustand/vanilla';
import type { Shot } from '@/core/document';
import { checkShot } from '@/core/document';
import { Cancelled, messageOf } from '@/core/errors';
import type { Change } from '@/core/commands';
import { db } from './db';
import type { Entry, History } from './history';
import { extend, keptHistory } from './history';
import { refuseLocked } from './locks';

enablePatches();

export interface ShotState extends History {
  shot: Shot;
  saved: 'saved' | 'saving' | 'failed';
  problem: string | null;
  /** Why it can only be looked at; null where it can be edited. */
  readOnly: string | null;
}

const LIMIT = 500;

/** Milliseconds until a change is saved, and until a save that failed is tried again: twice as long each time, up to the last. */
const SOON = 300;
const AGAIN = { first: 1000, last: 30_000 };

/**
 * A shot that is being edited: changes by commands, undo by patches, saved within a second and again where that failed. Throws
 * what a command throws, and ShotError where what it makes could not be opened again; nothing has changed then.
 */
export function openShot(shot: Shot, readOnly: string | null = null, history: History = { past: [], future: [] }) {
  const store = createStore<ShotState>(() => ({ shot, ...history, saved: 'saved', problem: null, readOnly }));
  const { getState: get, setState: set } = store;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let wait = AGAIN.first;
  let closed = false;

  const write = async ({ shot: now, past, future }: ShotState): Promise<void> => {
    await db.transaction('rw', db.shots, db.histories, async () => {
      const row = await db.shots.get(now.id);
      await db.shots.put({ ...row, id: now.id, name: now.name, changed: Date.now(), shot: now });
      await db.histories.put({ id: now.id, ...keptHistory({ past, future }) });
    });
  };

  const save = async (): Promise<void> => {
    clearTimeout(timer);
    timer = undefined;
    const state = get();
    // A tab that only looks has an old copy: it must never be written over the other tab's work.
    if (state.readOnly || state.saved === 'saved') return;
    try {
      await write(state);
      wait = AGAIN.first;
      if (get().shot === state.shot) set({ saved: 'saved', problem: null });
    } catch (e) {
      const full = e instanceof Error && /quota/i.test(`${e.name} ${e.message}`);
      set({
        saved: 'failed',
        problem: full
          ? 'The browser has no room left to save this shot. Nothing is lost while this tab is open: free some storage, or take the shot out as a bundle. Saving is tried again by itself.'
          : `The shot could not be saved (${messageOf(e)}). Take it out as a bundle to be safe. Saving is tried again by itself.`,
      });
      if (!closed) timer ??= setTimeout(() => void save(), wait);
      wait = Math.min(AGAIN.last, 2 * wait);
    }
  };

  const later = (): void => {
    if (get().saved !== 'failed') set({ saved: 'saving' });
    timer ??= setTimeout(() => void save(), SOON);
  };

  /** Goes to another state of the history; one whose patches no longer fit is forgotten. */
  const travel = (entry: Entry | undefined, patches: Entry['back'], to: (e: Entry) => History): string | null => {
    if (!entry || get().readOnly || closed) return null;
    try {
      const next = applyPatches(get().shot, patches);
      checkShot(next);
      set({ shot: next, ...to(entry) });
    } catch {
      set({ past: [], future: [] });
      return null;
    }
    later();
    return entry.label;
  };

  /** What a command makes of the shot. Throws where it is refused. */
  const outcome = (change: Change) => {
    const before = get().shot;
    const made = produceWithPatches(before, (draft) => {
      change(draft);
    });
    refuseLocked(before, made[0]);
    checkShot(made[0]);
    return made;
  };

  return {
    store,
    save,
    /** Why a command would be refused, or null. */
    refusal(change: Change): string | null {
      try {
        outcome(change);
        return null;
      } catch (e) {
        return messageOf(e);
      }
    },
    /** Carries out a command. Commands with the same gesture string in a row are undone as one. */
    run(label: string, change: Change, gesture?: string): void {
      // Work that still goes on when the shot was left has nowhere to write to.
      if (closed) throw new Cancelled();
      const state = get();
      if (state.readOnly) throw new Error(`this shot is ${state.readOnly}; it can only be looked at here`);
      const [next, forward, back] = outcome(change);
      if (forward.length === 0) return;
      const last = state.past[state.past.length - 1];
      const joined = gesture !== undefined && last?.gesture === gesture;
      const entry: Entry = joined ? extend(last, forward, back) : { label, forward, back, ...(gesture === undefined ? {} : { gesture }) };
      set({ shot: next, past: [...(joined ? state.past.slice(0, -1) : state.past).slice(-LIMIT), entry], future: [] });
      later();
    },
    /** The shot is the same and what its media hold is not: whoever draws from it is told. */
    refresh(): void {
      set({ shot: { ...get().shot } });
      if (get().saved !== 'saved') later();
    },
    undo(): string | null {
      const { past, future } = get();
      const entry = past[past.length - 1];
      return travel(entry, entry?.back ?? [], (e) => ({
        past: past.slice(0, -1),
        future: [{ ...e, gesture: undefined } as Entry, ...future],
      }));
    },
    redo(): string | null {
      const { past, future } = get();
      const entry = future[0];
      return travel(entry, entry?.forward ?? [], (e) => ({ past: [...past, e], future: future.slice(1) }));
    },
    /** Saves what is not saved yet; no further change is taken. Whoever holds the shot's lock may then let go of it. */
    async close(): Promise<void> {
      closed = true;
      await save();
      clearTimeout(timer);
    },
  };
}

export type ShotSession = ReturnType<typeof openShot>;
