import type { Curve, CurveValue } from './curves/curves';
import type { ChannelGrain } from './grain/model';
import type { ColourSample } from './keying/samples';
import type { LensData } from './lens/reading';
import type { LessonData } from './learn/reading';
import type { CameraData } from './space/camera-data';
import type { ReadingData } from './readings/use';
import type { StrokesValue } from './paint/pose';
import type { ShapesValue } from './shape/pose';
import type { Shape } from './shape/shapes';
import type { Stroke } from './paint/strokes';
import type { Part } from './params/part';
import type { IdPick } from './passes/picks';
import type { PassRole } from './passes/pass';

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

/** A reading among the shot's, by its id; '' is none. A step gets its data (core/readings/use.ts), or null. */
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

/** The name of another part of the step, or of a point, group or plane of its camera; '' is none. */
export interface NameParam extends Common {
  kind: 'name';
  default: string;
  of: 'part' | 'anchor';
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

type Options<T> = Omit<T, 'kind' | 'title' | 'default' | 'min' | 'max' | 'soft' | 'options' | 'accepts'>;

/** What a value is kept within that has no limits of its own: enough for any picture, and nothing overflows. */
export const WIDEST = 1e6;

export const number = (
  title: string,
  value: number,
  soft: readonly [number, number],
  more: Options<NumberParam> & { min?: number; max?: number } = {},
): NumberParam => ({ kind: 'number', title, default: value, min: -WIDEST, max: WIDEST, soft, ...more });

export const integer = (
  title: string,
  value: number,
  soft: readonly [number, number],
  more: Options<IntegerParam> & { min?: number; max?: number } = {},
): IntegerParam => ({ kind: 'integer', title, default: value, min: soft[0], max: soft[1], soft, decimals: 0, ...more });

export const toggle = (title: string, value: boolean, more: Options<ToggleParam> = {}): ToggleParam => ({
  kind: 'toggle',
  title,
  default: value,
  ...more,
});

export const choice = <const T extends string>(
  title: string,
  value: NoInfer<T>,
  options: readonly { value: T; title: string; help?: string }[],
  more: Options<ChoiceParam> = {},
): ChoiceParam<T> => ({ kind: 'choice', title, default: value, options, animatable: false, ...more });

export const colour = (title: string, value: readonly [number, number, number], more: Options<ColourParam> = {}): ColourParam => ({
  kind: 'colour',
  title,
  default: value,
  ...more,
});

export const triple = (
  title: string,
  value: number,
  soft: readonly [number, number],
  more: Options<TripleParam> & { min?: number; max?: number } = {},
): TripleParam => ({
  kind: 'triple',
  title,
  default: [value, value, value],
  min: -WIDEST,
  max: WIDEST,
  soft,
  ...more,
});

export const point = (
  title: string,
  value: readonly [number, number],
  more: Options<PointParam> & { min?: number; max?: number } = {},
): PointParam => ({ kind: 'point', title, default: value, ...more });

/** A place in the picture, in pixels of the full format from its middle, dragged on the stage. */
export const place = (title: string, value: readonly [number, number], more: Options<PointParam> = {}): PointParam =>
  point(title, value, { unit: 'px', pixels: true, place: 'middle', help: "From the frame's middle.", ...more });

/** Where such a place lies in a format. */
export const placeIn = ([x, y]: readonly [number, number], format: { width: number; height: number }): [number, number] => [
  format.width / 2 + x,
  format.height / 2 + y,
];

export const box = (title: string, value: readonly [number, number, number, number], more: Partial<Options<BoxParam>> = {}): BoxParam => ({
  kind: 'box',
  title,
  default: value,
  pixels: true,
  ...more,
});

export const layer = (title: string, more: Options<LayerParam> = {}): LayerParam => ({
  kind: 'layer',
  title,
  default: '',
  animatable: false,
  ...more,
});

export const parts = <S extends ParamSchema>(
  title: string,
  of: PartsParam['of'],
  item: S,
  more: Partial<Omit<PartsParam<S>, 'kind' | 'title' | 'item' | 'of'>> = {},
): PartsParam<S> => ({
  kind: 'parts',
  title,
  default: [],
  animatable: false,
  of,
  item,
  ...more,
});

export const picks = (title: string, more: Options<PicksParam> = {}): PicksParam => ({
  kind: 'picks',
  title,
  default: [],
  animatable: false,
  ...more,
});

export const table = (title: string, more: Options<TableParam> = {}): TableParam => ({
  kind: 'table',
  title,
  default: '',
  animatable: false,
  ...more,
});

export const samples = (title: string, more: Options<SamplesParam> = {}): SamplesParam => ({
  kind: 'samples',
  title,
  default: [],
  animatable: false,
  ...more,
});

export const strokes = (title: string, more: Options<StrokesParam> = {}): StrokesParam => ({
  kind: 'strokes',
  title,
  default: [],
  animatable: false,
  ...more,
});

export const reading = (title: string, accepts: ReadingParam['accepts'], more: Options<ReadingParam> = {}): ReadingParam => ({
  kind: 'reading',
  title,
  default: '',
  animatable: false,
  accepts,
  ...more,
});

export const lens = (title: string, more: Options<LensParam> = {}): LensParam => ({
  kind: 'lens',
  title,
  default: '',
  animatable: false,
  ...more,
});

export const camera = (title: string, more: Options<CameraParam> = {}): CameraParam => ({
  kind: 'camera',
  title,
  default: '',
  animatable: false,
  ...more,
});

export const lesson = (title: string, more: Options<LessonParam> = {}): LessonParam => ({
  kind: 'lesson',
  title,
  default: '',
  animatable: false,
  ...more,
});

export const model = (title: string, more: Options<ModelParam> = {}): ModelParam => ({
  kind: 'model',
  title,
  default: '',
  animatable: false,
  ...more,
});

export const nameOf = (title: string, of: NameParam['of'], more: Partial<Options<NameParam>> = {}): NameParam => ({
  kind: 'name',
  title,
  default: '',
  animatable: false,
  of,
  ...more,
});

export const curves = (title: string, more: Options<CurvesParam> = {}): CurvesParam => ({
  kind: 'curves',
  title,
  default: [],
  animatable: false,
  ...more,
});

export const shapes = (title: string, more: Options<ShapesParam> = {}): ShapesParam => ({
  kind: 'shapes',
  title,
  default: [],
  animatable: false,
  ...more,
});

export const grain = (title: string, more: Options<GrainParam> = {}): GrainParam => ({
  kind: 'grain',
  title,
  default: [],
  animatable: false,
  ...more,
});

export const formula = (title: string, more: Options<FormulaParam> = {}): FormulaParam => ({
  kind: 'formula',
  title,
  default: '',
  animatable: false,
  ...more,
});
