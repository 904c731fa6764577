import { create } from 'zustand';
import type { Choosing } from './view/choosing';
import { choosing } from './view/choosing';
import type { Hands } from './view/hands';
import { hands } from './view/hands';
import type { Looking } from './view/looking';
import { looking } from './view/looking';
import type { Panels } from './view/panels';
import { panels } from './view/panels';
import type { Playing } from './view/playing';
import { playing } from './view/playing';

export type { Selection } from './view/choosing';
export type { BrushTip, Drawing, Picking } from './view/hands';
export type { Backing, ChannelView, Compare, CompareMode, Pin, ViewTransform } from './view/looking';

/** How the shot is looked at and worked on: nothing here changes the picture, and nothing here is undone. */
export type ViewState = Choosing & Looking & Playing & Hands & Panels;

const fresh: ViewState = { ...choosing, ...looking, ...playing, ...hands, ...panels };

/** Whatever of these is set, a source is no longer looked at. */
const LEAVES = ['selection', 'seen', 'drawing', 'brushing', 'picking', 'solo'] as const;

export const useView = create<ViewState>(() => ({ ...fresh }));
const selectListeners = new Set<() => void>();
export const view = {
  get: useView.getState,
  /** Choosing something else ends a run of steps; a source that is chosen is looked at, until something else is to be seen. */
  set: (change: Partial<ViewState>): void => {
    const { selection } = change;
    const ends = 'selection' in change ? { run: null, brushing: null, drawing: null, stroke: null } : {};
    const looked = selection?.kind === 'source' ? { looked: selection.id, layer: '' } : LEAVES.some((k) => k in change) && { looked: null };
    useView.setState({ ...ends, ...looked, ...change });
    if ('selection' in change) selectListeners.forEach((told) => told());
  },
  /** Tells when something else is selected. */
  onSelect: (told: () => void): void => void selectListeners.add(told),
  reset: (frame: number): void => {
    useView.setState({ ...fresh, frame }, true);
    selectListeners.forEach((told) => told());
  },
};
