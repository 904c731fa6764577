import { create } from 'zustand';
import type { Tap } from '@/core/document';
import type { Brush } from '@/core/paint';
import type { Surround } from '@/store';
import type { Rendered } from '@/engine';
import type { Remark } from '@/core/evaluate';

export type ChannelView = 'colour' | 'R' | 'G' | 'B' | 'A' | 'luma' | 'audit' | 'overlay';
/** `thirds` is black, white and grey beside each other; `lane` and a lane's id is that lane's picture. */
export type Backing = 'checker' | 'black' | 'white' | 'grey' | 'thirds' | 'colour' | `lane ${string}`;
/** How scene-linear light becomes code values for the display; `lut` and a source's id looks through that colour table. */
export type ViewTransform = 'sRGB' | 'Rec.709' | 'soft' | 'linear' | 'P3' | `lut ${string}`;
export type Selection =
  | { kind: 'step'; id: string }
  | { kind: 'zone'; id: string }
  | { kind: 'lane'; id: string }
  | { kind: 'source'; id: string }
  | { kind: 'reading'; id: string }
  | null;

/** What a picker on the stage is picking for. */
export interface Picking {
  step: string;
  param: string;
  /** Of samples: what the boxes are marked as. */
  of?: 'screen' | 'subject';
  /** Of data: what is looked up where the picture is clicked. */
  data?: 'id' | 'focus' | 'lamp' | 'place' | 'thing';
  /** The part that it is for. */
  part?: string;
  /** Of a brush: what it draws is seen in the picture; else it says only where. */
  shows?: boolean;
}

/** The brush of the stage: full-size pixels, shares, scene-linear colour, and the frames that a stroke is made for. */
export interface BrushTip {
  tool: Brush;
  size: number;
  hardness: number;
  flow: number;
  colour: readonly [number, number, number];
  /** Stops of dodge and burn, px of blur and sharpen. */
  amount: number;
  frames: 'this' | 'inOut' | 'all';
  /** The reading that new strokes follow. */
  follows: string | null;
  /** Where clone and heal copy from: a place of the step's picture on a frame; once a stroke was made, how far beside. */
  source: { at: readonly [number, number]; frame: number } | null;
  shift: readonly [number, number] | null;
  /** They take from the other picture, and reveal too. */
  other: boolean;
  /** The frame that reveal shows. */
  from: number | null;
}

/** What clicks on the stage make: a point; corners of a plane's region; of a further shape, or of one that is left out; a box to look for details in; or what shall be hidden, or go. */
export type Drawing =
  | { kind: 'point' }
  | { kind: 'plane' }
  | { kind: 'shape' | 'without'; reading: string }
  | { kind: 'suggest' }
  | { kind: 'hide' | 'remove' }
  /** Of a lens: along a straight thing, a crossing that was missed, or around crossings that are wrong, or right again. */
  | { kind: 'straight' | 'ruler' | 'crossing' | 'lasso' | 'lassoBack'; reading: string }
  /** Of a camera: around tracks that shall be chosen. */
  | { kind: 'tracks'; reading: string };

/** A view that is kept for comparing: a point that is worked out again, or a picture as it was. */
export interface Pin {
  label: string;
  /** The result's end without one. */
  tap: Tap | null;
  layer: string;
  snapshot?: { rendered: Rendered; scale: number };
}

export type CompareMode = 'off' | 'wipe' | 'side' | 'flip' | 'difference';

export interface Compare {
  mode: CompareMode;
  /** Which of the pins stands against what is seen. */
  pin: number;
  /** The wipe's middle, in shares of the picture, and its turn in degrees; 0 is upright. */
  x: number;
  y: number;
  angle: number;
  /** A picture that stands in the place of what is seen, where two versions are compared. */
  base: Pin | null;
  /** What differences are multiplied by. */
  gain: number;
}

/** How the shot is looked at: nothing here changes the picture, and nothing here is undone. */
export interface ViewState {
  selection: Selection;
  /** The lane or step whose name is being written. */
  renaming: string | null;
  /** Steps of a lane that are chosen together, from the one index to the other. */
  run: { lane: string; from: number; to: number } | null;
  /** Lanes that alone are joined into what is seen, where there are any. */
  solo: readonly string[];
  /** The point that is seen; the result's end without one. */
  seen: Tap | null;
  /** A source that is looked at in the place of that. */
  looked: string | null;
  layer: string;
  channel: ChannelView;
  exposure: number;
  /** Of the view only: code values to the power of 1/gamma. */
  gamma: number;
  transform: ViewTransform;
  backing: Backing;
  /** Scene-linear, for a backing of one colour. */
  backingColour: readonly [number, number, number];
  surround: Surround;
  pins: readonly (Pin | null)[];
  compare: Compare;
  /** What is seen is shown without the selected step, while a key is held. */
  before: boolean;
  /** Boxes are probed on the stage; x0, y0, x1, y1 in full-size pixels. */
  probing: boolean;
  probe: readonly [number, number, number, number] | null;
  /** A box is dragged for the area that is worked out; only that box of the picture is, in full-size pixels. */
  areaing: boolean;
  area: readonly [number, number, number, number] | null;
  /** Pixels of the square that a click picks a colour from. */
  sampleSize: 1 | 3 | 5 | 11 | 25;
  /** A note's pin is being put on the picture. */
  placing: string | null;
  filmstrip: boolean;
  /** Lines over the picture: title and action areas with the centre, and the shot, lane and frame written in. */
  guides: boolean;
  burnIn: boolean;
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
  /** Of a depth of field: where the focus lies is marked on the picture. */
  focusMarks: boolean;
  brushing: Picking | null;
  brush: BrushTip;
  /** The chosen stroke of the selected step: its place in the list. */
  stroke: number | null;
  /** A new reading is being drawn on the stage, or a further shape of a plane. */
  drawing: Drawing | null;
  /** The reading whose detail is held still while looking. */
  held: string | null;
  /** What is left at the crossings of a lens's charts is drawn on the stage. */
  lensVectors: boolean;
  /** The crossing of a chart that was clicked last. */
  crossing: { frame: number; column: number; row: number } | null;
  /** A file with a camera that is being brought in. */
  incoming: File | null;
  /** The thing of the selected scene that is chosen, by its id. */
  thing: string | null;
  /** The scene, or the camera's points, are looked at from anywhere in the place of the picture. */
  roomView: boolean;
  /** Of the selected lesson: what it makes of its picture is seen. */
  lessonNow: boolean;
  /** Tracks of the selected camera that are chosen. */
  tracks: readonly string[];
  /** The trails of its tracks are drawn on the stage. */
  trails: boolean;
  /** Where a fourth point would not hold a perspective is hatched. */
  areaGuide: boolean;
  dock: 'sources' | 'readings';
  dialog:
    | 'search'
    | 'addStep'
    | 'shortcuts'
    | 'export'
    | 'format'
    | 'versions'
    | 'settings'
    | 'recipes'
    | 'carry'
    | 'remove'
    | 'keyScreen'
    | 'deleteLane'
    | 'unsaved'
    | null;
  tab: 'lanes' | 'curves' | 'scopes' | 'meter' | 'checks' | 'readings' | 'notes';
}

const fresh: ViewState = {
  selection: null,
  renaming: null,
  run: null,
  solo: [],
  seen: null,
  looked: null,
  layer: '',
  channel: 'colour',
  exposure: 0,
  gamma: 1,
  transform: 'sRGB',
  backing: 'checker',
  backingColour: [0.05, 0.1, 0.3],
  surround: 'dark',
  pins: [null, null, null, null],
  compare: { mode: 'off', pin: 0, x: 0.5, y: 0.5, angle: 0, base: null, gain: 1 },
  before: false,
  probing: false,
  probe: null,
  areaing: false,
  area: null,
  sampleSize: 5,
  placing: null,
  filmstrip: false,
  guides: false,
  burnIn: false,
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
  focusMarks: true,
  brushing: null,
  drawing: null,
  held: null,
  lensVectors: true,
  crossing: null,
  incoming: null,
  thing: null,
  roomView: false,
  lessonNow: false,
  tracks: [],
  trails: true,
  areaGuide: false,
  dock: 'sources',
  brush: {
    tool: 'paint',
    size: 40,
    hardness: 0.5,
    flow: 1,
    colour: [0.3, 0.2, 0.14],
    amount: 1,
    frames: 'this',
    follows: null,
    source: null,
    shift: null,
    other: false,
    from: null,
  },
  stroke: null,
  dialog: null,
  tab: 'lanes',
};

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
