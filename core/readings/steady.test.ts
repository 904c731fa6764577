import fc from 'fast-check';
import { invert, multiply } from '../geometry/fit';
import type { Homography } from '../geometry/homography';
import { applyHomography, mapPoint } from '../geometry/homography';
import { newPlane, newPoint } from './make';
import type { SteadySettings } from './steady';
import { leastScale, scaledAround, steadied, steadyMap } from './steady';
import { ALL_PARTS, ReadingData, followMap } from './track-data';

const SIZE = { width: 96, height: 54 };
const about = { reference: 1, range: { first: 1, last: 20 } };
const track = (path: readonly (readonly [number, number])[], at: readonly [number, number] = path[0]!): ReadingData =>
  new ReadingData({ ...newPoint(at, about), frames: path.map(([x, y], i) => ({ frame: i + 1, x, y, confidence: 1, error: 0 })) }, 1);
const settings = (change: Partial<SteadySettings> = {}): SteadySettings => ({
  mode: 'lock',
  window: 6,
  parts: ALL_PARTS,
  fill: 'none',
  ...change,
});
const wander = fc.array(fc.tuple(fc.double({ min: -8, max: 8, noNaN: true }), fc.double({ min: -6, max: 6, noNaN: true })), {
  minLength: 4,
  maxLength: 20,
});

/** Whether every pixel of the frame shows a place of the picture. */
function covered(map: Homography): boolean {
  const back = invert(map)!;
  for (let y = 0.5; y < SIZE.height; y += 1) {
    for (const x of y < 1 || y > SIZE.height - 1 ? Array.from({ length: SIZE.width }, (_, i) => i + 0.5) : [0.5, SIZE.width - 0.5]) {
      const [u, v] = applyHomography(back, x, y);
      if (u < -1e-6 || v < -1e-6 || u > SIZE.width + 1e-6 || v > SIZE.height + 1e-6) return false;
    }
  }
  return true;
}

describe('steadying', () => {
  test('locked, the detail stays where it was on the reference frame', () => {
    fc.assert(
      fc.property(wander, (list) => {
        const data = track(list.map(([x, y]) => [40 + x, 25 + y] as const));
        const [a, b] = data.positionAt(1);
        for (let f = 1; f <= list.length; f++) {
          const [x, y] = applyHomography(steadyMap(data, null, f, settings()), ...data.positionAt(f));
          expect(Math.hypot(x - a, y - b)).toBeLessThan(1e-6);
        }
      }),
    );
  });

  test('two points hold turn and scale, too', () => {
    const turned = (f: number): Homography => {
      const a = 0.05 * (f - 1);
      const s = 1 + 0.02 * (f - 1);
      return [s * Math.cos(a), -s * Math.sin(a), 3 * f, s * Math.sin(a), s * Math.cos(a), -f, 0, 0, 1];
    };
    const path = (x: number, y: number) => Array.from({ length: 8 }, (_, i) => mapPoint(turned(i + 1), x, y));
    const [p, q] = [track(path(30, 20)), track(path(70, 40))];
    for (let f = 1; f <= 8; f++) {
      const [u, v] = applyHomography(steadyMap(p, q, f, settings()), ...mapPoint(turned(f), 50, 10));
      const [x, y] = applyHomography(turned(1), 50, 10);
      expect(Math.hypot(u - x, v - y)).toBeLessThan(1e-6);
    }
  });

  test('parts that are not asked for stay', () => {
    const data = track([
      [40, 25],
      [46, 30],
    ]);
    const map = steadyMap(data, null, 2, settings({ parts: { ...ALL_PARTS, vertical: false } }));
    const [x, y] = applyHomography(map, 46, 30);
    expect([x, y]).toEqual([40, 30]);
  });

  test('smoothed, what is slow is kept and what is quick goes', () => {
    const path = Array.from({ length: 20 }, (_, i) => [30 + i, 25 + (i % 2 ? 2 : -2)] as const);
    const data = track(path);
    const left = (f: number): [number, number] => mapPoint(steadyMap(data, null, f, settings({ mode: 'smooth' })), ...data.positionAt(f));
    for (let f = 8; f <= 13; f++) {
      expect(left(f)[0]).toBeCloseTo(29 + f, 1);
      expect(Math.abs(left(f)[1] - 25)).toBeLessThan(0.3);
    }
  });

  test('one scale fills the frame on every frame, and none smaller by a thousandth would', () => {
    fc.assert(
      fc.property(wander, fc.constantFrom('lock', 'smooth'), (list, mode) => {
        const data = track(list.map(([x, y]) => [40 + x, 25 + y] as const));
        const s = settings({ mode: mode as 'lock', fill: 'constant' });
        const frames = list.map((_, i) => i + 1);
        for (const f of frames) expect(covered(steadied(data, null, f, s, SIZE))).toBe(true);
        const bare = { ...s, fill: 'none' } as const;
        const scale = Math.max(...frames.map((f) => leastScale(steadyMap(data, null, f, bare), SIZE)));
        const edge = (f: number): boolean => {
          const back = invert(multiply(scaledAround(scale * 0.999, SIZE), steadyMap(data, null, f, bare)))!;
          return [
            [0, 0],
            [SIZE.width, 0],
            [SIZE.width, SIZE.height],
            [0, SIZE.height],
          ].every(([x, y]) => {
            const [u, v] = applyHomography(back, x!, y!);
            return u >= 0 && v >= 0 && u <= SIZE.width && v <= SIZE.height;
          });
        };
        expect(frames.every(edge)).toBe(false);
      }),
      { numRuns: 60 },
    );
  });

  test('a slow scale fills every frame, too, and is never over the one scale', () => {
    fc.assert(
      fc.property(wander, (list) => {
        const data = track(list.map(([x, y]) => [40 + x, 25 + y] as const));
        for (let f = 1; f <= list.length; f++) {
          const slow = steadied(data, null, f, settings({ fill: 'varying' }), SIZE);
          expect(covered(slow)).toBe(true);
          expect(slow[0]).toBeLessThanOrEqual(steadied(data, null, f, settings({ fill: 'constant' }), SIZE)[0] + 1e-9);
        }
      }),
      { numRuns: 40 },
    );
  });
});

describe('the data of a reading', () => {
  test('a proxy has the same motion at its own scale; between frames it is in between', () => {
    const reading = {
      ...newPoint([40, 20], about),
      frames: [1, 2].map((frame) => ({ frame, x: 30 + 10 * frame, y: 20, confidence: 1, error: 0 })),
    };
    expect(new ReadingData(reading, 0.5).positionAt(2)).toEqual([25, 10]);
    expect(new ReadingData(reading, 1).positionAt(1.5)).toEqual([45, 20]);
    expect(new ReadingData(reading, 1).positionAt(9)).toEqual([50, 20]);
  });

  test('a plane is followed with its perspective, or by its shift, turn and scale alone', () => {
    const map: Homography = [1.1, 0.05, 4, -0.03, 0.95, -2, 0.0008, 0.0003, 1];
    const frames = [
      { frame: 1, homography: [1, 0, 0, 0, 1, 0, 0, 0, 1] as Homography, confidence: 1, error: 0 },
      { frame: 2, homography: map, confidence: 1, error: 0 },
    ];
    const data = new ReadingData({ ...newPlane([[20, 10, 70, 10, 70, 40, 20, 40]], about), frames }, 1);
    expect(followMap(data, null, 2, ALL_PARTS)).toEqual(map);
    const like = followMap(data, null, 2, { ...ALL_PARTS, turn: false });
    expect(like[6]).toBe(0);
    const half = new ReadingData({ ...newPlane([[20, 10, 70, 10, 70, 40, 20, 40]], about), frames }, 0.5).mapAt(2);
    const [x, y] = applyHomography(map, 60, 30);
    const [u, v] = applyHomography(half, 30, 15);
    expect(Math.hypot(2 * u - x, 2 * v - y)).toBeLessThan(1e-9);
  });
});
