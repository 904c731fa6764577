import { nodeKernels } from '@/engine/node/host';
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

test('fitted again with other weights it is what a first fit with these would be; its values are those of the surface', () => {
  const noise = (i: number): number => Math.abs((Math.sin(i * 12.9898) * 43758.5453) % 1);
  const xs = Float64Array.from({ length: 300 }, (_, i) => 2 * noise(i) - 1);
  const ys = Float64Array.from({ length: 300 }, (_, i) => 2 * noise(i + 1000) - 1);
  const list = Float64Array.from(xs, (x, i) => 0.5 + 0.2 * x - 0.1 * ys[i]! ** 2 + 0.05 * noise(i + 2000));
  const samples = new LightSamples(xs, ys);
  samples.fit([list], new Float64Array(300).fill(1));
  const weights = Float64Array.from(list, (_, i) => +(noise(i + 3000) > 0.4));
  const [again] = samples.fit([list], weights) as [LightField];
  const [first] = new LightSamples(xs, ys).fit([list], weights) as [LightField];
  samples.values(again).forEach((v, i) => {
    expect(v).toBeCloseTo(first.at(xs[i]!, ys[i]!), 9);
    expect(v).toBeCloseTo(again.at(xs[i]!, ys[i]!), 12);
  });
});

test('a plane is filled with the surface, pixel centres spread over −1 to 1', async () => {
  const kernels = await nodeKernels();
  const xs = Array.from({ length: 200 }, (_, i) => Math.sin(3 * i));
  const ys = Array.from({ length: 200 }, (_, i) => Math.cos(5 * i));
  const [field] = new LightSamples(xs, ys).fit(
    [xs.map((x, i) => 0.4 + 0.3 * x ** 3 - 0.2 * x * ys[i]!)],
    new Float64Array(200).fill(1),
  ) as [LightField];
  const [w, h] = [23, 11];
  const plane = kernels.take(w * h);
  field.fill(kernels, plane, w, h);
  plane.forEach((v, i) => expect(v).toBeCloseTo(field.at((2 * (i % w) + 1) / w - 1, (2 * Math.floor(i / w) + 1) / h - 1), 5));
  kernels.give(plane);
});
