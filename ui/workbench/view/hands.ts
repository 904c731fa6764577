import type { Brush } from '@/core/paint';

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

/** What the pointer does on the stage. */
export interface Hands {
  picking: Picking | null;
  brushing: Picking | null;
  brush: BrushTip;
  /** A new reading is being drawn on the stage, or a further shape of a plane. */
  drawing: Drawing | null;
  /** Boxes are probed on the stage; x0, y0, x1, y1 in full-size pixels. */
  probing: boolean;
  probe: readonly [number, number, number, number] | null;
  /** A box is dragged for the area that is worked out; only that box of the picture is, in full-size pixels. */
  areaing: boolean;
  /** Pixels of the square that a click picks a colour from. */
  sampleSize: 1 | 3 | 5 | 11 | 25;
  /** A note's pin is being put on the picture. */
  placing: string | null;
  /** A control is being dragged: the picture may be coarser. */
  dragging: boolean;
}

export const hands: Hands = {
  picking: null,
  brushing: null,
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
  drawing: null,
  probing: false,
  probe: null,
  areaing: false,
  sampleSize: 5,
  placing: null,
  dragging: false,
};
