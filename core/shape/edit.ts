import type { Shot } from '../document/types';
import { ShotError } from '../errors';
import { cubicAt, cubicsOf } from './outline';
import { mapPoints, carryOf, pointsAt, pointsBetween, uncarryOf } from './pose';
import type { Shape, ShapeKey } from './shapes';
import { POINT_SIZE, pointCount } from './shapes';

/** Which keys a moved point changes: one at the frame, made where there is none; only one that is there; or all of them alike. */
export const KEYINGS = ['here', 'keyed', 'all'] as const;
export type Keying = (typeof KEYINGS)[number];

/** Points, POINT_SIZE numbers each, from corners. */
export const cornersToPoints = (corners: readonly number[]): number[] =>
  Array.from({ length: corners.length / 2 }, (_, i) => [corners[2 * i]!, corners[2 * i + 1]!, 0, 0, 0, 0, 0]).flat();

/** How far a tangent goes so that four of them make a circle. */
const ROUND = (4 / 3) * (Math.SQRT2 - 1);

export function ellipsePoints(x0: number, y0: number, x1: number, y1: number): number[] {
  const [cx, cy, rx, ry] = [(x0 + x1) / 2, (y0 + y1) / 2, Math.abs(x1 - x0) / 2, Math.abs(y1 - y0) / 2];
  const [kx, ky] = [rx * ROUND, ry * ROUND];
  return [
    [cx, cy - ry, -kx, 0, kx, 0, 0],
    [cx + rx, cy, 0, -ky, 0, ky, 0],
    [cx, cy + ry, kx, 0, -kx, 0, 0],
    [cx - rx, cy, 0, ky, 0, -ky, 0],
  ].flat();
}

export const boxPoints = (x0: number, y0: number, x1: number, y1: number): number[] => cornersToPoints([x0, y0, x1, y0, x1, y1, x0, y1]);

export const shapeDefaults = {
  on: true,
  mark: 0,
  operation: 'add',
  opacity: 1,
  feather: 0,
  falloff: 'smooth',
  closed: true,
  width: 8,
  spline: 'bezier',
  follows: [],
} as const satisfies Partial<Shape>;

const hundredth = (v: number): number => Math.round(v * 1000) / 1000;

/** Numbers to a thousandth of a pixel: enough for any picture, and half of the document's size. */
const tidy = (points: readonly number[]): number[] => points.map(hundredth);

const withKeys = (s: Shape, keys: readonly ShapeKey[]): Shape => ({ ...s, keys });

const eachKey = (s: Shape, change: (points: readonly number[]) => readonly number[]): Shape =>
  withKeys(
    s,
    s.keys.map((k) => ({ ...k, value: tidy(change(k.value)) })),
  );

/** Puts points, as they lie in the picture on a frame, into a shape's keys. Throws ShotError where they cannot be put there. */
export function withPointsAt(shot: Pick<Shot, 'readings'>, s: Shape, frame: number, points: readonly number[], keying: Keying): Shape {
  const back = uncarryOf(shot, s, frame);
  if (!back) throw new ShotError(`what "${s.name}" follows is folded on frame ${frame}; correct the shape on another one`);
  const value = tidy(mapPoints(back, points));
  const at = s.keys.findIndex((k) => k.frame === frame);
  if (keying === 'all') {
    const was = pointsBetween(s, frame);
    return eachKey(s, (p) => p.map((v, i) => v + value[i]! - was[i]!));
  }
  if (at >= 0)
    return withKeys(
      s,
      s.keys.map((k, i) => (i === at ? { frame, value, ease: k.ease } : k)),
    );
  if (keying === 'keyed') throw new ShotError(`"${s.name}" has no key on frame ${frame}, and only keyed frames are to be changed`);
  const before = s.keys.findLast((k) => k.frame < frame) ?? s.keys[0]!;
  return withKeys(
    s,
    [...s.keys, { frame, value, ease: before.ease }].sort((a, b) => a.frame - b.frame),
  );
}

/** The shape without its key of a frame; the last one stays. */
export function withoutKeyAt(s: Shape, frame: number): Shape {
  const keys = s.keys.filter((k) => k.frame !== frame);
  if (keys.length === 0) throw new ShotError(`"${s.name}" has this key alone; delete the shape instead`);
  return withKeys(s, keys);
}

/** The shape with its key of a frame on another one; a key that stands there goes. */
export function withKeyMoved(s: Shape, from: number, to: number): Shape {
  const key = s.keys.find((k) => k.frame === from);
  if (!key || from === to) return s;
  const { sure: _, ...own } = key;
  const others = s.keys.filter((k) => k.frame !== from && k.frame !== to);
  return withKeys(
    s,
    [...others, { ...own, frame: to }].sort((a, b) => a.frame - b.frame),
  );
}

/** The shape with the keys that were found for it, in the place of earlier ones; its own, as they are now, stay. Throws ShotError where it has other points by now. */
export function withSnapped(s: Shape, found: Shape): Shape {
  if (pointCount(s) !== pointCount(found))
    throw new ShotError(`"${s.name}" has other points now than those that were looked for; snap it again`);
  const own = s.keys.filter((k) => k.sure === undefined);
  const taken = new Set(own.map((k) => k.frame));
  const others = found.keys.filter((k) => k.sure !== undefined && !taken.has(k.frame));
  return withKeys(
    s,
    [...own, ...others].sort((a, b) => a.frame - b.frame),
  );
}

/** Sets a key where the shape is on a frame. */
export const withKeyAt = (shot: Pick<Shot, 'readings'>, s: Shape, frame: number): Shape =>
  s.keys.some((k) => k.frame === frame) ? s : withPointsAt(shot, s, frame, pointsAt(shot, s, frame), 'here');

/** The shape with a further point on the side after a point, at t in 0..1 along it, on every key. A curve keeps its course. */
export function withPointOn(s: Shape, side: number, t: number): Shape {
  return eachKey(s, (points) => {
    const piece = cubicsOf({ points, closed: s.closed, spline: s.spline })[side];
    if (!piece) throw new ShotError('there is no outline to put a point on');
    const n = points.length / POINT_SIZE;
    const next = (side + 1) % n;
    const out = [...points];
    const feather = points[side * POINT_SIZE + 6]! * (1 - t) + points[next * POINT_SIZE + 6]! * t;
    const [x, y] = cubicAt(piece.curve, t);
    const made = [x, y, 0, 0, 0, 0, feather];
    if (s.spline === 'bezier') {
      // De Casteljau's cut.
      const mix = (a: number, b: number): number => a + (b - a) * t;
      const c = piece.curve;
      const [ax, ay] = [mix(c[0], c[2]), mix(c[1], c[3])];
      const [bx, by] = [mix(c[2], c[4]), mix(c[3], c[5])];
      const [dx, dy] = [mix(c[4], c[6]), mix(c[5], c[7])];
      const straight = isCorner(points, side, 4) && isCorner(points, next, 2);
      if (!straight) {
        made.splice(2, 4, mix(ax, bx) - x, mix(ay, by) - y, mix(bx, dx) - x, mix(by, dy) - y);
        out.splice(side * POINT_SIZE + 4, 2, ax - c[0], ay - c[1]);
        out.splice(next * POINT_SIZE + 2, 2, dx - c[6], dy - c[7]);
      }
    }
    out.splice((side + 1) * POINT_SIZE, 0, ...made);
    return out;
  });
}

const isCorner = (points: readonly number[], i: number, k: 2 | 4): boolean =>
  points[i * POINT_SIZE + k] === 0 && points[i * POINT_SIZE + k + 1] === 0;

/** The shape without some points; null where too few are left to be one. */
export function withoutPoints(s: Shape, chosen: ReadonlySet<number>): Shape | null {
  const left = pointCount(s) - [...chosen].filter((i) => i < pointCount(s)).length;
  if (left < (s.closed ? 3 : 2)) return null;
  return eachKey(s, (p) => p.filter((_, i) => !chosen.has(Math.floor(i / POINT_SIZE))));
}

/** Points as corners, or, where all of the chosen ones are corners, smooth: with tangents along their neighbours. */
export function toggleSmooth(points: readonly number[], chosen: ReadonlySet<number>, closed: boolean): number[] {
  const n = points.length / POINT_SIZE;
  const list = [...chosen].filter((i) => i < n);
  const corners = list.every((i) => isCorner(points, i, 2) && isCorner(points, i, 4));
  const out = [...points];
  for (const i of list) {
    const o = i * POINT_SIZE;
    if (!corners) {
      out.fill(0, o + 2, o + 6);
      continue;
    }
    const [p, q] = closed ? [(i + n - 1) % n, (i + 1) % n] : [Math.max(0, i - 1), Math.min(n - 1, i + 1)];
    const [dx, dy] = [0, 1].map((k) => points[q * POINT_SIZE + k]! - points[p * POINT_SIZE + k]!) as [number, number];
    const whole = Math.hypot(dx, dy) || 1;
    // A third of the way to each neighbour, along the line between them.
    const reach = (j: number): number => Math.hypot(points[j * POINT_SIZE]! - points[o]!, points[j * POINT_SIZE + 1]! - points[o + 1]!) / 3;
    const [a, b] = [reach(p) / whole, reach(q) / whole];
    out.splice(o + 2, 4, -dx * a, -dy * a, dx * b, dy * b);
  }
  return out;
}

/** Chosen points moved by a map of the plane (tangents go along). */
export function movePoints(
  points: readonly number[],
  chosen: ReadonlySet<number> | null,
  move: (x: number, y: number) => readonly [number, number],
): number[] {
  const out = [...points];
  for (let i = 0; i < points.length / POINT_SIZE; i++) {
    if (chosen && !chosen.has(i)) continue;
    const o = i * POINT_SIZE;
    const [x, y] = move(points[o]!, points[o + 1]!);
    for (const k of [2, 4]) {
      const [u, v] = move(points[o]! + points[o + k]!, points[o + 1]! + points[o + k + 1]!);
      out[o + k] = u - x;
      out[o + k + 1] = v - y;
    }
    out[o] = x;
    out[o + 1] = y;
  }
  return out;
}

/** The shape carried by other readings, or by none: on the frames of its keys it stays where it is. */
export function withFollows(shot: Pick<Shot, 'readings'>, s: Shape, follows: readonly string[]): Shape {
  const next = { ...s, follows };
  return withKeys(
    next,
    s.keys.map((k) => {
      const back = uncarryOf(shot, next, k.frame);
      if (!back) throw new ShotError(`what it shall follow is folded on frame ${k.frame}`);
      return { ...k, value: tidy(mapPoints(back, mapPoints(carryOf(shot, s, k.frame), k.value))) };
    }),
  );
}

/** The shape with what carries it written into keys on every frame of a range: later corrections no longer reach it. */
export function frozenShape(shot: Pick<Shot, 'readings'>, s: Shape, { first, last }: Shot['range']): Shape {
  const keys = Array.from({ length: last - first + 1 }, (_, i): ShapeKey => ({
    frame: first + i,
    value: tidy(pointsAt(shot, s, first + i)),
    ease: 'linear',
  }));
  return { ...s, follows: [], keys, live: { follows: s.follows, keys: s.keys } };
}

/** What carried a frozen shape carries it again, with the keys that it had then. */
export function thawedShape({ live, ...s }: Shape): Shape {
  if (!live) throw new ShotError(`"${s.name}" is not frozen`);
  return { ...s, ...live };
}
