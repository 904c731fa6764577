import { create } from 'zustand';
import type { Tap } from '@/core/document/types';

export type ChannelView = 'colour' | 'R' | 'G' | 'B' | 'A' | 'luma' | 'audit';
export type Backing = 'checker' | 'black' | 'white' | 'grey';
export type Selection = { kind: 'step'; id: string } | { kind: 'lane'; id: string } | { kind: 'source'; id: string } | null;

/** What a picker on the stage is picking for. */
export interface Picking {
  step: string;
  param: string;
}

/** How the shot is looked at: nothing here changes the picture, and nothing here is undone. */
export interface ViewState {
  selection: Selection;
  /** The point that is seen; the result's end without one. */
  seen: Tap | null;
  layer: string;
  channel: ChannelView;
  exposure: number;
  backing: Backing;
  /** Screen pixels a picture pixel, or fitted. */
  zoom: number | 'fit';
  centre: [number, number];
  scale: 1 | 0.5 | 0.25;
  frame: number;
  playing: boolean;
  loop: 'loop' | 'bounce' | 'once';
  inOut: { first: number; last: number } | null;
  /** A control is being dragged: the picture may be coarser. */
  dragging: boolean;
  full: boolean;
  picking: Picking | null;
  dialog: 'search' | 'addStep' | 'shortcuts' | 'export' | 'format' | null;
  tab: 'lanes' | 'checks';
}

const fresh: ViewState = {
  selection: null,
  seen: null,
  layer: '',
  channel: 'colour',
  exposure: 0,
  backing: 'checker',
  zoom: 'fit',
  centre: [0, 0],
  scale: 1,
  frame: 1,
  playing: false,
  loop: 'loop',
  inOut: null,
  dragging: false,
  full: false,
  picking: null,
  dialog: null,
  tab: 'lanes',
};

export const useView = create<ViewState>(() => ({ ...fresh }));
export const view = {
  get: useView.getState,
  set: useView.setState,
  reset: (frame: number): void => useView.setState({ ...fresh, frame }, true),
};
