import type { Patch } from 'immer';
import { applyPatches, enablePatches, produceWithPatches } from 'immer';
import { createStore } from 'zustand/vanilla';
import type { Shot } from '@/core/document/types';
import type { Change } from './commands';
import { db } from './db';
import { refuseLocked } from './locks';

enablePatches();

interface Entry {
  label: string;
  forward: Patch[];
  back: Patch[];
  /** Changes of the same gesture are one entry. */
  gesture?: string;
}

export interface ShotState {
  shot: Shot;
  past: readonly Entry[];
  future: readonly Entry[];
  saved: 'saved' | 'saving' | 'failed';
  problem: string | null;
  /** Another tab edits this shot. */
  readOnly: boolean;
}

const LIMIT = 500;

/**
 * A shot that is being edited: changes by commands, undo by patches, saved within a second. Throws what a command throws;
 * nothing has changed then.
 */
export function openShot(shot: Shot, readOnly = false) {
  const store = createStore<ShotState>(() => ({ shot, past: [], future: [], saved: 'saved', problem: null, readOnly }));
  const { getState: get, setState: set } = store;
  let timer: ReturnType<typeof setTimeout> | undefined;

  const save = async (): Promise<void> => {
    clearTimeout(timer);
    timer = undefined;
    const { shot: now, readOnly, saved } = get();
    // A tab that only looks has an old copy: it must never be written over the other tab's work.
    if (readOnly || saved === 'saved') return;
    try {
      await db.transaction('rw', db.shots, async () => {
        const row = await db.shots.get(now.id);
        await db.shots.put({ ...row, id: now.id, name: now.name, changed: Date.now(), shot: now });
      });
      if (get().shot === now) set({ saved: 'saved', problem: null });
    } catch (e) {
      const full = e instanceof Error && /quota/i.test(`${e.name} ${e.message}`);
      set({
        saved: 'failed',
        problem: full
          ? 'The browser has no room left to save this shot. Nothing is lost while this tab is open: free some storage, or take the shot out as a bundle.'
          : `The shot could not be saved (${e instanceof Error ? e.message : String(e)}). Take it out as a bundle to be safe.`,
      });
    }
  };

  const later = (): void => {
    set({ saved: 'saving' });
    timer ??= setTimeout(() => void save(), 300);
  };

  return {
    store,
    save,
    /** Carries out a command. Commands with the same gesture string in a row are undone as one. */
    run(label: string, change: Change, gesture?: string): void {
      const state = get();
      if (state.readOnly) throw new Error('this shot is open in another tab; it can only be looked at here');
      const [next, forward, back] = produceWithPatches(state.shot, (draft) => {
        change(draft);
      });
      if (forward.length === 0) return;
      refuseLocked(state.shot, next);
      const last = state.past[state.past.length - 1];
      const joined = gesture !== undefined && last?.gesture === gesture;
      const entry: Entry = joined
        ? { ...last, forward: [...last.forward, ...forward], back: [...back, ...last.back] }
        : { label, forward, back, ...(gesture === undefined ? {} : { gesture }) };
      set({ shot: next, past: [...(joined ? state.past.slice(0, -1) : state.past).slice(-LIMIT), entry], future: [] });
      later();
    },
    /** The shot is the same and what its media hold is not: whoever draws from it is told. */
    refresh(): void {
      set({ shot: { ...get().shot } });
      if (get().saved !== 'saved') later();
    },
    undo(): string | null {
      const { past, future, shot: now } = get();
      const entry = past[past.length - 1];
      if (!entry) return null;
      set({ shot: applyPatches(now, entry.back), past: past.slice(0, -1), future: [{ ...entry, gesture: undefined } as Entry, ...future] });
      later();
      return entry.label;
    },
    redo(): string | null {
      const { past, future, shot: now } = get();
      const entry = future[0];
      if (!entry) return null;
      set({ shot: applyPatches(now, entry.forward), past: [...past, entry], future: future.slice(1) });
      later();
      return entry.label;
    },
  };
}

export type ShotSession = ReturnType<typeof openShot>;
