import fc from 'fast-check';
import type { Affine } from './affine';
import { applyAffine, boundsOfImage, compose, IDENTITY, invertAffine, translation } from './affine';
import { boxAround, doubleArea, inPolygon } from './polygon';
import { area, EMPTY, grow, intersect, isEmpty, rect, union } from './rect';
import { inverseOf, solve } from './solve';

const number = fc.double({ min: -3, max: 3, noNaN: true });
const affines = fc.tuple(number, number, number, number, number, number).map((m): Affine => m);
const rects = fc
  .tuple(fc.integer({ min: -20, max: 20 }), fc.integer({ min: -20, max: 20 }), fc.nat(30), fc.nat(30))
  .map(([x, y, w, h]) => rect(x, y, x + w, y + h));

describe('affine maps', () => {
  test('the inverse undoes, and a composition is the one after the other', () => {
    fc.assert(
      fc.property(affines, affines, (m, n) => {
        const [x, y] = applyAffine(compose(m, n), 0.7, -1.3);
        const [u, v] = applyAffine(m, ...applyAffine(n, 0.7, -1.3));
        expect(Math.hypot(x - u, y - v)).toBeLessThan(1e-9);
        const back = invertAffine(m);
        fc.pre(back !== null && Math.abs(m[0] * m[4] - m[1] * m[3]) > 1e-3);
        const there = applyAffine(back!, ...applyAffine(m, 2, 3));
        expect(Math.hypot(there[0] - 2, there[1] - 3)).toBeLessThan(1e-6);
      }),
    );
    expect(invertAffine([1, 2, 0, 2, 4, 0])).toBeNull();
  });

  test('the image of a rectangle lies in its bounds, which are no larger than they must be', () => {
    fc.assert(
      fc.property(affines, rects, (m, r) => {
        fc.pre(!isEmpty(r));
        const b = boundsOfImage(m, r);
        const corners = [r.x0, r.x1].flatMap((x) => [r.y0, r.y1].map((y) => applyAffine(m, x, y)));
        for (const [x, y] of corners) {
          expect(x).toBeGreaterThanOrEqual(b.x0 - 1e-6);
          expect(x).toBeLessThanOrEqual(b.x1 + 1e-6);
          expect(y).toBeGreaterThanOrEqual(b.y0 - 1e-6);
          expect(y).toBeLessThanOrEqual(b.y1 + 1e-6);
        }
        expect(Math.min(...corners.map(([x]) => x)) - b.x0).toBeLessThan(1);
        expect(b.y1 - Math.max(...corners.map(([, y]) => y))).toBeLessThan(1);
      }),
    );
  });

  test('a shift by whole pixels moves a rectangle by just that', () => {
    expect(boundsOfImage(translation(3, -2), rect(0, 0, 4, 5))).toEqual(rect(3, -2, 7, 3));
    expect(boundsOfImage(IDENTITY, EMPTY)).toEqual(EMPTY);
  });
});

describe('rectangles', () => {
  test('what two share lies in both, and their union holds both', () => {
    fc.assert(
      fc.property(rects, rects, (a, b) => {
        const both = intersect(a, b);
        const all = union(a, b);
        expect(area(both)).toBeLessThanOrEqual(Math.min(area(a), area(b)));
        if (!isEmpty(a)) expect(intersect(all, a)).toEqual(a);
        if (!isEmpty(b)) expect(intersect(all, b)).toEqual(b);
        if (!isEmpty(both)) expect(intersect(both, a)).toEqual(both);
      }),
    );
  });

  test('growing goes outward to whole pixels; nothing grown is nothing', () => {
    expect(grow(rect(0, 0, 2, 2), 1.2, 0)).toEqual(rect(-2, 0, 4, 2));
    expect(grow(EMPTY, 5)).toEqual(EMPTY);
  });
});

describe('polygons', () => {
  const notched = [0, 0, 10, 0, 10, 10, 5, 4, 0, 10];
  test('inside and outside of one with a notch', () => {
    expect(inPolygon(notched, 1, 1)).toBe(true);
    expect(inPolygon(notched, 5, 3)).toBe(true);
    expect(inPolygon(notched, 5, 6)).toBe(false);
    expect(inPolygon(notched, 11, 5)).toBe(false);
  });

  test('area by the count of points that lie inside', () => {
    let inside = 0;
    for (let y = 0; y < 200; y++) for (let x = 0; x < 200; x++) inside += +inPolygon(notched, (x + 0.5) / 20, (y + 0.5) / 20);
    expect(Math.abs(inside / 400 - Math.abs(doubleArea(notched)) / 2)).toBeLessThan(0.3);
    expect(boxAround([notched, [-3, 2, 1, 2, 1, 14]])).toEqual({ x0: -3, y0: 0, x1: 10, y1: 14 });
  });
});

describe('linear equations', () => {
  test('solutions solve, inverses undo, and what is singular says so', () => {
    fc.assert(
      fc.property(fc.array(number, { minLength: 20, maxLength: 20 }), (v) => {
        const n = 4;
        const rows = Array.from({ length: n }, (_, i) => Float64Array.from({ length: n }, (__, j) => v[n * i + j]! + (i === j ? 8 : 0)));
        const b = Float64Array.from(v.slice(16));
        const x = solve(
          rows.map((r) => r.slice()),
          b.slice(),
        );
        rows.forEach((r, i) => expect(r.reduce((s, a, j) => s + a * x[j]!, 0)).toBeCloseTo(b[i]!, 8));
        const flat = Float64Array.from(rows.flatMap((r) => [...r]));
        const back = inverseOf(flat, n)!;
        for (let i = 0; i < n; i++)
          for (let j = 0; j < n; j++) expect(rows[i]!.reduce((s, a, k) => s + a * back[k * n + j]!, 0)).toBeCloseTo(+(i === j), 8);
      }),
    );
    expect(inverseOf(Float64Array.from([1, 2, 2, 4]), 2)).toBeNull();
    expect([...solve([Float64Array.from([1, 2]), Float64Array.from([2, 4])], Float64Array.from([1, 1]))].every(Number.isFinite)).toBe(
      false,
    );
  });
});
