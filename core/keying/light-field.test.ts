import { expect, test } from '@jest/globals';
import type { LightField } from './light-field';
import { LightSamples } from './light-field';

test('a surface of the fourth degree is found again from samples, also where none lay', () => {
  const truth = (x: number, y: number): number => 0.3 + 0.1 * x - 0.2 * y * y + 0.05 * x ** 3 * y - 0.04 * y ** 4;
  const [xs, ys, weights]: [number[], number[], number[]] = [[], [], []];
  for (let y = -1; y <= 1; y += 0.1)
    for (let x = -1; x <= 1; x += 0.1) {
      xs.push(x);
      ys.push(y);
      weights.push(Math.hypot(x, y) < 0.3 ? 0 : 1);
    }
  const values = xs.map((x, k) => truth(x, ys[k]!));
  const [field, twice] = new LightSamples(xs, ys).fit([values, values.map((v) => 2 * v)], weights) as [LightField, LightField];
  for (const [x, y] of [
    [0, 0],
    [0.15, -0.1],
    [-0.9, 0.9],
    [0.77, 0.31],
  ] as const) {
    expect(Math.abs(field.at(x, y) - truth(x, y))).toBeLessThan(1e-3);
    expect(twice.at(x, y)).toBeCloseTo(2 * field.at(x, y), 9);
  }
});

test('without samples it is nothing', () => {
  expect(new LightSamples([], []).fit([[]], [])[0]!.at(0.5, 0.5)).toBe(0);
});
