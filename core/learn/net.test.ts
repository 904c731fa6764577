import { nodeKernels } from '@/engine/node/host';
import type { Kernels, Plane } from '@/kernels';
import { random } from '../random';
import { naiveConv } from '../testing/naive-conv';
import { firstWeights, mapSize, placesOf } from './net';
import { TrainingNet } from './training-net';

let kernels: Kernels;
beforeAll(async () => {
  kernels = await nodeKernels();
});

const noise = (n: number, seed: number): Float32Array => {
  const next = random(seed);
  return Float32Array.from({ length: n }, () => 2 * next() - 1);
};

/** A map with a border of zeros whose inside is noise. */
function noiseMap(w: number, h: number, c: number, seed: number): Plane {
  const values = noise(w * h * c, seed);
  const map = kernels.zeros(mapSize(w, h, c));
  for (let y = 0; y < h; y++) map.set(values.subarray(y * w * c, (y + 1) * w * c), ((y + 1) * (w + 2) + 1) * c);
  return map;
}

const inside = (map: Float32Array, w: number, h: number, c: number): number[] =>
  Array.from({ length: w * h * c }, (_, i) => {
    const [px, k] = [Math.floor(i / c), i % c];
    return map[((Math.floor(px / w) + 1) * (w + 2) + (px % w) + 1) * c + k]!;
  });

const furthest = (a: ArrayLike<number>, b: ArrayLike<number>): number =>
  Array.from(a).reduce((most, v, i) => Math.max(most, Math.abs(v - b[i]!)), 0);

describe('layers against their definitions', () => {
  test.each([
    [8, 5, 4, 8],
    [7, 6, 24, 32],
    [5, 3, 64, 24],
  ])('a convolution of %i×%i, %i to %i channels', (w, h, cin, cout) => {
    const x = noiseMap(w, h, cin, 1);
    const weights = kernels.copy(noise(9 * cin * cout, 2));
    const bias = kernels.copy(noise(cout, 3));
    const out = kernels.zeros(mapSize(w, h, cout));
    kernels.fn.conv3(x.byteOffset, weights.byteOffset, bias.byteOffset, out.byteOffset, w, h, cin, cout, 0.1);
    const told = naiveConv(x, weights, bias, w, h, cin, cout, 0.1);
    expect(furthest(inside(out, w, h, cout), told)).toBeLessThan(2e-5);
    // The border stays clear.
    expect(out.subarray(0, (w + 2) * cout).every((v) => v === 0)).toBe(true);
    [x, weights, bias, out].forEach((p) => kernels.give(p));
  });

  test('its weights’ gradient is that of its definition', () => {
    const [w, h, cin, cout] = [9, 7, 8, 16];
    const x = noiseMap(w, h, cin, 4);
    const d = noiseMap(w, h, cout, 5);
    const dw = kernels.zeros(9 * cin * cout);
    const db = kernels.zeros(cout);
    kernels.fn.convWeightGradient(x.byteOffset, d.byteOffset, dw.byteOffset, w, h, cin, cout);
    kernels.fn.convBiasGradient(d.byteOffset, db.byteOffset, w, h, cout);
    const inner = inside(d, w, h, cout);
    for (const [ky, kx, c, o] of [
      [0, 0, 0, 0],
      [1, 2, 5, 9],
      [2, 1, 7, 15],
    ] as const) {
      let sum = 0;
      for (let y = 0; y < h; y++)
        for (let i = 0; i < w; i++) sum += x[((y + ky) * (w + 2) + i + kx) * cin + c]! * inner[(y * w + i) * cout + o]!;
      expect(dw[((ky * 3 + kx) * cin + c) * cout + o]).toBeCloseTo(sum, 4);
    }
    expect(db[3]).toBeCloseTo(
      inner.filter((_, i) => i % cout === 3).reduce((s, v) => s + v, 0),
      4,
    );
    [x, d, dw, db].forEach((p) => kernels.give(p));
  });

  test('means of 2×2 and their gradient are each other’s transposes, as are laying and doubling', () => {
    const [w, h, c] = [8, 6, 4];
    const dot = (a: Float32Array, b: Float32Array): number => a.reduce((s, v, i) => s + v * b[i]!, 0);
    const x = noiseMap(w, h, c, 6);
    const half = kernels.zeros(mapSize(w / 2, h / 2, c));
    kernels.fn.poolMap(x.byteOffset, half.byteOffset, w, h, c);
    const d = noiseMap(w / 2, h / 2, c, 7);
    const back = kernels.zeros(mapSize(w, h, c));
    kernels.fn.poolGradient(d.byteOffset, back.byteOffset, w, h, c);
    expect(dot(half, d)).toBeCloseTo(dot(x, back), 4);
    for (const doubled of [0, 1]) {
      const small = noiseMap(w >> doubled, h >> doubled, c, 8);
      const wide = kernels.zeros(mapSize(w, h, 12));
      kernels.fn.layMap(small.byteOffset, wide.byteOffset, w, h, c, 12, 4, doubled);
      const dwide = noiseMap(w, h, 12, 9);
      const dsmall = kernels.zeros(small.length);
      kernels.fn.layGradient(dwide.byteOffset, dsmall.byteOffset, w, h, c, 12, 4, doubled);
      expect(dot(wide, dwide)).toBeCloseTo(dot(small, dsmall), 4);
      [small, wide, dwide, dsmall].forEach((p) => kernels.give(p));
    }
    [x, half, d, back].forEach((p) => kernels.give(p));
  });
});

test.each([1, 4])('the gradient of every layer of a net of %i results is that of finite differences', (sets) => {
  const side = 64;
  const weights = kernels.copy(
    firstWeights(
      Array.from({ length: sets }, (_, i) => (i === sets - 1 ? 3 : 0.3)),
      11,
    ),
  );
  // Not near the start alone: coefficients of all sizes.
  const { layers, length } = placesOf(sets);
  const last = layers[9]!;
  for (let i = last.at; i < last.bias; i++) weights[i] = weights[i]! * 4;
  const net = new TrainingNet(kernels, weights, sets, side);
  const x = noiseMap(side, side, 4, 12);
  net.input.set(x);
  const wanted = noise(side * side * sets, 13);
  // A smooth sum, so that differences of it can be taken.
  const sum = (): number => {
    net.forward();
    return net.out.reduce((s, v, i) => s + 0.5 * (v - wanted[i]!) ** 2, 0);
  };
  sum();
  net.out.forEach((v, i) => (net.slope[i] = v - wanted[i]!));
  const gradients = kernels.zeros(length);
  net.backward(gradients);
  const next = random(14);
  for (const { at, bias, cout, name } of layers) {
    // Along the gradient itself and along random directions within the layer.
    for (const way of ['slope', 'noise'] as const) {
      const from = at;
      const n = bias + cout - at;
      const own = gradients.slice(from, from + n);
      const size = Math.sqrt(own.reduce((s, v) => s + v * v, 0));
      const direction =
        way === 'slope'
          ? own.map((v) => v / size)
          : Float32Array.from(own, (v) => (Math.sign(v) || 1) * next()).map((v) => v / Math.sqrt(n / 3));
      const told = own.reduce((s, v, i) => s + v * direction[i]!, 0);
      const before = weights.slice(from, from + n);
      const e = 2e-3;
      const at2 = (by: number): number => {
        for (let i = 0; i < n; i++) weights[from + i] = before[i]! + by * direction[i]!;
        return sum();
      };
      const seen = (at2(e) - at2(-e)) / (2 * e);
      weights.set(before, from);
      expect(`${name} ${way} ${Math.abs(seen - told) / Math.abs(told) < 0.02}`).toBe(`${name} ${way} true`);
    }
  }
  net.dispose();
  [x, weights, gradients].forEach((p) => kernels.give(p));
});

test('the same seed gives the same weights, another one others', () => {
  expect(firstWeights([3], 5)).toEqual(firstWeights([3], 5));
  expect(firstWeights([3], 5)).not.toEqual(firstWeights([3], 6));
  expect(placesOf(1).length).toBeGreaterThan(110_000);
  expect(placesOf(1).length).toBeLessThan(125_000);
});
