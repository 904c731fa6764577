import type { Shot, Structured, Value } from '../document/types';
import type { ParamDefinition } from '../param';
import type { CurveValue } from '../curves/curves';
import type { LessonData } from '../learn/reading';
import type { LensData } from '../lens/reading';
import type { CameraData } from '../space/camera-data';
import type { ReadingData } from '../readings/track-data';
import type { StrokesValue } from '../paint/pose';
import type { ShapesValue } from '../shape/pose';

/** What a step gets of a parameter: its value, or the data of what it names, null where that is not there. */
export type StepValue = Value | ReadingData | LensData | CameraData | LessonData | CurveValue | ShapesValue | StrokesValue | null;

/** Where and when a value is worked out. */
export interface ValuePlace {
  readonly shot: Shot;
  /** In frames. */
  readonly time: number;
  readonly scale: number;
}

/** Something of the shot that a value names. */
export interface Reference {
  readonly kind: 'source' | 'reading';
  readonly id: string;
}

/** All there is to know of a kind of parameters. How it is edited is in ui/controls/fields. */
export interface ParamKind<D extends ParamDefinition = ParamDefinition> {
  /** Of a structured value: what is damaged of it in a document, in words; null where nothing is. Whatever else is of another kind becomes the default. */
  problem?(value: unknown): string | null;
  /** The value kept inside what the definition allows; one that is not of this kind becomes the default. */
  admit(value: Value, d: D): Value;
  /** What a step gets of it; the value itself unless said. */
  resolve?(value: Value, d: D, at: ValuePlace): StepValue;
  /** What of the shot it names, and the value with those names changed; '' names nothing any more. */
  references?(value: Value): readonly Reference[];
  remap?(value: Value, to: (id: string) => string): Value;
  /** Its unit, range or choices, for lists and documents. */
  tell(d: D): string;
}

export const isStructured = (v: unknown): v is Structured =>
  Array.isArray(v) && v.every((x) => typeof x === 'object' && x !== null && !Array.isArray(x));
