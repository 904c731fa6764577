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

  test.each([
    [0.8, 0.8],
    [1.7, 3.1],
    [4.2, 0.6],
  ])('σ %s × %s: every pixel of a frame is the mean of what is known around it, edges included', async (sx, sy) => {
    const kernels = await nodeKernels();
    const [w, h] = [37, 71];
    const frame = rect(0, 0, w, h);
    const values = Array.from({ length: w * h }, (_, i) => ((i * 7919) % 101) / 101);
    const [plane, out] = [kernels.copy(values), kernels.take(w * h)];
    gaussianBlur(kernels, plane, frame, out, frame, sx, sy, frame);
    const weight = (d: number, sigma: number): number => Math.exp(-(d * d) / (2 * sigma * sigma));
    let worst = 0;
    for (let y = 0; y < h; y++) {
      for (let x = 0; x < w; x++) {
        let [sum, all] = [0, 0];
        for (let v = 0; v < h; v++) {
          const down = weight(v - y, sy);
          if (down < 1e-7) continue;
          for (let u = 0; u < w; u++) {
            const k = down * weight(u - x, sx);
            sum += k * values[v * w + u]!;
            all += k;
          }
        }
        worst = Math.max(worst, Math.abs(out[y * w + x]! - sum / all));
      }
    }
    expect(worst).toBeLessThan(5e-4);
    [plane, out].forEach((p) => kernels.give(p));
  });

  test('a plate that fills its frame does not spread over it; an element spreads up to the frame’s edge', async () => {
    const blur = [{ type: 'blur', params: { size: 4 } }];
    const plate = await evaluate({ main: flat(40, 30, 0.5) }, blur, { region: rect(-10, -10, 50, 40) });
    expect(plate.at('A', -1, 10)).toBe(0);
    expect(plate.at('A', 0, 10)).toBeCloseTo(1, 4);
    const main = { width: 40, height: 30, bounds: rect(0, 10, 20, 20), fill: { R: 1, G: 1, B: 1, A: 1 } };
    const element = await evaluate({ main }, blur, { region: rect(-10, -10, 50, 40) });
    expect(element.at('A', 22, 15)).toBeGreaterThan(0.1);
    expect(element.at('A', -1, 15)).toBe(0);
  });

  test('the padding stays in proportion to the size', () => {
    for (const sigma of [1, 4, 10, 50]) expect(gaussianPad(sigma)).toBeLessThan(12 * sigma + 10);
  });
});
