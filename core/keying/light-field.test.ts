import { expect, test } from '@jest/globals';
import { LightField } from './light-field';

test('a surface of the fourth degree is found again from samples, also where none lay', () => {
  const truth = (x: number, y: number): number => 0.3 + 0.1 * x - 0.2 * y * y + 0.05 * x ** 3 * y - 0.04 * y ** 4;
  const samples = [];
  for (let y = -1; y <= 1; y += 0.1)
    for (let x = -1; x <= 1; x += 0.1) samples.push({ x, y, value: truth(x, y), weight: Math.hypot(x, y) < 0.3 ? 0 : 1 });
  const field = LightField.fit(samples);
  for (const [x, y] of [
    [0, 0],
    [0.15, -0.1],
    [-0.9, 0.9],
    [0.77, 0.31],
  ] as const)
    expect(Math.abs(field.at(x, y) - truth(x, y))).toBeLessThan(1e-3);
});

test('without samples it is nothing', () => {
  expect(LightField.fit([]).at(0.5, 0.5)).toBe(0);
});
