import fc from 'fast-check';
import { nodeKernels } from '@/engine/node/host';
import type { Rect } from '../geometry/rect';
import { area, rect, width } from '../geometry/rect';
import { copyInto, copyOver, copyShared } from './copy';
import { boxReduced, enlargedRect, reducedRect, repeatEdges } from './reduce';

const anyRect = (): fc.Arbitrary<Rect> =>
  fc
    .tuple(
      fc.integer({ min: -9, max: 9 }),
      fc.integer({ min: -9, max: 9 }),
      fc.integer({ min: 1, max: 14 }),
      fc.integer({ min: 1, max: 9 }),
    )
    .map(([x, y, w, h]) => rect(x, y, x + w, y + h));

/** A plane that tells where each of its pixels lies. */
const values = (r: Rect): number[] =>
  Array.from({ length: area(r) }, (_, i) => 1000 + 40 * (r.y0 + Math.floor(i / width(r))) + r.x0 + (i % width(r)));
const within = (r: Rect, x: number, y: number): boolean => x >= r.x0 && x < r.x1 && y >= r.y0 && y < r.y1;
/** What a plane over a rectangle holds, place by place. */
const placesOf = (r: Rect, of: (x: number, y: number) => number): number[] =>
  Array.from({ length: area(r) }, (_, i) => of(r.x0 + (i % width(r)), r.y0 + Math.floor(i / width(r))));

const told = (x: number, y: number): number => 1000 + 40 * y + x;

describe('copies between rectangles', () => {
  test('what both share is copied, the rest stays', async () => {
    const k = await nodeKernels();
    fc.assert(
      fc.property(anyRect(), anyRect(), (have, want) => {
        const [from, to] = [k.copy(values(have)), k.take(area(want)).fill(-1)];
        copyShared(k, from, have, to, want);
        expect([...to]).toEqual(placesOf(want, (x, y) => (within(have, x, y) ? told(x, y) : -1)));
        [from, to].forEach((p) => k.give(p));
      }),
    );
  });

  test('a new plane is empty where there was nothing', async () => {
    const k = await nodeKernels();
    const used = k.used;
    fc.assert(
      fc.property(anyRect(), anyRect(), (have, want) => {
        const from = k.copy(values(have));
        const to = copyInto(k, from, have, want);
        const wanted = placesOf(want, (x, y) => (within(have, x, y) ? told(x, y) : 0));
        expect([...to]).toEqual(wanted);
        const over = copyOver(k, from, have, want, (n) => k.take(n));
        expect([...over]).toEqual(wanted);
        [from, to, ...(over === from ? [] : [over])].forEach((p) => k.give(p));
      }),
    );
    expect(k.used).toBe(used);
  });

  test('where the two are one nothing is copied', async () => {
    const k = await nodeKernels();
    const r = rect(2, 3, 9, 7);
    const plane = k.copy(values(r));
    expect(copyOver(k, plane, r, rect(2, 3, 9, 7), () => expect(true).toBe(false) as never)).toBe(plane);
    k.give(plane);
  });

  test('edges are repeated outward from the nearest pixel', async () => {
    const k = await nodeKernels();
    fc.assert(
      fc.property(anyRect(), fc.integer({ min: 0, max: 5 }), fc.integer({ min: 0, max: 5 }), (have, a, b) => {
        const want = rect(have.x0 - a, have.y0 - b, have.x1 + b, have.y1 + a);
        const from = k.copy(values(have));
        const to = repeatEdges(k, from, have, want);
        const near = (v: number, low: number, high: number): number => Math.min(high - 1, Math.max(low, v));
        expect([...to]).toEqual(placesOf(want, (x, y) => told(near(x, have.x0, have.x1), near(y, have.y0, have.y1))));
        [from, ...(to === from ? [] : [to])].forEach((p) => k.give(p));
      }),
    );
  });

  test('a plane at a half or a quarter of its size holds the means of its blocks, wherever it begins', async () => {
    const k = await nodeKernels();
    fc.assert(
      fc.property(anyRect(), fc.constantFrom(2, 3, 4), (have, factor) => {
        const from = k.copy(values(have));
        const small = reducedRect(have, factor);
        const to = boxReduced(k, from, have, factor);
        expect(enlargedRect(small, factor).x0).toBeLessThanOrEqual(have.x0);
        const near = (v: number, low: number, high: number): number => Math.min(high - 1, Math.max(low, v));
        const wanted = placesOf(small, (x, y) => {
          let sum = 0;
          for (let j = 0; j < factor; j++) {
            for (let i = 0; i < factor; i++) {
              sum += told(near(x * factor + i, have.x0, have.x1), near(y * factor + j, have.y0, have.y1));
            }
          }
          return sum / factor ** 2;
        });
        const off = wanted.map((v, i) => Math.abs(v - to[i]!)).reduce((a, b) => Math.max(a, b), 0);
        expect(off).toBeLessThan(1e-2);
        [from, to].forEach((p) => k.give(p));
      }),
    );
  });
});
