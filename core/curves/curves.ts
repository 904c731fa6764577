import * as yup from 'yup';
import type { Value } from '../document/types';
import { ShotError } from '../errors';
import { monotoneSlope } from '../monotone';
import { isNumbers, listOf } from '../params/list-of';

export const CURVE_CHANNELS = ['all', 'R', 'G', 'B'] as const;

/** A curve through points, as a document keeps it. */
export interface Curve {
  channel: (typeof CURVE_CHANNELS)[number];
  /** x, y after each other, in order of x. Two points at least. */
  points: readonly number[];
}

/** Points that a curve may have. */
export const MOST_POINTS = 64;
/** Nearest that two points' x may be. */
export const LEAST_APART = 1e-4;

const item = yup
  .object({
    channel: yup.string().oneOf(CURVE_CHANNELS).required(),
    points: yup
      .mixed(isNumbers)
      .required()
      .test('pairs', 'two points or more', (v) => v.length >= 4 && v.length % 2 === 0 && v.length <= 2 * MOST_POINTS)
      .test('order', 'points in order', (v) => v.every((x, i) => i % 2 === 1 || i === 0 || x > v[i - 2]!)),
  })
  .required();

const DAMAGED = 'its curves are damaged; reset them';
const listed = listOf<Curve>(item, DAMAGED);

/** The curves of a parameter, one a channel at most. Throws ShotError where it has none. */
export function checkCurves(value: unknown): readonly Curve[] {
  const list = listed(value);
  if (new Set(list.map((c) => c.channel)).size !== list.length) throw new ShotError(DAMAGED);
  return list;
}

/** The straight line, which changes nothing. */
export const STRAIGHT: readonly number[] = [0, 0, 1, 1];
export const isStraight = (points: readonly number[]): boolean => points.every((v, i) => i % 2 === 1 || v === points[i + 1]);

/** Slopes at points; at the ends that of the straight line to the neighbour. */
function slopes(points: readonly number[]): number[] {
  const n = points.length / 2;
  const [x, y] = [0, 1].map((k) => Array.from({ length: n }, (_, i) => points[2 * i + k]!)) as [number[], number[]];
  const rise = (i: number): number => (y[i + 1]! - y[i]!) / (x[i + 1]! - x[i]!);
  return x.map((_, i) => {
    if (n === 2 || i === 0) return rise(0);
    if (i === n - 1) return rise(n - 2);
    return monotoneSlope(rise(i - 1), rise(i), x[i]! - x[i - 1]!, x[i + 1]! - x[i]!);
  });
}

/** The function through points: a monotone cubic between them, straight on beyond both ends. */
export function curveThrough(points: readonly number[]): (x: number) => number {
  const m = slopes(points);
  const n = points.length / 2;
  return (at) => {
    if (at <= points[0]!) return points[1]! + m[0]! * (at - points[0]!);
    if (at >= points[2 * n - 2]!) return points[2 * n - 1]! + m[n - 1]! * (at - points[2 * n - 2]!);
    let i = 0;
    while (at > points[2 * i + 2]!) i++;
    const [x0, y0, x1, y1] = points.slice(2 * i, 2 * i + 4) as [number, number, number, number];
    const h = x1 - x0;
    const t = (at - x0) / h;
    const s = 1 - t;
    // Hermite's form.
    return s * s * (1 + 2 * t) * y0 + t * t * (3 - 2 * t) * y1 + h * t * s * (s * m[i]! - t * m[i + 1]!);
  };
}

/** Curves as a step reads them: for each channel what the one of all channels, then its own, make of a value. */
export class CurveValue {
  private readonly of: ReadonlyMap<Curve['channel'], readonly number[]>;

  constructor(private readonly list: readonly Curve[]) {
    this.of = new Map(list.filter((c) => !isStraight(c.points)).map((c) => [c.channel, c.points]));
  }

  /** True where it changes nothing. */
  get straight(): boolean {
    return this.of.size === 0;
  }

  /** Null where it changes nothing of that channel. */
  forChannel(channel: 'R' | 'G' | 'B'): ((x: number) => number) | null {
    const [all, own] = (['all', channel] as const).map((c) => this.of.get(c)).map((p) => p && curveThrough(p));
    if (all && own) return (x) => own(all(x));
    return own ?? all ?? null;
  }

  /** Stands for its contents where it is part of a key. */
  toJSON(): readonly Curve[] {
    return this.list;
  }
}

const made = new WeakMap<object, CurveValue>();

/** What a step gets of a parameter's curves. Throws ShotError where they are damaged. */
export function curveValue(value: Value): CurveValue {
  let known = made.get(value as object);
  if (!known) made.set(value as object, (known = new CurveValue(checkCurves(value))));
  return known;
}
