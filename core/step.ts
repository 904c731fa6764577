import type { Kernels, Plane } from '@/kernels';
import type { PreparedCube } from './colour/cube';
import type { Mapping } from './geometry/mapping';
import type { Applied } from './learn/apply';
import type { Rect } from './geometry/rect';
import type { FeedDefinition, ParamSchema, ParamValues } from './param';
import { toggle } from './param';
import type { RoledPass } from './passes/pass';
import type { Format, PictureInfo, Tile } from './picture';
import type { Reading } from './readings/types';
import type { Model } from './render/model';

export const FAMILIES = [
  'Colour',
  'Channels',
  'Matte',
  'Shape & touch-up',
  'Filter',
  'Place & warp',
  'Generate',
  'Time',
  'Passes',
  'Light & air',
  'Join',
  'Space',
] as const;
export type Family = (typeof FAMILIES)[number];

export type { FeedDefinition } from './param';

/** What a step is told before its inputs are planned. */
export interface TimeIo<P> {
  readonly frame: number;
  /** The shot's. */
  readonly range: { readonly first: number; readonly last: number };
  /** Parameters at the times asked for by `samples`. */
  readonly samples: readonly P[];
}

/** What a step is told about its surroundings before pixels exist. `main` is the picture it stands on. */
export interface StepIo<P> extends TimeIo<P> {
  /** The shot's frames a second. */
  readonly frameRate: number;
  readonly scale: number;
  /** The shot's format, at the scale. */
  readonly shotFormat: Format;
  readonly inputs: Readonly<Record<string, PictureInfo | undefined>>;
  /** The same of an input at one of the frames that `frames` names. */
  info(input: string, frame: number): PictureInfo | undefined;
  /** Of a placing step: where it and the placing steps right before it put positions of `main`, one mapping a shutter sample. */
  readonly placements: readonly Mapping[];
}

export type Locality = 'pixel' | 'region' | 'whole';

export interface Want {
  readonly region: Rect;
  readonly channels: readonly string[];
}

export interface Need extends Want {
  /** `main` or a feed's name. */
  readonly input: string;
  /** Frame it is needed at; the current one unless said. */
  readonly frame?: number;
}

export interface RenderContext<P> extends StepIo<P> {
  readonly kernels: Kernels;
  /** The tile that was needed, covering exactly the region asked for; undefined for a feed that is not connected. */
  tile(input: string, frame?: number): Tile | undefined;
  /** Stands for the pixels of all its inputs: the same where those are. */
  readonly inputsKey: string;
  /** The colour table that a parameter names; undefined where it names none. */
  table(param: string): PreparedCube | undefined;
  /** The model that a parameter names, of a part by `part.name`. */
  model(param: string): Model | undefined;
  /** What the lesson that a parameter names has learnt; undefined where that is nothing. */
  lesson(param: string): Applied | undefined;
  /** Scratch that is given back when the step is done. */
  scratch(n: number): Plane;
  /** To be called now and then by a step that works long: throws Cancelled when newer work has replaced this. */
  poll(): void;
}

/**
 * One operation. A step is a value of this shape, in a file of its own; the evaluator, the controls, the validation, the
 * documentation and the command line all read it.
 */
export interface StepDefinition<S extends ParamSchema = ParamSchema, P = ParamValues<S>> {
  readonly type: string;
  readonly title: string;
  readonly family: Family;
  /** One sentence: what it is for. */
  readonly summary: string;
  readonly params: S;
  readonly feeds: readonly FeedDefinition[];
  /** Made by the planner, never added by hand. */
  readonly internal?: boolean;
  /** A colour step: R, G, B are divided by alpha before it and multiplied after, where its toggle says so. */
  readonly colour?: boolean;
  /** Times at which the parameters are wanted besides the frame: for motion blur, or a speed that is summed up. */
  samples?(p: P, frame: number): number[];
  /** Parameters that have no effect with the readings that it names: they are not shown. */
  idle?(params: Readonly<Record<string, unknown>>, readings: readonly Reading[]): readonly string[];
  /** What is worth telling of its parameters, though it can work: shown with the step. */
  remark?(p: P, io: StepIo<P>): string | null;
  /** True where it would change nothing: it is then left out. */
  neutral?(p: P, io: StepIo<P>): boolean;
  /** The frame it delivers; that of `main` unless said. */
  format?(p: P, io: StepIo<P>): Format;
  /** Where it can have pixels; the bounds of `main` unless said. */
  bounds?(p: P, io: StepIo<P>): Rect;
  /** Channels it delivers; those of `main` unless said. */
  channels?(p: P, io: StepIo<P>): readonly string[];
  /** What is known of the passes that it delivers; that of `main` unless said. */
  passes?(p: P, io: StepIo<P>): readonly RoledPass[] | undefined;
  /** Of the channels wanted, those it changes; the others are passed on. All unless said. */
  writes?(p: P, channels: readonly string[], io: StepIo<P>): readonly string[];
  /**
   * Frames it needs of each input, where that is not just the current one: all of them. Others are not planned, so that one that is
   * missing does no harm. They may lie between two frames.
   */
  frames?(p: P, io: TimeIo<P>): Partial<Record<string, readonly number[]>>;
  /** What else its pixels depend on than its parameters and what it reads: the frame, a part of one, a seed. */
  identity?(p: P, io: StepIo<P>): unknown;
  /** True where a reading among its parameters makes it no other picture on each frame: it is of the frames that it reads. */
  still?(p: P): boolean;
  /**
   * What a pixel that it writes depends on: that pixel alone (it is then worked out a tile at a time), pixels around it, or any of the
   * picture (worked out once, for the whole). `pixel` where it says no needs, else `region`.
   */
  readonly locality?: Locality | ((p: P) => Locality);
  /** What it needs in order to write the wanted channels of the region. The same region of `main` unless said. */
  needs?(p: P, want: Want, io: StepIo<P>): readonly Need[];
  /**
   * A placing step: where it puts positions of `main`, one mapping a shutter sample. Placing steps that follow each other are done as
   * one, with the last one's filter; where nothing is moved after all, the picture is passed on as it is.
   */
  placements?(p: P, io: StepIo<P>): readonly Mapping[];
  /** Data channels of `main` are given as they are: NaN and infinity in them say something. */
  readonly readsData?: boolean;
  /** True of a placing step that cuts its picture off at its frame: later ones are not joined with it. */
  cuts?(p: P): boolean;
  /** True of a step that bends straight pixels back: pictures that were joined before it are bent one by one, each resampled once. */
  bends?(p: P): boolean;
  /** True of a step that mixes pixels which lie on each other, so that it may as well be done after they are bent. */
  mixes?: boolean;
  /** False where each pixel it writes is a copy of one that it reads. NaN and infinity are missing pixels to all other steps that read a neighbourhood. */
  spreads?(p: P): boolean;
  /** Fills every plane of `out`. Inputs must not be changed. */
  render(ctx: RenderContext<P>, p: P, out: Tile): void;
}

const unpremultiply = {
  unpremultiply: toggle('Divide by alpha', true, {
    group: 'Limit',
    animatable: false,
    help: 'Divides by alpha before and multiplies after, so that edges keep their brightness.',
  }),
};

/** Without parameters, the most that any may ask for. */
export const localityOf = <P>(d: { locality?: Locality | ((p: P) => Locality); needs?: unknown }, p?: unknown): Locality => {
  if (typeof d.locality === 'function') return p ? d.locality(p as P) : 'whole';
  return d.locality ?? (d.needs ? 'region' : 'pixel');
};

/** Checks the shape at compile time and gives every colour step its unpremultiply toggle. */
export function defineStep<S extends ParamSchema>(d: StepDefinition<S>): StepDefinition {
  const params: ParamSchema = d.colour ? { ...d.params, ...unpremultiply } : d.params;
  // A colour that depends on its pixel alone is the same before and after that is moved.
  const mixes = d.mixes ?? (d.family === 'Colour' && localityOf(d) === 'pixel' && d.feeds.length === 0 && !d.identity);
  return { ...d, params, mixes } as unknown as StepDefinition;
}

export const pixelsOf = (t: Tile): number => (t.region.x1 - t.region.x0) * (t.region.y1 - t.region.y0);
