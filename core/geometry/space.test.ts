import { random } from '../random';
import { near } from '../testing/near';
import { leastSquares, cauchyPairs } from './least-squares';
import { Mapping } from './mapping';
import { boxAround, doubleArea, inPolygon, mapPolygon } from './polygon';
import type { Mat3 } from './rotation';
import { IDENTITY3, angleBetween, apply3, axisOf, multiply3, quaternionOf, transpose3, turnOf, turnOfQuaternion } from './rotation';
import type { Vec3 } from './vec3';
import { along3, cross3, dot3, scale3, unit3 } from './vec3';

const next = random(23);
const any = (size = 1): Vec3 => [size * (2 * next() - 1), size * (2 * next() - 1), size * (2 * next() - 1)];

describe('three numbers', () => {
  test('the product across is square to both, and as long as the area between them', () => {
    for (let k = 0; k < 20; k++) {
      const [a, b] = [any(3), any(3)];
      const c = cross3(a, b);
      expect(dot3(c, a)).toBeCloseTo(0, 9);
      expect(dot3(c, b)).toBeCloseTo(0, 9);
      expect(dot3(c, c)).toBeCloseTo(dot3(a, a) * dot3(b, b) - dot3(a, b) ** 2, 9);
    }
  });

  test('a unit is one long the same way; nothing stays nothing', () => {
    near(unit3([0, 3, -4]), [0, 0.6, -0.8]);
    expect(unit3([0, 0, 0])).toEqual([0, 0, 0]);
    expect(along3([1, 2, 3], [1, 0, -1], 2)).toEqual([3, 2, 1]);
    expect(scale3([1, 2, 3], -2)).toEqual([-2, -4, -6]);
  });
});

describe('turns', () => {
  const axes: Vec3[] = [[0, 0, 0], [1e-8, 0, 0], [3.1, 0, 0], [0, -3.1, 0.2], [0, 0, 2], ...Array.from({ length: 20 }, () => any(1.7))];

  test('keep lengths and angles, and their transpose undoes them', () => {
    for (const axis of axes) {
      const m = turnOf(axis);
      near(multiply3(m, transpose3(m)), IDENTITY3);
      const [a, b] = [any(2), any(2)];
      expect(dot3(apply3(m, a), apply3(m, b))).toBeCloseTo(dot3(a, b), 9);
      // Turned by the right hand: never mirrored.
      near(apply3(m, cross3(a, b)), cross3(apply3(m, a), apply3(m, b)));
    }
  });

  test('tell their axis and angle again, up to half a turn', () => {
    axes.forEach((axis) => near(axisOf(turnOf(axis)), axis, 7));
    const half = turnOf([0, Math.PI, 0]);
    expect(Math.hypot(...axisOf(half))).toBeCloseTo(Math.PI, 6);
    near(apply3(half, [1, 0, 0]), [-1, 0, 0]);
  });

  test('go through quaternions, of any length and either sign', () => {
    for (const axis of axes) {
      const q = quaternionOf(turnOf(axis));
      expect([Math.hypot(...q), q[0] >= 0].map(Number).map((v) => v.toFixed(9))).toEqual(['1.000000000', '1.000000000']);
      near(turnOfQuaternion(q), turnOf(axis));
      near(turnOfQuaternion(q.map((v) => -3 * v) as [number, number, number, number]), turnOf(axis));
    }
  });

  test('the angle between two is that of the way from one to the other', () => {
    const a = turnOf([0.3, 0.1, -0.4]);
    expect(angleBetween(a, a)).toBeCloseTo(0, 9);
    expect(angleBetween(multiply3(turnOf([0, 0.25, 0]), a), a)).toBeCloseTo(0.25, 9);
    const quarter: Mat3 = turnOf([Math.PI / 2, 0, 0]);
    near(apply3(quarter, [0, 1, 0]), [0, 0, 1]);
  });
});

describe('polygons', () => {
  const arrow = [0, 0, 4, 0, 4, 4, 2, 1, 0, 4];

  test('a place is inside or not, in a notch too', () => {
    expect([inPolygon(arrow, 1, 1), inPolygon(arrow, 2, 3), inPolygon(arrow, 3.5, 2), inPolygon(arrow, -1, 2)]).toEqual([
      true,
      false,
      true,
      false,
    ]);
  });

  test('its area has the sign of its turn, and a map takes its corners along', () => {
    expect(doubleArea(arrow)).toBe(-doubleArea([0, 4, 2, 1, 4, 4, 4, 0, 0, 0]));
    expect(Math.abs(doubleArea(arrow))).toBe(20);
    expect(mapPolygon([2, 0, 1, 0, 3, -1, 0, 0, 1], [0, 0, 1, 1])).toEqual([1, -1, 3, 2]);
    expect(boxAround([arrow, [-1, 2, 1, 9]])).toEqual({ x0: -1, y0: 0, x1: 4, y1: 9 });
  });
});

describe('least squares', () => {
  /** An exponential: amplitude, rate, and where it ends. */
  const law = (p: ArrayLike<number>, t: number): number => p[0]! * Math.exp(-p[1]! * t) + p[2]!;
  const times = Array.from({ length: 40 }, (_, i) => i / 10);
  const truth = [3, 1.2, 0.5];
  const problemOf = (values: readonly number[]) => ({
    count: times.length,
    steps: Float64Array.of(1e-5, 1e-5, 1e-5),
    residuals: (p: Float64Array, to: Float64Array): boolean => {
      times.forEach((t, i) => (to[i] = law(p, t) - values[i]!));
      return p[1]! > 0;
    },
  });
  const exact = times.map((t) => law(truth, t));

  test('finds what made the numbers, from far away', () => {
    const made = leastSquares([1, 0.3, 0], [0, 1, 2], problemOf(exact));
    near([...made.p], truth, 6);
    expect(made.cost).toBeLessThan(1e-12);
  });

  test('moves only what may move', () => {
    const made = leastSquares([1, 1.2, 0], [0, 2], problemOf(exact));
    expect(made.p[1]).toBe(1.2);
    near([...made.p], truth, 6);
    expect(made.normal).toHaveLength(2);
  });

  test('never takes a step to where the parameters make no sense', () => {
    const made = leastSquares([0.1, 0.01, 0], [0, 1, 2], problemOf(exact));
    expect(made.p[1]).toBeGreaterThan(0);
    expect(made.cost).toBeLessThan(1);
  });

  test('with a robust loss, a fifth of the pairs that lie far off move nothing', () => {
    const pairs = Array.from({ length: 30 }, (_, i) => [i, 2 * i + 1] as const);
    const wrong = pairs.map(([x, y], i) => [i % 5 === 0 ? x + 40 : x, i % 5 === 0 ? y - 60 : y] as const);
    const shift = (robust: boolean): Float64Array =>
      leastSquares([5, -5], [0, 1], {
        count: 60,
        steps: Float64Array.of(1e-4, 1e-4),
        residuals: (p, to) => {
          wrong.forEach(([x, y], i) => ([to[2 * i], to[2 * i + 1]] = [pairs[i]![0] + p[0]! - x, pairs[i]![1] + p[1]! - y]));
          return true;
        },
        ...(robust && { weigh: cauchyPairs(0.5) }),
      }).p;
    near([...shift(true)], [0, 0], 1);
    near([...shift(false)], [8, -12], 6);
  });
});

describe('maps of positions', () => {
  const [turned, keystone] = [Mapping.by([0.8, -0.6, 12, 0.6, 0.8, -7]), Mapping.by([1, 0.1, 3, 0, 1.2, 5, 1e-4, 2e-4, 1])];

  test('one after the other are one matrix, and its inverse takes positions back', () => {
    const both = turned.then(keystone);
    expect(both.forward).not.toBeNull();
    for (let k = 0; k < 10; k++) {
      const [x, y] = [500 * next(), 300 * next()];
      near(both.place(x, y), keystone.place(...turned.place(x, y)));
      near(both.inverse.place(...both.place(x, y)), [x, y], 6);
      const to = new Float64Array(2);
      both.back(...both.place(x, y), to);
      near([...to], [x, y], 6);
    }
  });

  test('one after its own inverse is nothing at all', () => {
    expect(turned.then(turned.inverse).isIdentity).toBe(true);
    expect(Mapping.IDENTITY.place(3, 4)).toEqual([3, 4]);
    expect(Mapping.by([1, 0, 0, 0, 1, 0]).isIdentity).toBe(true);
  });

  test('an affine one says so backwards, a perspective does not', () => {
    expect(turned.affineBackward).not.toBeNull();
    expect(keystone.affineBackward).toBeNull();
    expect([keystone.isFlat, Mapping.by([1, 0, 0, 0, 0, 0]).isFlat]).toEqual([false, true]);
  });

  test('two that do the same have the same name', () => {
    expect(JSON.stringify(Mapping.by([1, 0, 5, 0, 1, 0]))).toBe(
      JSON.stringify(Mapping.by([1, 0, 2, 0, 1, 0]).then(Mapping.by([1, 0, 3, 0, 1, 0]))),
    );
    expect(JSON.stringify(Mapping.by([1, 0, 5, 0, 1, 0], true))).not.toBe(JSON.stringify(Mapping.by([1, 0, 5, 0, 1, 0])));
  });
});
