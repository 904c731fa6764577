import type { Shot } from '../document/types';
import { IDENTITY_H, invert, multiply } from '../geometry/fit';
import type { Homography } from '../geometry/homography';
import { applyHomography, mapPoint } from '../geometry/homography';
import { hashText } from '../hash';
import { carryAt, readingsOf } from '../shape/pose';
import type { Stroke } from './strokes';
import { copies, strokesAt } from './strokes';

/** A stroke as it lies on a frame, full size. */
export interface LaidStroke {
  readonly stroke: Stroke;
  readonly points: readonly number[];
  readonly size: number;
  /** Of one that copies: from positions on the frame to those that are copied; null where that cannot be told. */
  readonly look: Homography | null;
  /** Stands for all that it does on this frame. */
  readonly name: string;
}

/** Strokes as a step reads them: those of a frame. */
export class StrokesValue {
  constructor(
    readonly list: readonly LaidStroke[],
    private readonly key: string,
  ) {}

  /** Stands for its contents where it is part of a key: of two thousand strokes not all the points are written out each time. */
  toJSON(): string {
    return this.key;
  }
}

const NO_STROKES = new StrokesValue([], '');

const names = new WeakMap<Stroke, string>();
const nameOf = (s: Stroke): string => {
  let known = names.get(s);
  if (!known) names.set(s, (known = hashText(JSON.stringify(s))));
  return known;
};

/** By the strokes of a frame; those that are carried, as long as the readings are the same. */
const posed = new WeakMap<readonly Stroke[], { readings: Shot['readings'] | null; value: StrokesValue }>();
const laidStill = new WeakMap<Stroke, LaidStroke>();

/** What a step gets of a parameter's strokes on a frame: where readings carry them there. Throws ShotError where they are damaged. */
export function poseStrokes(value: unknown, shot: Pick<Shot, 'readings'>, frame: number): StrokesValue {
  const here = strokesAt(value, frame);
  if (here.length === 0) return NO_STROKES;
  const known = posed.get(here);
  if (known && (known.readings === null || known.readings === shot.readings)) return known.value;
  const list = here.map((s) => layStroke(s, shot, frame));
  const made = new StrokesValue(list, hashText(list.map((l) => l.name).join(' ')));
  posed.set(here, { readings: here.some((s) => s.follows?.length) ? shot.readings : null, value: made });
  return made;
}

function layStroke(s: Stroke, shot: Pick<Shot, 'readings'>, frame: number): LaidStroke {
  if (!s.follows?.length) {
    let known = laidStill.get(s);
    if (!known)
      laidStill.set(s, (known = { stroke: s, points: s.points, size: s.size, look: copies(s.tool) ? shifted(s) : null, name: nameOf(s) }));
    return known;
  }
  const readings = readingsOf(shot, { follows: s.follows });
  const here = carryAt(readings, frame) ?? IDENTITY_H;
  const points = s.points.flatMap((x, i) => (i % 2 ? [] : mapPoint(here, x, s.points[i + 1]!)));
  const back = copies(s.tool) ? invert(here) : null;
  const there = s.from === undefined ? here : carryAt(readings, s.from);
  const look = back && there && multiply(there, multiply(shifted(s), back));
  const name = `${nameOf(s)} ${hashText(JSON.stringify([points, look]))}`;
  return { stroke: s, points, size: s.size * growthAt(here, s.points[0]!, s.points[1]!), look, name };
}

const shifted = ({ shift }: Stroke): Homography => (shift ? [1, 0, shift[0]!, 0, 1, shift[1]!, 0, 0, 1] : IDENTITY_H);

/** How much larger a map makes things about a position. */
export function growthAt(m: Homography, x: number, y: number): number {
  const [u, v, w] = applyHomography(m, x, y);
  const [a, b, c, d] = [m[0] - u * m[6], m[1] - u * m[7], m[3] - v * m[6], m[4] - v * m[7]];
  return Math.sqrt(Math.abs(a * d - b * c)) / Math.max(1e-9, Math.abs(w));
}
