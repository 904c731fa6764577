import { newPlane, newPoint } from '../readings/make';
import type { Reading } from '../readings/types';
import {
  cornersToPoints,
  ellipsePoints,
  frozenShape,
  movePoints,
  shapeDefaults,
  thawedShape,
  toggleSmooth,
  withFollows,
  withKeyAt,
  withKeyMoved,
  withPointOn,
  withPointsAt,
  withSnapped,
  withoutKeyAt,
  withoutPoints,
} from './edit';
import { freehandPoints } from './freehand';
import { flatten } from './outline';
import { poseShapes, pointsAt } from './pose';
import type { Shape } from './shapes';
import { POINT_SIZE, pointCount, shapesOf } from './shapes';

const square = cornersToPoints([10, 10, 30, 10, 30, 30, 10, 30]);
const shape = (change: Partial<Shape> = {}): Shape => ({
  ...shapeDefaults,
  id: 's',
  name: 'Coat',
  keys: [{ frame: 5, value: square, ease: 'linear' }],
  ...change,
});
const about = { reference: 5, range: { first: 1, last: 9 } };
const point = (id: string, at: [number, number], path: (f: number) => [number, number]): Reading => ({
  ...newPoint(at, { id, ...about }),
  frames: Array.from({ length: 9 }, (_, i) => {
    const [x, y] = path(i + 1);
    return { frame: i + 1, x, y, confidence: 1, error: 0 };
  }),
});
const drift = point('drift', [20, 20], (f) => [20 + 3 * (f - 5), 20 - (f - 5)]);
const shot = { readings: [drift] };
const xy = (points: readonly number[], i = 0): number[] => points.slice(i * POINT_SIZE, i * POINT_SIZE + 2);

describe('what a shape follows', () => {
  test('a point shifts it; on the frame of its key it lies where it was drawn', () => {
    const s = withFollows(shot, shape(), ['drift']);
    expect(xy(pointsAt(shot, s, 5))).toEqual([10, 10]);
    expect(xy(pointsAt(shot, s, 8))).toEqual([19, 7]);
  });

  test('two points turn and size it, four see it in perspective, a plane, too', () => {
    // The second one turns a quarter around the first.
    const a = point('a', [10, 10], () => [10, 10]);
    const b = point('b', [30, 10], (f) => (f === 9 ? [10, 50] : [30, 10]));
    const turned = pointsAt({ readings: [a, b] }, shape({ follows: ['a', 'b'] }), 9);
    expect(xy(turned, 1)[0]).toBeCloseTo(10, 6);
    expect(xy(turned, 1)[1]).toBeCloseTo(50, 6);
    const corners = [
      [10, 10],
      [30, 10],
      [30, 30],
      [10, 30],
    ] as const;
    const to = [
      [12, 8],
      [29, 11],
      [33, 35],
      [7, 28],
    ] as const;
    const four = corners.map((c, i) => point(`p${i}`, [...c], (f) => (f === 9 ? [...to[i]!] : [...c])));
    const pinned = pointsAt({ readings: four }, shape({ follows: ['p0', 'p1', 'p2', 'p3'] }), 9);
    to.forEach((c, i) => xy(pinned, i).forEach((v, k) => expect(v).toBeCloseTo(c[k]!, 5)));
    const plane = newPlane([[0, 0, 40, 0, 40, 40, 0, 40]], { id: 'w', ...about });
    const wall: Reading = { ...plane, frames: [{ frame: 7, homography: [1, 0, 4, 0, 1, 6, 0, 0, 1], confidence: 1, error: 0 }] };
    expect(xy(pointsAt({ readings: [wall] }, shape({ follows: ['w'] }), 7))).toEqual([14, 16]);
  });

  test('a correction on another frame is a small key, and stays one where the reading is measured again', () => {
    const s = withFollows(shot, shape(), ['drift']);
    const corrected = withPointsAt(
      shot,
      s,
      8,
      movePoints(pointsAt(shot, s, 8), new Set([0]), (x, y) => [x + 2, y]),
      'here',
    );
    expect(corrected.keys.map((k) => k.frame)).toEqual([5, 8]);
    expect(xy(corrected.keys[1]!.value)).toEqual([12, 10]);
    const again = { readings: [point('drift', [20, 20], (f) => [20 + 4 * (f - 5), 20])] };
    expect(xy(pointsAt(again, corrected, 8))).toEqual([24, 10]);
    expect(xy(pointsAt(again, corrected, 8), 1)).toEqual([42, 10]);
  });

  test('what is gone leaves it where it is; following another thing does not move it on its keys', () => {
    const s = withFollows(
      shot,
      shape({ keys: [...shape().keys, { frame: 8, value: movePoints(square, null, (x, y) => [x + 5, y]), ease: 'linear' }] }),
      ['drift'],
    );
    for (const f of [5, 8]) expect(xy(pointsAt(shot, s, f))[0]).toBeCloseTo(f === 5 ? 10 : 15, 3);
    expect(xy(pointsAt({ readings: [] }, s, 8))).toEqual(xy(s.keys[1]!.value));
  });

  test('frozen, later corrections no longer reach it; unfrozen, they do', () => {
    const s = withFollows(shot, shape(), ['drift']);
    const frozen = frozenShape(shot, s, { first: 1, last: 9 });
    expect(frozen.keys).toHaveLength(9);
    const other = { readings: [point('drift', [20, 20], () => [90, 90])] };
    for (const f of [1, 5, 9]) expect(pointsAt(other, frozen, f)).toEqual(pointsAt(shot, s, f));
    expect(thawedShape(frozen)).toEqual(s);
    expect(() => shapesOf([frozen, s])).not.toThrow();
  });
});

describe('keys of a shape', () => {
  test('moved points set a key, or change all keys alike, or are refused between keys', () => {
    const two = withKeyAt(shot, withKeyAt(shot, shape(), 1), 9);
    const moved = movePoints(square, new Set([2]), (x, y) => [x + 6, y + 1]);
    expect(withPointsAt(shot, two, 3, moved, 'here').keys.map((k) => k.frame)).toEqual([1, 3, 5, 9]);
    const all = withPointsAt(shot, two, 3, moved, 'all');
    for (const k of all.keys) expect(xy(k.value, 2)).toEqual([36, 31]);
    expect(() => withPointsAt(shot, two, 3, moved, 'keyed')).toThrow('no key on frame 3');
    expect(withoutKeyAt(two, 5).keys).toHaveLength(2);
    expect(withKeyMoved(two, 5, 7).keys.map((k) => k.frame)).toEqual([1, 7, 9]);
    expect(withKeyMoved(two, 5, 9).keys.map((k) => k.frame)).toEqual([1, 9]);
    expect(withKeyMoved(two, 9, -3).keys.map((k) => k.frame)).toEqual([-3, 1, 5]);
    // What was found comes beside own keys as they are now, also those that were moved or made meanwhile.
    const found = { ...two, keys: [2, 3, 4].map((frame) => ({ frame, value: moved, ease: 'linear' as const, sure: 0.9 })) };
    const meanwhile = withPointsAt(shot, two, 3, square, 'here');
    expect(withSnapped(meanwhile, found).keys.map((k) => [k.frame, k.sure])).toEqual([
      [1, undefined],
      [2, 0.9],
      [3, undefined],
      [4, 0.9],
      [5, undefined],
      [9, undefined],
    ]);
    expect(() => withSnapped(withPointOn(two, 0, 0.5), found)).toThrow('other points');
    expect(() => withoutKeyAt(shape(), 5)).toThrow('delete the shape');
  });

  test('between keys points go straight or smoothly; held before and after', () => {
    const s = shape({
      keys: [
        { frame: 2, value: square, ease: 'linear' },
        { frame: 6, value: movePoints(square, null, (x, y) => [x + 8, y]), ease: 'linear' },
      ],
    });
    expect(xy(pointsAt(shot, s, 3))).toEqual([12, 10]);
    expect(xy(pointsAt(shot, s, 40))).toEqual([18, 10]);
    const smooth = { ...s, keys: s.keys.map((k) => ({ ...k, ease: 'smooth' as const })) };
    expect(xy(pointsAt(shot, smooth, 3))[0]).toBeLessThan(12);
  });
});

describe('points', () => {
  test('one added on a curve leaves its course, on every key', () => {
    const round = shape({
      keys: [
        { frame: 1, value: ellipsePoints(10, 10, 50, 40), ease: 'linear' },
        { frame: 5, value: ellipsePoints(20, 15, 44, 33), ease: 'linear' },
      ],
    });
    const more = withPointOn(round, 1, 0.37);
    expect(pointCount(more)).toBe(5);
    for (const f of [1, 5]) {
      const [a, b] = [round, more].map((s) => flatten({ ...s, points: pointsAt(shot, s, f) })) as [Float64Array, Float64Array];
      const area = (o: Float64Array): number => {
        let sum = 0;
        for (let i = 0; i < o.length; i += 3) sum += o[i]! * o[(i + 4) % o.length]! - o[(i + 3) % o.length]! * o[i + 1]!;
        return sum / 2;
      };
      expect(Math.abs(area(a) - area(b))).toBeLessThan(0.5);
    }
  });

  test('corners become smooth and corners again; too few points are no shape', () => {
    const smooth = toggleSmooth(square, new Set([0, 1]), true);
    expect(smooth[2]).not.toBe(0);
    expect(smooth[2 * POINT_SIZE + 2]).toBe(0);
    expect(toggleSmooth(smooth, new Set([0, 1]), true)).toEqual(square);
    expect(pointCount(withoutPoints(shape(), new Set([0]))!)).toBe(3);
    expect(withoutPoints(shape(), new Set([0, 1]))).toBeNull();
  });

  test('a line drawn by hand keeps within its tolerance, with few points', () => {
    const line = Array.from({ length: 240 }, (_, i) => {
      const a = (2 * Math.PI * i) / 240;
      return [100 + 60 * Math.cos(a) + 0.2 * Math.sin(37 * a), 90 + 40 * Math.sin(a)];
    }).flat();
    const points = freehandPoints(line, 1, true);
    expect(points.length / POINT_SIZE).toBeLessThan(26);
    const outline = flatten({ points, closed: true, spline: 'bezier' });
    for (let i = 0; i < outline.length; i += 3) {
      const r = Math.hypot((outline[i]! - 100) / 60, (outline[i + 1]! - 90) / 40);
      expect(Math.abs(r - 1)).toBeLessThan(0.05);
    }
  });

  test('a proxy has all of it smaller, and a step gets only what is on', () => {
    const value = [shape({ feather: 8 }), shape({ id: 'b', on: false })];
    const posed = poseShapes(value, shot, 5, 0.5);
    expect(posed.list).toHaveLength(1);
    expect(posed.list[0]!.points.slice(0, 7)).toEqual([5, 5, 0, 0, 0, 0, 4]);
    expect(posed.empty).toBe(false);
    expect(poseShapes([], shot, 5, 1).empty).toBe(true);
  });

  test('a shape that is not edited is posed once; a time, a scale or an edit is another', () => {
    const [a, b] = [shape(), shape({ id: 'b' })];
    const first = poseShapes([a, b], shot, 5, 1).list;
    const edited = poseShapes([a, { ...b, feather: 3 }], shot, 5, 1).list;
    expect([edited[0] === first[0], edited[1] === first[1]]).toEqual([true, false]);
    expect(poseShapes([a], shot, 6, 1).list[0]).not.toBe(first[0]);
    expect(poseShapes([a], shot, 5, 0.5).list[0]).not.toBe(first[0]);
  });

  test.each([
    ['keys out of order', { keys: [shape().keys[0]!, { ...shape().keys[0]!, frame: 2 }] }],
    ['keys of different counts', { keys: [shape().keys[0]!, { frame: 9, value: square.slice(7), ease: 'linear' }] }],
    ['no key', { keys: [] }],
    ['no number', { feather: NaN }],
    ['half a point', { keys: [{ frame: 1, value: [1, 2, 3], ease: 'linear' }] }],
  ] as [string, Partial<Shape>][])('%s is refused', (_, change) => {
    expect(() => shapesOf([shape(change)])).toThrow('its shapes are damaged');
  });
});
