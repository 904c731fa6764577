import type { Format } from '../picture';
import type { Reading } from '../readings/types';
import type { PassNote } from '../passes/pass';
import type { Tap } from './tap';

export type { Tap } from './tap';

export const SCHEMA = 'ostracon/4';

/** A list of objects: samples, strokes, curves. Plain JSON, checked by the kind of its parameter. */
export type Structured = readonly object[];

export type Value = Structured | number | boolean | string | readonly number[];

export type Ease = 'hold' | 'linear' | 'smooth';

/**
 * A parameter's value set at a frame. `before` and `after` are offsets of
 * its Bézier handles: frames, then the value, of a list one a number. Worked out where they are absent.
 */
export interface Key {
  frame: number;
  value: Value;
  ease: Ease;
  before?: number[];
  after?: number[];
}

/** The parameter of another step that one follows. `was` is what that one last was, kept when it is deleted. */
export interface Link {
  step: string;
  param: string;
  was?: Value | { keys: Key[] };
}

/** A constant, a keyed curve, or a link to another step's parameter. */
export type Param = Value | { keys: Key[] } | { link: Link };

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

/** From a source, from a point of another lane, or from nothing: a clear picture of the shot's format. */
export type LaneStart = { source: string } | { tap: Tap } | { empty: true };

/**
 * A run of a lane's steps under one matte: an adjustment in its place. Where it is, its mix and its mask are kept as a step's are; see
 * core/steps/zone.ts for its parameters.
 */
export interface Zone extends Step {
  type: 'zone';
  /** Its first and its last step. */
  first: string;
  last: string;
}

export interface Lane {
  id: string;
  name: string;
  start: LaneStart;
  steps: Step[];
  /** Beside each other, never inside each other. */
  zones?: Zone[];
  /** A muted lane's joins and feeds are passed by. */
  muted: boolean;
  collapsed: boolean;
  /** Nothing of it may be changed, by mistake or otherwise. */
  locked?: boolean;
}

/** What the colour code values of a source mean. */
export type ColourSpace =
  | 'sRGB'
  | 'Display P3'
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

/** A file by its contents. */
export interface MediaFile {
  /** SHA-256 of the file's bytes, hex. */
  hash: string;
  name: string;
}

export interface MediaFrame extends MediaFile {
  /** Number in the file's name; 1 for a still. */
  frame: number;
  /** Where it holds pixels, as x0, y0, x1, y1 from the frame's corner; the whole frame without. */
  bounds?: number[];
  /** Files beside it that hold further layers of the same frame. */
  parts?: readonly (MediaFile & { layer: string; bounds?: number[] })[];
  /** Width and height, where they are not those of the source: such a frame is shown as odd and cannot be used. */
  size?: readonly [number, number];
}

/** A `lut` and a `model` are no pictures: steps and the view take colour tables and things of triangles from them. */
export type SourceKind = 'sequence' | 'still' | 'movie' | 'lut' | 'model';

export interface Source {
  id: string;
  name: string;
  kind: SourceKind;
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
  /** The shot's frame at which the source's first frame stands: the first that is used, where some are left out. */
  start: number;
  /** How many frames a movie has; they are numbered from 1. */
  length?: number;
  /** Of the numbers of the media's frames, the first and the last that are used. */
  trim?: { first: number; last: number };
  /** Frames a second at which it was filmed, where it shall keep its own time; without it one frame of it stands on each of the shot's. */
  rate?: number;
  /** Frames of the shot that a still is there for; always, without it. */
  duration?: number;
  /** Channels that its files store otherwise than as half floats. */
  types?: Readonly<Record<string, 'float' | 'uint'>>;
  /** Why its alpha may be understood wrongly, where its pixels speak against it; gone once somebody has chosen. */
  alphaDoubt?: string;
  /** What is known of its passes, by their names; what is not noted is told by the name. */
  passes?: Readonly<Record<string, PassNote>>;
  /** What its header says of it, for reading: name and value. */
  attributes?: readonly (readonly [string, string])[];
}

export const NOTE_COLOURS = ['clay', 'ochre', 'glaze', 'bone'] as const;
export type NoteColour = (typeof NOTE_COLOURS)[number];

/** A remark on a frame, or on the frames up to `last`. */
export interface Note {
  id: string;
  frame: number;
  last?: number;
  text: string;
  colour?: NoteColour;
  done?: boolean;
  /** Where on the picture it points, in full-size pixels. */
  at?: readonly [number, number];
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
  readings: Reading[];
  notes: Note[];
}
