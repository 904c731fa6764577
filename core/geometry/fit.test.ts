import fc from 'fast-check';
import type { Pair, PlaneModel } from './fit';
import { atScale, fitMap, IDENTITY_H, invert, LEAST, multiply, PLANE_MODELS, robustFit } from './fit';
import type { Homography, Quad } from './homography';
import { applyHomography, homographyBetween, isConvex, mapPoint } from './homography';

/** Maps of each model that a camera might make between two frames. */
const MAPS: Readonly<Record<PlaneModel, Homography>> = {
  shift: [1, 0, 12.5, 0, 1, -7.25, 0, 0, 1],
  similarity: [0.98, -0.21, 30, 0.21, 0.98, -14, 0, 0, 1],
  affine: [1.1, 0.2, -20, -0.15, 0.93, 8, 0, 0, 1],
  perspective: [1.05, 0.08, 14, -0.06, 0.97, 22, 1.2e-4, -0.9e-4, 1],
};
const grid = Array.from({ length: 30 }, (_, i) => [100 + 70 * (i % 6), 80 + 90 * Math.floor(i / 6)] as const);
const pairsBy = (m: Homography): Pair[] => grid.map(([x, y]) => [x, y, ...mapPoint(m, x, y)]);
const off = (a: Homography, b: Homography): number =>
  Math.max(
    ...grid.map(([x, y]) => {
      const [p, q] = [mapPoint(a, x, y), mapPoint(b, x, y)];
      return Math.hypot(p[0] - q[0], p[1] - q[1]);
    }),
  );

describe('maps from pairs', () => {
  test.each(PLANE_MODELS)('%s: exact pairs give the map itself, and too few give none', (model) => {
    const pairs = pairsBy(MAPS[model]);
    expect(off(fitMap(model, pairs)!, MAPS[model])).toBeLessThan(1e-6);
    expect(fitMap(model, pairs.slice(0, LEAST[model] - 1))).toBeNull();
  });

  test('pairs of weight 0 do not count', () => {
    const pairs = pairsBy(MAPS.affine);
    const wrong = pairs.map(([x, y, u, v], i): Pair => (i % 3 ? [x, y, u, v] : [x, y, u + 40, v - 25]));
    const weights = pairs.map((_, i) => +(i % 3 !== 0));
    expect(off(fitMap('affine', wrong, weights)!, MAPS.affine)).toBeLessThan(1e-6);
  });

  test('noise of a fifth of a pixel moves a perspective by less than that, anywhere among its pairs', () => {
    const noisy = pairsBy(MAPS.perspective).map(([x, y, u, v], i): Pair => [
      x,
      y,
      u + 0.2 * Math.sin(i * 7.3),
      v + 0.2 * Math.cos(i * 3.1),
    ]);
    expect(off(fitMap('perspective', noisy)!, MAPS.perspective)).toBeLessThan(0.2);
  });

  test.each(PLANE_MODELS)('%s: a third of wrong pairs is told apart, and the rest decides alone', (model) => {
    const pairs = pairsBy(MAPS[model]).map(([x, y, u, v], i): Pair => (i % 3 === 1 ? [x, y, u + 9 + i, v - 14] : [x, y, u, v]));
    const fit = robustFit(model, pairs, 1.5)!;
    expect(off(fit.map, MAPS[model])).toBeLessThan(1e-3);
    expect(fit.inliers.map(Number)).toEqual(pairs.map((_, i) => +(i % 3 !== 1)));
    expect(fit.error).toBeLessThan(1e-3);
  });

  test('the same pairs give the same map', () => {
    const pairs = pairsBy(MAPS.perspective).map(([x, y, u, v], i): Pair => [x, y, u + Math.sin(i * 91), v + Math.sin(i * 17)]);
    expect(robustFit('perspective', pairs, 1.5)).toEqual(robustFit('perspective', pairs, 1.5));
  });

  test('pairs that agree on nothing give no map', () => {
    const pairs = grid.map(([x, y], i): Pair => [x, y, 400 * Math.abs(Math.sin(i * 12.9898)), 300 * Math.abs(Math.sin(i * 78.233))]);
    const fit = robustFit('similarity', pairs, 0.01);
    expect(fit === null || fit.inliers.filter(Boolean).length < 5).toBe(true);
  });
});

describe('homographies', () => {
  const small = fc.double({ min: -0.2, max: 0.2, noNaN: true });
  const bend = fc.double({ min: -2e-4, max: 2e-4, noNaN: true });
  const shift = fc.double({ min: -200, max: 200, noNaN: true });
  const maps = fc
    .tuple(small, small, shift, small, small, shift, bend, bend)
    .map(([a, b, c, d, e, f, g, h]): Homography => [1 + a, b, c, d, 1 + e, f, g, h, 1]);

  test('a map after its inverse is none', () => {
    fc.assert(
      fc.property(maps, (m) => {
        expect(off(multiply(invert(m)!, m), IDENTITY_H)).toBeLessThan(1e-6);
        expect(off(multiply(m, invert(m)!), IDENTITY_H)).toBeLessThan(1e-5);
      }),
    );
  });

  test('two maps at once are the one after the other', () => {
    fc.assert(
      fc.property(maps, maps, (m, n) => {
        for (const [x, y] of grid.slice(0, 8)) {
          const [u, v, w] = applyHomography(n, x, y);
          if (w < 0.3) continue;
          const there = mapPoint(m, u, v);
          const both = mapPoint(multiply(m, n), x, y);
          expect(Math.hypot(there[0] - both[0], there[1] - both[1])).toBeLessThan(1e-5 * (1 + Math.hypot(...there)));
        }
      }),
    );
  });

  test('a map between two quadrilaterals takes each corner to its own', () => {
    fc.assert(
      fc.property(maps, (m) => {
        const home: Quad = [
          [0, 0],
          [960, 0],
          [960, 540],
          [0, 540],
        ];
        const there = home.map(([x, y]) => mapPoint(m, x, y)) as unknown as Quad;
        fc.pre(home.every(([x, y]) => applyHomography(m, x, y)[2] > 0.2) && isConvex(there));
        const found = homographyBetween(home, there)!;
        home.forEach(([x, y], i) => {
          const [u, v] = mapPoint(found, x, y);
          expect(Math.hypot(u - there[i]![0], v - there[i]![1])).toBeLessThan(1e-6 * (1 + Math.abs(u) + Math.abs(v)));
        });
      }),
    );
  });

  test('a folded quadrilateral and three corners on a line have no map', () => {
    const square: Quad = [
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ];
    const folded: Quad = [square[0], square[2], square[1], square[3]];
    const flat: Quad = [square[0], [0.5, 0], square[1], square[3]];
    for (const q of [folded, flat]) {
      expect(isConvex(q)).toBe(false);
      expect(homographyBetween(square, q)).toBeNull();
      expect(homographyBetween(q, square)).toBeNull();
    }
    // Turned the other way around it is still a plane, seen from behind.
    expect(isConvex([...square].reverse() as unknown as Quad)).toBe(true);
  });

  test('at half scale the same place of the picture goes to the same place', () => {
    const half = atScale(MAPS.perspective, 0.5);
    for (const [x, y] of grid) {
      const [u, v] = mapPoint(MAPS.perspective, x, y);
      const [s, t] = mapPoint(half, x / 2, y / 2);
      expect(Math.hypot(2 * s - u, 2 * t - v)).toBeLessThan(1e-9 * 1e3);
    }
  });

  test('what flattens the plane has no inverse', () => {
    expect(invert([1, 2, 0, 2, 4, 0, 0, 0, 1])).toBeNull();
  });
});
