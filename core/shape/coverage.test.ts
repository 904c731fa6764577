import { nodeKernels } from '@/engine/node/host';
import { rect, width } from '../geometry/rect';
import type { Rect } from '../geometry/rect';
import { reachOfShapes, shapeMatte } from './coverage';
import type { Posed } from './pose';
import { POINT_SIZE } from './shapes';

const posed = (corners: readonly (readonly [number, number])[], change: Partial<Posed> = {}, feather = 0): Posed => ({
  operation: 'add',
  opacity: 1,
  falloff: 'linear',
  closed: true,
  width: 0,
  spline: 'bezier',
  points: corners.flatMap(([x, y]) => [x, y, 0, 0, 0, 0, feather]),
  ...change,
});

async function matte(list: readonly Posed[], region: Rect): Promise<{ at(x: number, y: number): number; all: Float32Array }> {
  const k = await nodeKernels();
  const before = k.used;
  const to = k.take(width(region) * (region.y1 - region.y0));
  shapeMatte(k, [list], region, to);
  const all = Float32Array.from(to);
  k.give(to);
  expect(k.used).toBe(before);
  return { all, at: (x, y) => all[(y - region.y0) * width(region) + x - region.x0]! };
}

type P = readonly [number, number];

/** The area of a convex or concave simple polygon inside a pixel: cut by its four sides (Sutherland and Hodgman 1974), then Gauss. */
function areaIn(polygon: readonly P[], x: number, y: number): number {
  const sides: [(p: P) => number][] = [[(p) => p[0] - x], [(p) => x + 1 - p[0]], [(p) => p[1] - y], [(p) => y + 1 - p[1]]];
  let list = [...polygon];
  for (const [inside] of sides) {
    const next: P[] = [];
    list.forEach((p, i) => {
      const q = list[(i + 1) % list.length]!;
      const [a, b] = [inside(p), inside(q)];
      if (a >= 0) next.push(p);
      if (a * b < 0) next.push([p[0] + ((q[0] - p[0]) * a) / (a - b), p[1] + ((q[1] - p[1]) * a) / (a - b)]);
    });
    list = next;
  }
  return Math.abs(list.reduce((s, p, i) => s + p[0] * list[(i + 1) % list.length]![1] - list[(i + 1) % list.length]![0] * p[1], 0) / 2);
}

const disc = (cx: number, cy: number, r: number, n: number): P[] =>
  Array.from({ length: n }, (_, i) => [cx + r * Math.cos((2 * Math.PI * i) / n), cy + r * Math.sin((2 * Math.PI * i) / n)]);

let seed = 5;
const random = (): number => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32;

/** Corners in order of their angle around a middle: a polygon that does not cross itself. */
const star = (n: number): P[] => {
  const angles = Array.from({ length: n }, () => random() * 2 * Math.PI).sort((a, b) => a - b);
  return angles.map((a) => {
    const r = 0.1 + 0.9 * random();
    return [32 + 34 * r * Math.cos(a), 24 + 28 * r * Math.sin(a)];
  });
};

describe('coverage', () => {
  test.each([
    ['a disc', disc(31.3, 22.7, 17.2, 4000)],
    ['a small disc inside a pixel', disc(30.4, 20.6, 0.3, 64)],
    ['a thin line', [[3.2, 5.1] as P, [60.7, 33.3] as P, [60.6, 33.6] as P, [3.1, 5.4] as P]],
    ['beyond all sides', disc(30, 20, 70, 64)],
    ...Array.from({ length: 6 }, (_, i): [string, P[]] => [`a random polygon ${i}`, star(3 + 5 * i)]),
  ])('%s is the area of each pixel that it covers, to 1e-5', async (_, polygon) => {
    const got = await matte([posed(polygon)], rect(0, 0, 64, 48));
    let worst = 0;
    for (let y = 0; y < 48; y++) for (let x = 0; x < 64; x++) worst = Math.max(worst, Math.abs(got.at(x, y) - areaIn(polygon, x, y)));
    expect(worst).toBeLessThan(1e-5);
  });

  test('what crosses itself is covered wherever it winds, once', async () => {
    // A five-pointed star drawn in one line: its middle winds twice. Against 32×32 samples a pixel.
    const corners = [0, 2, 4, 1, 3].map((i): P => [20 + 17 * Math.sin((i * 2 * Math.PI) / 5), 20 - 17 * Math.cos((i * 2 * Math.PI) / 5)]);
    const bow: P[] = [
      [2.3, 2.1],
      [37.2, 37.9],
      [37.5, 3.3],
      [2.8, 36.2],
    ];
    const winding = (polygon: readonly P[], x: number, y: number): number =>
      polygon.reduce((w, [x0, y0], i) => {
        const [x1, y1] = polygon[(i + 1) % polygon.length]!;
        const side = (x1 - x0) * (y - y0) - (x - x0) * (y1 - y0);
        return w + (y0 <= y && y1 > y && side > 0 ? 1 : y0 > y && y1 <= y && side < 0 ? -1 : 0);
      }, 0);
    for (const polygon of [corners, bow]) {
      const got = await matte([posed(polygon)], rect(0, 0, 40, 40));
      const N = 32;
      for (let y = 0; y < 40; y++) {
        for (let x = 0; x < 40; x++) {
          let sum = 0;
          for (let j = 0; j < N; j++) for (let i = 0; i < N; i++) sum += winding(polygon, x + (i + 0.5) / N, y + (j + 0.5) / N) ? 1 : 0;
          expect(Math.abs(got.at(x, y) - sum / N ** 2)).toBeLessThan(0.035);
        }
      }
    }
  });

  test('a tile is that part of the whole, also one that the outline only passes left of', async () => {
    const shapes = [
      posed(star(14), { falloff: 'smooth' }, 5),
      posed(star(9), { operation: 'exclude' }, -3),
      posed(star(7), { operation: 'subtract', opacity: 0.5 }),
      posed(star(12), { operation: 'intersect' }),
      posed([[10, 40] as P, [50, 9] as P], { closed: false, width: 4 }),
    ];
    const whole = await matte(shapes, rect(-8, -8, 72, 56));
    for (const part of [rect(0, 0, 32, 24), rect(32, 0, 72, 24), rect(40, 24, 60, 50), rect(-8, 30, 3, 56)]) {
      const got = await matte(shapes, part);
      for (let y = part.y0; y < part.y1; y++)
        for (let x = part.x0; x < part.x1; x++) expect(Math.abs(got.at(x, y) - whole.at(x, y))).toBeLessThan(1e-6);
    }
  });

  test('a feather falls from the outline outward, or inward, by its width', async () => {
    const square: P[] = [
      [20, 20],
      [44, 20],
      [44, 44],
      [20, 44],
    ];
    const out = await matte([posed(square, {}, 10)], rect(0, 0, 64, 64));
    const into = await matte([posed(square, {}, -10)], rect(0, 0, 64, 64));
    for (let d = 0; d < 10; d++) {
      expect(out.at(32, 19 - d)).toBeCloseTo(1 - (d + 0.5) / 10, 5);
      expect(into.at(32, 20 + d)).toBeCloseTo((d + 0.5) / 10, 5);
    }
    expect(out.at(32, 9)).toBe(0);
    expect(into.at(32, 32)).toBe(1);
    // Round at a corner, not a square's miter: no crease along its diagonal.
    expect(out.at(14, 14)).toBeCloseTo(1 - Math.hypot(5.5, 5.5) / 10, 4);
    const reach = reachOfShapes([posed(square, {}, 10)])!;
    expect([reach.x0, reach.y0, reach.x1, reach.y1]).toEqual([10, 10, 54, 54]);
  });

  test('a feather of one point alone grows towards it', async () => {
    const p = posed([[20, 20] as P, [44, 20] as P, [44, 44] as P, [20, 44] as P]);
    const points = [...p.points];
    points[POINT_SIZE + 6] = 12;
    const got = await matte([{ ...p, points }], rect(0, 0, 64, 64));
    expect(got.at(44, 18)).toBeGreaterThan(0.7);
    expect(got.at(21, 18)).toBe(0);
    expect(got.at(32, 17)).toBeGreaterThan(0);
    expect(got.at(40, 17)).toBeGreaterThan(got.at(32, 17));
  });

  test('a smooth shape runs inside the polygon of its points; an open one is a line of its width', async () => {
    const corners = disc(32, 24, 20, 8);
    const smooth = await matte([posed(corners, { spline: 'smooth' })], rect(0, 0, 64, 48));
    const hard = await matte([posed(corners)], rect(0, 0, 64, 48));
    const sum = (m: { all: Float32Array }): number => m.all.reduce((a, b) => a + b, 0);
    expect(sum(smooth)).toBeLessThan(sum(hard));
    expect(sum(smooth)).toBeGreaterThan(0.6 * sum(hard));
    const line = await matte([posed([[10, 24] as P, [50, 24] as P], { closed: false, width: 6 })], rect(0, 0, 64, 48));
    expect(line.at(30, 24)).toBe(1);
    expect(line.at(30, 26)).toBe(1);
    expect(line.at(30, 27)).toBe(0);
    expect(line.at(52, 24)).toBeGreaterThan(0);
  });

  test('nothing breaks it: no length, one point, all in one place, ten thousand points, not a number, far away', async () => {
    const many = Array.from({ length: 10_000 }, (): P => [random() * 64, random() * 48]);
    const odd: Posed[] = [
      posed([[5, 5] as P]),
      posed([[5, 5] as P, [9, 9] as P]),
      posed(Array.from({ length: 9 }, (): P => [7, 7])),
      posed([[NaN, 5] as P, [Infinity, 9] as P, [3, 40] as P]),
      posed(disc(1e7, 1e7, 20, 8)),
      posed([[1e9, -1e9] as P, [-1e9, 1e9] as P, [20, 20] as P], {}, 50),
      posed([[5, 5] as P], { closed: false, width: 3 }),
      posed(many),
    ];
    for (const shape of odd) {
      const got = await matte([shape], rect(0, 0, 64, 48));
      for (const v of got.all) expect(v >= 0 && v <= 1).toBe(true);
    }
  });
});

describe('one of many shapes changes', () => {
  const region = rect(-3, -2, 157, 118);
  const kinds: Partial<Posed>[] = [
    {},
    { operation: 'subtract' },
    { operation: 'exclude', opacity: 0.7 },
    { closed: false, width: 5 },
    { operation: 'intersect' },
  ];
  /** Discs all over, of every operation but an intersection, hard, soft and open. */
  const many = (n: number): Posed[] =>
    Array.from({ length: n }, (_, i) =>
      posed(disc(20 + 120 * random(), 15 + 90 * random(), 6 + 12 * random(), 9), kinds[i % 4], i % 5 === 3 ? 4 : 0),
    );
  const moved = (s: Posed, dy: number): Posed => ({ ...s, points: s.points.map((v, i) => (i % POINT_SIZE === 1 ? v + dy : v)) });

  test.each([0, 1, 2, 3, 19])('shape %d of 20: to the bit what all of them give anew', async (i) => {
    const list = many(20);
    // What comes again is kept; then one is another.
    await matte(list, region);
    await matte(list, region);
    const next = list.map((s, k) => (k === i ? moved(s, 7.3) : s));
    const again = await matte(next, region);
    // As other objects nothing is known of them.
    const anew = await matte(
      next.map((s) => ({ ...s })),
      region,
    );
    expect(Buffer.from(again.all.buffer).equals(Buffer.from(anew.all.buffer))).toBe(true);
  });

  test('where one is taken away, another operation is first, or an intersection moves', async () => {
    const list = many(12);
    const cases: Posed[][] = [
      list.slice(1),
      [{ ...list[0]!, operation: 'subtract' }, ...list.slice(1)],
      [...list.slice(0, 8), posed(disc(70, 60, 50, 12), kinds[4]), ...list.slice(9)],
    ];
    for (const next of cases) {
      await matte(list, region);
      await matte(list, region);
      const again = await matte(next, region);
      const anew = await matte(
        next.map((s) => ({ ...s })),
        region,
      );
      expect(again.all).toEqual(anew.all);
      const wide = await matte(
        next.map((s) => ({ ...s })),
        rect(-3, -2, 158, 118),
      );
      expect(wide.at(70, 60)).toBeCloseTo(again.at(70, 60), 6);
    }
  });
});
