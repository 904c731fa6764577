import type { Curve, CurveValue } from '../curves/curves';
import type { ChannelGrain } from '../grain/model';
import type { ColourSample } from '../keying/samples';
import type { LensData } from '../lens/reading';
import type { LessonData } from '../learn/reading';
import type { CameraData } from '../space/camera-data';
import type { ReadingData } from '../readings/track-data';
import type { StrokesValue } from '../paint/pose';
import type { ShapesValue } from '../shape/pose';
import type { Shape } from '../shape/shapes';
import type { Stroke } from '../paint/strokes';
import type { Part } from './part';
import type { IdPick } from '../passes/picks';
import type { PassRole } from '../passes/pass';

/** A side input of a step. */
export interface FeedDefinition {
  name: string;
  title: string;
  /** What it is used for, in a few words. */
  help: string;
  /** Without it the step passes its picture through and says so. */
  required?: boolean;
  /** Its channels are no light but data: NaN in them is told to the step, not filled. */
  data?: boolean;
  /** Its alpha alone counts: it is shown as a matte. */
  matte?: boolean;
  /** Of a part: values of its other parameters with which it counts. */
  when?: Readonly<Record<string, readonly (string | boolean)[]>>;
  /** Unless connected, it is the picture right before the join that brings the step's lane in; see core/document/behind.ts. */
  behind?: boolean;
}

/** How a parameter is shown, limited and read. From these come the controls, the validation, the docs and the CLI's list. */
interface Common {
  title: string;
  group?: string;
  help?: string;
  /** Values of other choices and toggles with which it has an effect: it is shown only with those; without, it always is. */
  when?: Readonly<Record<string, readonly (string | boolean)[]>>;
  /** Can be keyed; true unless said otherwise. */
  animatable?: boolean;
}

export interface NumberParam extends Common {
  kind: 'number';
  default: number;
  min: number;
  max: number;
  /** The slider's range; values beyond it can be typed. */
  soft: readonly [number, number];
  unit?: string;
  /** In pixels of the full format: scaled with the proxy. */
  pixels?: boolean;
  /** Decimals shown. */
  decimals?: number;
}
export interface IntegerParam extends Omit<NumberParam, 'kind'> {
  kind: 'integer';
}
export interface ToggleParam extends Common {
  kind: 'toggle';
  default: boolean;
}
export interface ChoiceParam<T extends string = string> extends Common {
  kind: 'choice';
  default: T;
  options: readonly { value: T; title: string; help?: string }[];
}
/** A colour, scene-linear. */
export interface ColourParam extends Common {
  kind: 'colour';
  default: readonly [number, number, number];
  /** Can be taken from the picture on the stage. */
  pick?: boolean;
}
/** One number a channel: R, G, B. */
export interface TripleParam extends Common {
  kind: 'triple';
  default: readonly [number, number, number];
  min: number;
  max: number;
  soft: readonly [number, number];
}
/** A position in pixels of the full format, or a pair of factors. */
export interface PointParam extends Common {
  kind: 'point';
  default: readonly [number, number];
  pixels?: boolean;
  /** A place in the picture, dragged on the stage: measured from its left upper corner, or from its middle. */
  place?: 'corner' | 'middle';
  unit?: string;
  min?: number;
  max?: number;
}
/** x0, y0, x1, y1 in pixels of the full format. */
export interface BoxParam extends Common {
  kind: 'box';
  default: readonly [number, number, number, number];
  pixels: true;
}

/** The name of a layer of the picture the step stands on; '' is the unnamed one or, with a role, the picture's first layer of that role. */
export interface LayerParam extends Common {
  kind: 'layer';
  default: string;
  role?: PassRole;
  /** What '' is called, where it is no layer. */
  none?: string;
}

/** Colours picked from the picture in boxes. */
export interface SamplesParam extends Common {
  kind: 'samples';
  default: readonly ColourSample[];
}

/** Brush strokes. A step gets those of its frame. */
export interface StrokesParam extends Common {
  kind: 'strokes';
  default: readonly Stroke[];
  /** The brush's colour counts, and shows in the picture; else strokes only say where. */
  coloured?: boolean;
}

/** Outlines with keys. A step gets them as they lie at its time. */
export interface ShapesParam extends Common {
  kind: 'shapes';
  default: readonly Shape[];
}

/** A reading among the shot's, by its id; '' is none. A step gets its data (core/readings/kinds), or null. */
export interface ReadingParam extends Common {
  kind: 'reading';
  default: string;
  accepts: 'point' | 'plane' | 'any';
}

/** A lens among the shot's readings, by its id; '' is none. A step gets its data (core/lens/reading.ts), or null. */
export interface LensParam extends Common {
  kind: 'lens';
  default: string;
}

/** A solved camera among the shot's readings, by its id; '' is none. A step gets its data (core/space/camera-data.ts), or null. */
export interface CameraParam extends Common {
  kind: 'camera';
  default: string;
}

/** A lesson among the shot's readings, by its id; '' is none. A step gets its data (core/learn/reading.ts), or null where it has learnt nothing, and by `ctx.lesson` what it has. */
export interface LessonParam extends Common {
  kind: 'lesson';
  default: string;
}

/** A model among the shot's sources, by its id; '' is none. */
export interface ModelParam extends Common {
  kind: 'model';
  default: string;
}

/** The name of another part of the step, of a point, group or plane of its camera, or of a group alone; '' is none. */
export interface NameParam extends Common {
  kind: 'name';
  default: string;
  of: 'part' | 'anchor' | 'group';
}

/** A colour table among the shot's sources, by its id; '' is none. */
export interface TableParam extends Common {
  kind: 'table';
  default: string;
}

/** Curves through points, of all channels and of each. */
export interface CurvesParam extends Common {
  kind: 'curves';
  default: readonly Curve[];
}

/** The grain of a plate, a channel at a time. */
export interface GrainParam extends Common {
  kind: 'grain';
  default: readonly ChannelGrain[];
}

/** Arithmetic on channels, in words of core/formula; '' leaves a channel as it is. */
export interface FormulaParam extends Common {
  kind: 'formula';
  default: string;
}

/** Parts of the step, each with parameters of its own, which are keyed and linked as all are. A step gets them with their values. */
export interface PartsParam<S extends ParamSchema = ParamSchema> extends Common {
  kind: 'parts';
  default: readonly Part[];
  item: S;
  /** What one is: a pass of these roles, a lamp, or a thing in the shot. */
  of: 'pass' | 'lamp' | 'thing';
  roles?: readonly PassRole[];
  /** Feeds that each part has, named as its parameters are. */
  feeds?: readonly FeedDefinition[];
}

/** Things picked in the picture by their ids. */
export interface PicksParam extends Common {
  kind: 'picks';
  default: readonly IdPick[];
}

export type ParamDefinition =
  | CameraParam
  | LessonParam
  | ModelParam
  | NameParam
  | PicksParam
  | PartsParam
  | GrainParam
  | FormulaParam
  | CurvesParam
  | SamplesParam
  | StrokesParam
  | ShapesParam
  | ReadingParam
  | LensParam
  | LayerParam
  | TableParam
  | NumberParam
  | IntegerParam
  | ToggleParam
  | ChoiceParam
  | ColourParam
  | TripleParam
  | PointParam
  | BoxParam;

/** The definition of a kind. */
export type ParamOf<K extends ParamDefinition['kind']> = Extract<ParamDefinition, { kind: K }>;

export interface ParamSchema {
  [name: string]: ParamDefinition;
}

type ValueOf<D extends ParamDefinition> =
  D extends PartsParam<infer I>
    ? readonly (Part & ParamValues<I>)[]
    : D extends ReadingParam
      ? ReadingData | null
      : D extends LensParam
        ? LensData | null
        : D extends LessonParam
          ? LessonData | null
          : D extends CameraParam
            ? CameraData | null
            : D extends GrainParam
              ? readonly ChannelGrain[]
              : D extends PicksParam
                ? readonly IdPick[]
                : D extends CurvesParam
                  ? CurveValue
                  : D extends SamplesParam
                    ? readonly ColourSample[]
                    : D extends ShapesParam
                      ? ShapesValue
                      : D extends StrokesParam
                        ? StrokesValue
                        : D extends ToggleParam
                          ? boolean
                          : D extends ChoiceParam<infer T>
                            ? T
                            : D extends NumberParam | IntegerParam
                              ? number
                              : D extends LayerParam | TableParam | FormulaParam | ModelParam | NameParam
                                ? string
                                : D extends PointParam
                                  ? readonly [number, number]
                                  : D extends BoxParam
                                    ? readonly [number, number, number, number]
                                    : readonly [number, number, number];

export type ParamValues<S extends ParamSchema> = { [K in keyof S]: ValueOf<S[K]> };
