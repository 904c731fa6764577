import { valueAt } from '../document/curve';
import type { Key, Shot } from '../document/types';
import { IDENTITY_H, invert } from '../geometry/fit';
import type { Homography, Quad } from '../geometry/homography';
import { homographyBetween, mapPoint } from '../geometry/homography';
import { isTrack } from '../readings/types';
import type { ReadingData } from '../readings/track-data';
import { ALL_PARTS, dataOf, followMap } from '../readings/track-data';
import type { Falloff, Operation, Shape } from './shapes';
import { POINT_SIZE } from './shapes';

/** A shape as it lies on a picture at a time: x, y, tangents and feather a point, in that picture's pixels. */
export interface Posed {
  readonly operation: Operation;
  readonly opacity: number;
  readonly falloff: Falloff;
  readonly closed: boolean;
  /** px; 0 of a closed one. */
  readonly width: number;
  readonly spline: Shape['spline'];
  /** POINT_SIZE numbers a point; the last one is the whole feather there. */
  readonly points: readonly number[];
}

/** From the reference frame of what a shape follows to a time; null where a reading is gone or folds there. */
export function carryAt(readings: readonly (ReadingData | null)[], time: number): Homography | null {
  const [first, second] = readings;
  if (readings.length === 0) return IDENTITY_H;
  if (readings.some((r) => !r)) return null;
  if (readings.length < 4) return followMap(first!, first!.kind === 'point' ? (second ?? null) : null, time, ALL_PARTS);
  const quad = (t: number): Quad => readings.map((r) => r!.positionAt(t)) as unknown as Quad;
  return homographyBetween(quad(first!.reference), quad(time));
}

/** The readings that a shape follows, at full size; null for one that is gone. */
export const readingsOf = (shot: Pick<Shot, 'readings'>, shape: Pick<Shape, 'follows'>): (ReadingData | null)[] =>
  shape.follows.map((id) => {
    const r = shot.readings.find((x) => x.id === id);
    return isTrack(r) ? dataOf(r, 1) : null;
  });

/** Where a shape's points are carried on a frame; where they stay when what it follows is gone. */
export const carryOf = (shot: Pick<Shot, 'readings'>, shape: Pick<Shape, 'follows'>, time: number): Homography =>
  carryAt(readingsOf(shot, shape), time) ?? IDENTITY_H;

/** The way back, from a frame to the reference frame; null where the map folds. */
export const uncarryOf = (shot: Pick<Shot, 'readings'>, shape: Pick<Shape, 'follows'>, time: number): Homography | null =>
  invert(carryOf(shot, shape, time));

/** A shape's points between its keys, on the reference frame. */
export const pointsBetween = (shape: Shape, time: number): readonly number[] =>
  valueAt(shape.keys as readonly Key[], time) as readonly number[];

/** Points seen through a map: tangents go along by their ends. */
export function mapPoints(m: Homography, points: readonly number[]): number[] {
  if (m === IDENTITY_H) return [...points];
  const out = new Array<number>(points.length);
  for (let i = 0; i < points.length; i += POINT_SIZE) {
    const [x, y] = [points[i]!, points[i + 1]!];
    const [u, v] = mapPoint(m, x, y);
    out[i] = u;
    out[i + 1] = v;
    for (const k of [2, 4]) {
      const [dx, dy] = [points[i + k]!, points[i + k + 1]!];
      if (dx === 0 && dy === 0) {
        out[i + k] = out[i + k + 1] = 0;
        continue;
      }
      const [a, b] = mapPoint(m, x + dx, y + dy);
      out[i + k] = a - u;
      out[i + k + 1] = b - v;
    }
    out[i + 6] = points[i + 6]!;
  }
  return out;
}

/** A shape's points on a frame as they lie in the picture, full-size. */
export const pointsAt = (shot: Pick<Shot, 'readings'>, shape: Shape, time: number): number[] =>
  mapPoints(carryOf(shot, shape, time), pointsBetween(shape, time));

/** Shapes as a step reads them: those that are on, at a time, at a scale. */
export class ShapesValue {
  constructor(
    readonly list: readonly Posed[],
    /** None is drawn at all, on or off. */
    readonly empty: boolean,
  ) {}

  /** Stands for its contents where it is part of a key. */
  toJSON(): readonly Posed[] {
    return this.list;
  }
}

/** A shape as it was posed, for as long as nothing that it depends on is another. */
interface Known {
  readonly readings: readonly unknown[];
  readonly posed: Posed;
}

/** By shape, then by time and scale: a shape that is not edited stays the same object, so that its outline is known, too. */
const known = new WeakMap<Shape, Map<string, Known>>();
/** Times and scales that are kept of a shape. */
const MOST_KNOWN = 96;

function poseShape(s: Shape, shot: Pick<Shot, 'readings'>, time: number, scale: number): Posed {
  const readings = s.follows.map((id) => shot.readings.find((r) => r.id === id));
  const key = `${time} ${scale}`;
  const had = known.get(s)?.get(key);
  if (had && had.readings.every((r, i) => r === readings[i])) return had.posed;
  const points = pointsAt(shot, s, time);
  for (let i = 0; i < points.length; i++) points[i] = (points[i]! + (i % POINT_SIZE === 6 ? s.feather : 0)) * scale;
  const { operation, opacity, falloff, closed, spline } = s;
  const posed: Posed = { operation, opacity, falloff, closed, spline, width: closed ? 0 : s.width * scale, points };
  const all = known.get(s) ?? new Map<string, Known>();
  if (all.size >= MOST_KNOWN) all.clear();
  known.set(s, all.set(key, { readings, posed }));
  return posed;
}

/** What a step gets of a parameter's shapes at a time, at a scale. */
export function poseShapes(all: readonly Shape[], shot: Pick<Shot, 'readings'>, time: number, scale: number): ShapesValue {
  const list = all.filter((s) => s.on && s.opacity > 0);
  return new ShapesValue(
    list.map((s) => poseShape(s, shot, time, scale)),
    all.length === 0,
  );
}
