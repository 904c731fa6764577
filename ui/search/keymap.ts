import { create } from 'zustand';
import type { Action } from './actions';

/** Keys that somebody chose, by the title of the action; '' is none. */
export const useKeymap = create<{ chosen: Readonly<Record<string, string>> }>(() => ({ chosen: {} }));

export function keysOf(action: Action, chosen = useKeymap.getState().chosen): readonly string[] {
  const own = chosen[action.title];
  return own === undefined ? action.keys : own === '' ? [] : [own];
}

/** The actions besides this one that a key already starts. */
export const takenBy = (key: string, action: Action, actions: readonly Action[]): Action | undefined =>
  actions.find((a) => a.title !== action.title && keysOf(a).includes(key));
