import fc from 'fast-check';
import { MediaError } from '../errors';
import { formatReadings, formatTable, overallConfidence, parseReadings } from './exchange';
import { fourPointTrouble, inCornerOrder } from './guide';
import { newPlane, newPoint } from './make';
import type { PlaneReading, PointReading } from './types';

const about = { reference: 3, range: { first: 1, last: 6 }, name: 'Hinge', from: { lane: 'l', after: '' } };
const point: PointReading = {
  ...newPoint([10.5, 20.25], about),
  frames: [1, 2, 3].map((frame) => ({ frame, x: 10 + frame / 3, y: 20 - frame, confidence: 0.9, error: 0.01 })),
};
const plane: PlaneReading = {
  ...newPlane([[0, 0, 40, 0, 40, 30]], about),
  frames: [{ frame: 3, homography: [1, 0, 2, 0, 1, 3, 0, 0, 1], confidence: 1, error: 0, flag: 'low' }],
};

describe('readings in files', () => {
  test('JSON there and back keeps all of it', () => {
    expect(parseReadings(formatReadings([point, plane]), 'r.json')).toEqual([point, plane]);
  });

  test('a point’s table there and back keeps its path', () => {
    const coordinate = fc.double({ min: -5000, max: 5000, noNaN: true });
    fc.assert(
      fc.property(fc.array(fc.tuple(coordinate, coordinate), { minLength: 1, maxLength: 20 }), (path) => {
        const frames = path.map(([x, y], i) => ({ frame: i + 7, x, y, confidence: 1, error: 0 }));
        const [back] = parseReadings(formatTable({ ...point, frames }), 'Hinge.csv') as [PointReading];
        expect(back.name).toBe('Hinge');
        back.frames.forEach((f, i) => {
          expect(f.frame).toBe(i + 7);
          expect(Math.abs(f.x - path[i]![0])).toBeLessThan(1e-4);
          expect(Math.abs(f.y - path[i]![1])).toBeLessThan(1e-4);
        });
      }),
    );
  });

  test('columns may stand in any order, and others are passed by', () => {
    const [r] = parseReadings('y,note,frame,x\n5,hm,2,4\n6,,1,3\n', 'a.csv') as [PointReading];
    expect(r.frames.map((f) => [f.frame, f.x, f.y])).toEqual([
      [1, 3, 6],
      [2, 4, 5],
    ]);
  });

  test('a plane’s table has its nine numbers', () => {
    expect(formatTable(plane).split('\n')[1]).toBe('3,1,0,2,0,1,3,0,0,1,1,0,low');
  });

  test.each([
    ['', 'columns frame, x and y'],
    ['frame,x\n1,2\n', 'columns frame, x and y'],
    ['frame,x,y\n', 'no frames'],
    ['frame,x,y\n1,2,3\n1.5,2,3\n', 'line 3'],
    ['frame,x,y\n1,2,nan\n', 'line 2'],
    ['{"readings": 5}', 'holds no readings'],
    ['{"readings": [{"kind": "point"}]}', 'holds no readings'],
    ['{', 'holds no readings'],
  ])('%j is refused: %s', (content, why) => {
    expect(() => parseReadings(content, 'bad.csv')).toThrow(MediaError);
    expect(() => parseReadings(content, 'bad.csv')).toThrow(why);
  });

  test('how sure it is as a whole; nothing is said of what is not measured', () => {
    expect(overallConfidence(point)).toBeCloseTo(0.9, 6);
    expect(overallConfidence({ ...point, frames: [] })).toBeNull();
  });
});

test('four points are told where they cannot hold a perspective', () => {
  const good = [
    [0, 0],
    [100, 5],
    [95, 80],
    [3, 76],
  ] as const;
  expect(fourPointTrouble(good)).toBeNull();
  expect(fourPointTrouble([good[0], [4, 3], good[2], good[3]])).toContain('too near');
  expect(fourPointTrouble([good[0], [50, 1], [100, 2], good[3]])).toContain('nearly on a line');
});

test('four points are put in the order of a frame’s corners, whatever order they were made in and however the frame is turned', () => {
  const square = [
    [0, 0],
    [10, 1],
    [11, 12],
    [1, 10],
  ] as const;
  const orders = [0, 1, 2, 3].flatMap((a) =>
    [0, 1, 2, 3].flatMap((b) => [0, 1, 2, 3].flatMap((c) => (new Set([a, b, c]).size < 3 ? [] : [[a, b, c, 6 - a - b - c]]))),
  );
  expect(orders).toHaveLength(24);
  for (const order of orders)
    expect(
      inCornerOrder(
        order.map((i) => square[i]!),
        (p) => p,
      ),
    ).toEqual(square);
  for (const degrees of [-30, -10, 20, 40]) {
    const [sin, cos] = [Math.sin((degrees * Math.PI) / 180), Math.cos((degrees * Math.PI) / 180)];
    const turned = square.map(([x, y]) => [x * cos - y * sin, x * sin + y * cos] as const);
    expect(inCornerOrder([turned[2]!, turned[0]!, turned[3]!, turned[1]!], (p) => p)).toEqual(turned);
  }
});
