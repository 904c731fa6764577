import type { Tap } from '@/core/document';
import type { Remark } from '@/core/evaluate';
import type { Rendered } from '@/engine';
import type { Surround } from '@/store';

export type ChannelView = 'colour' | 'R' | 'G' | 'B' | 'A' | 'luma' | 'audit' | 'overlay';

/** `thirds` is black, white and grey beside each other; `lane` and a lane's id is that lane's picture. */
export type Backing = 'checker' | 'black' | 'white' | 'grey' | 'thirds' | 'colour' | `lane ${string}`;

/** How scene-linear light becomes code values for the display; `lut` and a source's id looks through that colour table. */
export type ViewTransform = 'sRGB' | 'Rec.709' | 'soft' | 'linear' | 'P3' | `lut ${string}`;

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

/** How the picture is looked at. */
export interface Looking {
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
  area: readonly [number, number, number, number] | null;
  filmstrip: boolean;
  /** Lines over the picture: title and action areas with the centre, and the shot, lane and frame written in. */
  guides: boolean;
  burnIn: boolean;
  /** Screen pixels a picture pixel, or fitted. */
  zoom: number | 'fit';
  centre: [number, number];
  scale: 1 | 0.5 | 0.25;
  /** What was remarked while the picture on screen was computed. */
  remarks: readonly Remark[];
  full: boolean;
  /** The reading whose detail is held still while looking. */
  held: string | null;
  /** What is left at the crossings of a lens's charts is drawn on the stage. */
  lensVectors: boolean;
  /** Of a depth of field: where the focus lies is marked on the picture. */
  focusMarks: boolean;
  /** Of the selected lesson: what it makes of its picture is seen. */
  lessonNow: boolean;
  /** The trails of its tracks are drawn on the stage. */
  trails: boolean;
  /** Where a fourth point would not hold a perspective is hatched. */
  areaGuide: boolean;
  /** The scene, or the camera's points, are looked at from anywhere in the place of the picture. */
  roomView: boolean;
}

export const looking: Looking = {
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
  area: null,
  filmstrip: false,
  guides: false,
  burnIn: false,
  zoom: 'fit',
  centre: [0, 0],
  scale: 1,
  remarks: [],
  full: false,
  held: null,
  lensVectors: true,
  focusMarks: true,
  lessonNow: false,
  trails: true,
  areaGuide: false,
  roomView: false,
};
