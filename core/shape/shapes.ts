import * as yup from 'yup';
import type { Ease } from '../document/types';
import { isNumbers, listOf } from '../params/list-of';

/** How a shape acts on the coverage of those before it. */
export const OPERATIONS = ['add', 'subtract', 'intersect', 'exclude'] as const;
export type Operation = (typeof OPERATIONS)[number];

/** How a feather falls from full to nothing. */
export const FALLOFFS = ['linear', 'smooth', 'gamma'] as const;
export type Falloff = (typeof FALLOFFS)[number];

/** `bezier` goes through its points; `smooth` is a uniform cubic B-spline drawn by them. */
export const SPLINES = ['bezier', 'smooth'] as const;
export type Spline = (typeof SPLINES)[number];

/** Numbers a point: x, y, the offsets of the tangent that comes in and of the one that goes out, and what it adds to the feather. All px. */
export const POINT_SIZE = 7;

/** Points of a shape at a frame, POINT_SIZE numbers each, on the reference frame of what it follows. */
export interface ShapeKey {
  frame: number;
  value: readonly number[];
  ease: Ease;
  /** Of a key that was found in the picture: how sure it is, 0..1. Moved by hand it is none of those any more. */
  sure?: number;
}

/** Below this a key that was found is one to look at. */
export const DOUBTFUL = 0.55;

/** An outline drawn on the picture. Lengths are in full-size pixels. */
export interface Shape {
  id: string;
  name: string;
  on: boolean;
  locked?: boolean;
  /** Of its outline on the stage: a number of the theme's row of marks. */
  mark: number;
  operation: Operation;
  /** 0..1 */
  opacity: number;
  /** px, outward where it is more than 0, inward where less. */
  feather: number;
  falloff: Falloff;
  /** An open one is a line of a width. */
  closed: boolean;
  width: number;
  spline: Spline;
  /** Ids of readings that carry it: a point, two points, four points or a plane; none where it stays. */
  follows: readonly string[];
  /** At least one, in order of frames, with as many points each. */
  keys: readonly ShapeKey[];
  /** Of a shape whose motion was written into keys: what it followed, and the keys that it had. */
  live?: { follows: readonly string[]; keys: readonly ShapeKey[] };
}

/** Points that a shape may have. */
export const MOST_SHAPE_POINTS = 10_000;

const finite = () => yup.number().strict().required();
const flag = () => yup.boolean().strict().required();

const key = yup
  .object({
    frame: finite().integer(),
    ease: yup.string().oneOf(['hold', 'linear', 'smooth']).required(),
    sure: yup.number().strict().min(0).max(1).optional(),
    value: yup
      .mixed(isNumbers)
      .required()
      .test('points', 'whole points', (v) => v.length >= POINT_SIZE && v.length % POINT_SIZE === 0)
      .test('few', 'not too many', (v) => v.length <= POINT_SIZE * MOST_SHAPE_POINTS),
  })
  .required();

const item = yup
  .object({
    id: yup.string().strict().min(1).required(),
    name: yup.string().strict().min(1).max(200).required(),
    on: flag(),
    locked: yup.boolean().strict().optional(),
    mark: finite().integer().min(0).max(99),
    operation: yup.string().oneOf(OPERATIONS).required(),
    opacity: finite().min(0).max(1),
    feather: finite().min(-4096).max(4096),
    falloff: yup.string().oneOf(FALLOFFS).required(),
    closed: flag(),
    width: finite().min(0).max(4096),
    spline: yup.string().oneOf(SPLINES).required(),
    follows: yup.array(yup.string().strict().required()).required().max(4),
    keys: yup.array(key).required().min(1),
    live: yup
      .object({ follows: yup.array(yup.string().strict().required()).required().max(4), keys: yup.array(key).required().min(1) })
      .default(undefined)
      .optional(),
  })
  .required()
  .test('keys', 'keys in order with as many points each', ({ keys }) =>
    keys.every((k, i) => i === 0 || (k.frame > keys[i - 1]!.frame && k.value.length === keys[0]!.value.length)),
  );

/** The shapes of a parameter. Throws ShotError where it has none. */
export const shapesOf = listOf<Shape>(item, 'its shapes are damaged; remove them and draw again');

export const pointCount = (s: Shape): number => s.keys[0]!.value.length / POINT_SIZE;
