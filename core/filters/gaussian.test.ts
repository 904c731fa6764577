import { describe, expect, test } from '@jest/globals';
import { nodeKernels } from '@/engine/node/host';
import { rect } from '../geometry/rect';
import { evaluate, flat } from '../testing/evaluate';
import { gaussianBlur, gaussianPad } from './gaussian';

/** The sampled, normalised Gaussian by direct sums in double precision. */
function naive(line: readonly number[], sigma: number): number[] {
  const r = Math.ceil(6 * sigma);
  const k = Array.from({ length: 2 * r + 1 }, (_, i) => Math.exp(-((i - r) ** 2) / (2 * sigma * sigma)));
  const sum = k.reduce((s, v) => s + v, 0);
  return line.map((_, x) => k.reduce((s, v, i) => s + (v / sum) * (line[x + i - r] ?? 0), 0));
}

async function blurLine(line: readonly number[], sigma: number): Promise<number[]> {
  const kernels = await nodeKernels();
  const r = rect(0, 0, line.length, 1);
  const plane = kernels.copy(line);
  const out = kernels.take(line.length);
  gaussianBlur(kernels, plane, r, out, r, sigma, 0);
  const got = [...out];
  [plane, out].forEach((p) => kernels.give(p));
  return got;
}

describe('Gaussian blur', () => {
  test.each([0.6, 1, 2.5, 4.3])('σ = %s equals the direct sum', async (sigma) => {
    const line = Array.from({ length: 80 }, (_, i) => ((i * 37) % 11) / 11);
    const want = naive(line, sigma);
    (await blurLine(line, sigma)).forEach((v, i) => expect(Math.abs(v - want[i]!)).toBeLessThan(2e-4));
  });

  test.each([5, 8, 13, 40, 90])('σ = %s: a step within 3e-3, an impulse within 2 % of its peak', async (sigma) => {
    const n = Math.ceil(16 * sigma);
    const step = Array.from({ length: n }, (_, i) => (i >= n / 2 && i < n / 2 + 4 * sigma ? 1 : 0));
    const want = naive(step, sigma);
    (await blurLine(step, sigma)).forEach((v, i) => expect(Math.abs(v - want[i]!)).toBeLessThan(3e-3));
    for (const offset of [0, 1, 3]) {
      const impulse = step.map((_, i) => +(i === Math.floor(n / 2) + offset));
      const peak = 1 / (sigma * Math.sqrt(2 * Math.PI));
      const got = await blurLine(impulse, sigma);
      naive(impulse, sigma).forEach((w, i) => expect(Math.abs(got[i]! - w)).toBeLessThan(0.02 * peak));
    }
  });

  test.each([3, 12, 60])('σ = %s: a constant frame stays constant, edges included', async (size) => {
    const got = await evaluate({ main: flat(50, 40, 0.7) }, [{ type: 'blur', params: { size } }]);
    for (const plane of [got.planes.R!, got.planes.A!]) {
      const wanted = plane === got.planes.A ? 1 : 0.7;
      plane.forEach((v) => expect(Math.abs(v - wanted)).toBeLessThan(2e-5));
    }
  });

  test('an element inside the frame spreads into transparency and keeps its sum', async () => {
    const main = { width: 96, height: 96, bounds: rect(40, 40, 56, 56), fill: { R: 0.5, G: 0.5, B: 0.5, A: 1 } };
    const got = await evaluate({ main }, [{ type: 'blur', params: { size: 5 } }]);
    expect(got.at('A', 36, 48)).toBeGreaterThan(0.05);
    expect(Math.abs(got.planes.A!.reduce((s, v) => s + v, 0) - 256)).toBeLessThan(1.5);
  });

  test('a region gives the pixels of the whole at every size', async () => {
    for (const size of [2, 9, 25]) {
      const main = { width: 120, height: 90, fill: { R: (x: number, y: number) => ((x * 31 + y * 17) % 23) / 23, G: 0, B: 0 } };
      const whole = await evaluate({ main }, [{ type: 'blur', params: { size } }]);
      const part = await evaluate({ main }, [{ type: 'blur', params: { size } }], { region: rect(33, 21, 70, 60) });
      for (let y = 21; y < 60; y++)
        for (let x = 33; x < 70; x++) expect(Math.abs(part.at('R', x, y) - whole.at('R', x, y))).toBeLessThan(1e-5);
    }
  });

  test('the padding stays in proportion to the size', () => {
    for (const sigma of [1, 4, 10, 50]) expect(gaussianPad(sigma)).toBeLessThan(12 * sigma + 10);
  });
});
