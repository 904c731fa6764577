import { create } from 'zustand';
import type { Tap } from '@/core/document/types';
import type { Remark } from '@/core/evaluate/plan';

export type ChannelView = 'colour' | 'R' | 'G' | 'B' | 'A' | 'luma' | 'audit';
export type Backing = 'checker' | 'black' | 'white' | 'grey';
/** How scene-linear light becomes code values for the display; `lut` and a source's id looks through that colour table. */
export type ViewTransform = 'sRGB' | 'Rec.709' | 'soft' | 'linear' | 'P3' | `lut ${string}`;
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
  /** Of the view only: code values to the power of 1/gamma. */
  gamma: number;
  transform: ViewTransform;
  backing: Backing;
  /** Screen pixels a picture pixel, or fitted. */
  zoom: number | 'fit';
  centre: [number, number];
  scale: 1 | 0.5 | 0.25;
  frame: number;
  playing: boolean;
  loop: 'loop' | 'bounce' | 'once';
  /** Every frame is shown however long it takes, or frames are left out to keep time. */
  pace: 'every' | 'time';
  inOut: { first: number; last: number } | null;
  /** What was remarked while the picture on screen was computed. */
  remarks: readonly Remark[];
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
  gamma: 1,
  transform: 'sRGB',
  backing: 'checker',
  zoom: 'fit',
  centre: [0, 0],
  scale: 1,
  frame: 1,
  playing: false,
  loop: 'loop',
  pace: 'time',
  inOut: null,
  remarks: [],
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
