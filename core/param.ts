import type {
  BoxParam,
  CameraParam,
  ChoiceParam,
  ColourParam,
  CurvesParam,
  FormulaParam,
  GrainParam,
  IntegerParam,
  LayerParam,
  LensParam,
  LessonParam,
  ModelParam,
  NameParam,
  NumberParam,
  ParamSchema,
  PartsParam,
  PicksParam,
  PointParam,
  ReadingParam,
  SamplesParam,
  ShapesParam,
  StrokesParam,
  TableParam,
  ToggleParam,
  TripleParam,
} from './params/definitions';

export type * from './params/definitions';

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
