import type { Format } from '../picture';

export const SCHEMA = 'ostracon/1';

export type Value = number | boolean | string | readonly number[];

export type Ease = 'hold' | 'linear' | 'smooth';

/** A parameter's value set at a frame. Tangents are (frames, value) offsets of Bézier handles; absent means worked out. */
export interface Key {
  frame: number;
  value: Value;
  ease: Ease;
  before?: [number, number];
  after?: [number, number];
}

/** A constant, a keyed curve, or a link to another step's parameter. */
export type Param = Value | { keys: Key[] } | { link: { step: string; param: string } };

/** A point of a lane: at its end, after the named step, or, with `after: ''`, at its start. */
export interface Tap {
  lane: string;
  after?: string;
}

export interface Mask extends Tap {
  /** Channel that limits, or `luma`. */
  channel: string;
  invert: boolean;
}

export interface Step {
  id: string;
  type: string;
  name: string;
  on: boolean;
  params: Record<string, Param>;
  feeds: Record<string, Tap>;
  mask?: Mask;
  mix: Param;
}

export type LaneStart = { source: string } | { tap: Tap };

export interface Lane {
  id: string;
  name: string;
  start: LaneStart;
  steps: Step[];
  /** A muted lane's joins and feeds are passed by. */
  muted: boolean;
  collapsed: boolean;
}

/** What the colour code values of a source mean. */
export type ColourSpace =
  | 'sRGB'
  | 'Rec.709'
  | 'gamma 2.2'
  | 'gamma 2.4'
  | 'linear'
  | 'linear Rec.2020'
  | 'linear P3'
  | 'ACEScg'
  | 'ACES2065-1'
  | 'PQ'
  | 'HLG'
  | 'Cineon'
  | 'S-Log3'
  | 'LogC3'
  | 'LogC4'
  | 'V-Log'
  | 'Log3G10'
  | 'C-Log3';
/** `luma` is for elements filmed on black: their brightness is their coverage. */
export type AlphaKind = 'premultiplied' | 'straight' | 'ignore' | 'luma';
export type Missing = 'error' | 'hold' | 'black';

export interface MediaFrame {
  /** Number in the file's name; 1 for a still. */
  frame: number;
  /** SHA-256 of the file's bytes, hex. */
  hash: string;
  name: string;
  /** Where it holds pixels, as x0, y0, x1, y1 from the frame's corner; the whole frame without. */
  bounds?: number[];
}

export interface Source {
  id: string;
  name: string;
  kind: 'sequence' | 'still';
  /** Either files by hash, or a path relative to the shot file with #### for the frame (command line only). */
  frames?: MediaFrame[];
  path?: string;
  /** From the first file's header. */
  format: Format;
  channels: string[];
  container: string;
  colourSpace: ColourSpace;
  /** Why that was taken, while it is a guess; gone once somebody has chosen. */
  colourReason?: string;
  alpha: AlphaKind;
  missing: Missing;
  /** The shot's frame at which the source's first frame stands. */
  start: number;
}

export interface Note {
  id: string;
  frame: number;
  text: string;
}

export interface Shot {
  schema: typeof SCHEMA;
  id: string;
  name: string;
  format: Format;
  frameRate: number;
  range: { first: number; last: number };
  sources: Source[];
  lanes: Lane[];
  /** The lane that is the shot. */
  result: string | null;
  readings: unknown[];
  notes: Note[];
}
