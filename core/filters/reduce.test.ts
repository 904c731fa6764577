import { nodeKernels } from '@/engine/node/host';
import { area, rect } from '../geometry/rect';
import { boxReduced, enlargedRect, reducedRect, repeatEdges } from './reduce';

test('a rectangle at half size holds all of it, also left of and above the origin', () => {
  expect(reducedRect(rect(-3, 1, 5, 7), 2)).toEqual(rect(-2, 0, 3, 4));
  expect(enlargedRect(rect(-2, 0, 3, 4), 2)).toEqual(rect(-4, 0, 6, 8));
});

test('edges are repeated outward on every side', async () => {
  const k = await nodeKernels();
  const plane = k.copy([1, 2, 3, 4, 5, 6]);
  const wide = repeatEdges(k, plane, rect(0, 0, 3, 2), rect(-1, -2, 5, 3));
  expect([...wide]).toEqual([
    ...[1, 1, 2, 3, 3, 3],
    ...[1, 1, 2, 3, 3, 3],
    ...[1, 1, 2, 3, 3, 3],
    ...[4, 4, 5, 6, 6, 6],
    ...[4, 4, 5, 6, 6, 6],
  ]);
  expect(repeatEdges(k, plane, rect(0, 0, 3, 2), rect(0, 0, 3, 2))).toBe(plane);
  [plane, wide].forEach((p) => k.give(p));
});

test('half the size is the mean of four, and what stays alone at an odd edge counts for itself', async () => {
  const k = await nodeKernels();
  const have = rect(0, 0, 3, 3);
  const plane = k.copy([0, 2, 5, 4, 6, 7, 1, 3, 9]);
  const small = boxReduced(k, plane, have, 2);
  expect(area(reducedRect(have, 2))).toBe(small.length);
  expect([...small]).toEqual([3, 6, 2, 9]);
  [plane, small].forEach((p) => k.give(p));
});
