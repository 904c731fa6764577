import fc from 'fast-check';
import { runsOf } from '@/core/filters/components';
import { guidedFilter, padded } from '@/core/filters/guided';
import { solve } from '@/core/geometry/solve';
import { nodeKernels } from '@/engine/node/host';

/** Numbers in 0..1 that look random and are the same every time. */
const noise = (i: number, seed: number): number => Math.abs((Math.sin(i * 12.9898 + seed * 78.233) * 43758.5453) % 1);

describe('runs', () => {
  test('the same as by looking at every pixel, whatever the width', async () => {
    const k = await nodeKernels();
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 23 }), fc.integer({ min: 1, max: 9 }), fc.integer({ min: 0, max: 99 }), (w, h, seed) => {
        const plane = k.copy(Array.from({ length: w * h }, (_, i) => (noise(i >> 2, seed) > 0.5 ? noise(i, seed) : 1)));
        const list = k.take(2 * h * ((w + 1) >> 1));
        for (const [gain, level] of [
          [1, 0.5],
          [-1, -0.25],
        ] as const) {
          const count = k.fn.runsAbove(plane.byteOffset, list.byteOffset, w, h, gain, level);
          const pairs = [...new Int32Array(list.buffer, list.byteOffset, 2 * count)];
          const set = Uint8Array.from(plane, (v) => +(gain * v > level));
          const { begins, ends } = runsOf(set, w, h);
          expect(pairs).toEqual(Array.from(begins).flatMap((b, i) => [b, ends[i]!]));
        }
        const between = k.fn.runsBetween(plane.byteOffset, list.byteOffset, w, h, 0.3, 0.7);
        const { begins, ends } = runsOf(
          Uint8Array.from(plane, (v) => +(v > 0.3 && v <= 0.7)),
          w,
          h,
        );
        expect([...new Int32Array(list.buffer, list.byteOffset, 2 * between)]).toEqual(Array.from(begins).flatMap((b, i) => [b, ends[i]!]));
        [plane, list].forEach((p) => k.give(p));
      }),
    );
  });

  test('what is not a number belongs to no run', async () => {
    const k = await nodeKernels();
    const plane = k.copy([1, NaN, 1, NaN, NaN, 1]);
    const list = k.take(8);
    expect(k.fn.runsAbove(plane.byteOffset, list.byteOffset, 6, 1, 1, 0.5)).toBe(3);
    expect([...new Int32Array(list.buffer, list.byteOffset, 6)]).toEqual([0, 1, 2, 3, 5, 6]);
    [plane, list].forEach((p) => k.give(p));
  });
});

describe('means over columns', () => {
  test.each([
    [16, 9, 2],
    [32, 5, 7],
    [16, 1, 3],
  ])('%i wide, %i high, radius %i', async (w, h, r) => {
    const k = await nodeKernels();
    const values = Array.from({ length: w * h }, (_, i) => noise(i, 3));
    const [from, to] = [k.copy(values), k.take(w * h)];
    k.fn.boxColumns(from.byteOffset, to.byteOffset, w, h, r);
    for (let y = 0; y < h; y++) {
      const [y0, y1] = [Math.max(0, y - r), Math.min(h - 1, y + r)];
      for (let x = 0; x < w; x++) {
        let sum = 0;
        for (let v = y0; v <= y1; v++) sum += values[v * w + x]!;
        expect(to[y * w + x]).toBeCloseTo(sum / (y1 - y0 + 1), 5);
      }
    }
    [from, to].forEach((p) => k.give(p));
  });
});

describe('the guided filter', () => {
  const [W, H] = [21, 13];
  const n = W * H;
  const guide = [0, 1, 2].map((c) => Array.from({ length: n }, (_, i) => noise(i, c)));
  const input = Array.from({ length: n }, (_, i) => Math.min(1, Math.max(0, 0.7 * guide[0]![i]! + 0.3 * noise(i, 9))));

  async function filtered(of: readonly number[], r: number, epsilon: number): Promise<number[]> {
    const k = await nodeKernels();
    const before = k.used;
    const [sw, sh] = [padded(W), padded(H)];
    const planes = [...guide, of].map((values) => {
      const plane = k.take(sw * sh).fill(NaN);
      for (let y = 0; y < H; y++) plane.set(values.slice(y * W, y * W + W), y * sw);
      return plane;
    });
    const [a, b, c, p] = planes as [Float32Array, Float32Array, Float32Array, Float32Array];
    const found = guidedFilter(k, [a, b, c], p, W, H, r, epsilon);
    const got = Array.from({ length: n }, (_, i) => found[Math.floor(i / W) * sw + (i % W)]!);
    [...planes, found].forEach((plane) => k.give(plane));
    expect(k.used).toBe(before);
    return got;
  }

  test.each([1, 3, 30])('is He, Sun and Tang’s with every window summed by itself, radius %i', async (r) => {
    const epsilon = 0.01;
    const window = (x: number, y: number, each: (i: number) => void): number => {
      let count = 0;
      for (let v = Math.max(0, y - r); v <= Math.min(H - 1, y + r); v++)
        for (let u = Math.max(0, x - r); u <= Math.min(W - 1, x + r); u++, count++) each(v * W + u);
      return count;
    };
    const fits = Array.from({ length: n }, (_, at) => {
      const [x, y] = [at % W, Math.floor(at / W)];
      const mean = [0, 0, 0, 0];
      const count = window(x, y, (i) => [...guide, input].forEach((p, c) => (mean[c]! += p[i]!)));
      mean.forEach((_, c) => (mean[c]! /= count));
      const a = [0, 1, 2].map((c) => Float64Array.from([0, 1, 2], (d) => (c === d ? epsilon : 0)));
      const b = new Float64Array(3);
      window(x, y, (i) => {
        for (let c = 0; c < 3; c++) {
          const d = (guide[c]![i]! - mean[c]!) / count;
          for (let e = 0; e < 3; e++) a[c]![e]! += d * (guide[e]![i]! - mean[e]!);
          b[c]! += d * (input[i]! - mean[3]!);
        }
      });
      const s = solve(a, b);
      return [...s, mean[3]! - s.reduce((t, v, c) => t + v * mean[c]!, 0)];
    });
    const got = await filtered(input, r, epsilon);
    got.forEach((v, at) => {
      const sum = [0, 0, 0, 0];
      const count = window(at % W, Math.floor(at / W), (i) => fits[i]!.forEach((f, c) => (sum[c]! += f)));
      const wanted = sum.reduce((t, f, c) => t + (f / count) * (c < 3 ? guide[c]![at]! : 1), 0);
      expect(Math.abs(v - wanted)).toBeLessThan(2e-4);
    });
  });

  test('a flat input stays flat, and an input that is a colour stays that colour', async () => {
    for (const v of await filtered(Array(n).fill(0.4), 2, 1e-4)) expect(v).toBeCloseTo(0.4, 4);
    (await filtered(guide[1]!, 4, 1e-7)).forEach((v, i) => expect(v).toBeCloseTo(guide[1]![i]!, 2));
  });
});
