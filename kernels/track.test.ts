import fc from 'fast-check';
import { applyHomography } from '@/core/geometry/homography';
import type { Homography } from '@/core/geometry/homography';
import { sampleAt } from '@/core/readings/gray';
import { nodeKernels } from '@/engine/node/host';

const k = await nodeKernels();

/** Numbers in 0..1 that look random and are the same every time. */
const noise = (i: number, seed: number): number => Math.abs((Math.sin(i * 12.9898 + seed * 78.233) * 43758.5453) % 1);
const list = (n: number, seed: number): number[] => Array.from({ length: n }, (_, i) => noise(i, seed));
/** Doubles in the kernels' memory. */
const doubles = (values: readonly number[]): Float64Array => {
  const plane = k.take(2 * values.length);
  const made = new Float64Array(plane.buffer, plane.byteOffset, values.length);
  made.set(values);
  return made;
};
const give = (...arrays: (Float32Array | Float64Array)[]): void =>
  arrays.forEach((a) => k.give(new Float32Array(a.buffer, a.byteOffset, 0)));

describe('sums of correlation', () => {
  test('are those of every place, one by one', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 9 }), fc.integer({ min: 1, max: 5 }), fc.integer({ min: 0, max: 20 }), (tw, th, seed) => {
        const [w, h] = [tw + (seed % 21), th + (seed % 4)];
        const [t, p] = [k.copy(list(tw * th, seed)), k.take(w * h + 32)];
        p.set(list(w * h, seed + 1));
        const [nx, ny] = [w - tw + 1, h - th + 1];
        const wide = Math.ceil(nx / 16) * 16;
        const out = k.take(wide * ny);
        k.fn.correlate(t.byteOffset, tw, th, p.byteOffset, w, out.byteOffset, nx, ny);
        for (let y = 0; y < ny; y++) {
          for (let x = 0; x < nx; x++) {
            let sum = 0;
            for (let j = 0; j < th; j++) for (let i = 0; i < tw; i++) sum += t[j * tw + i]! * p[(y + j) * w + x + i]!;
            expect(Math.abs(out[y * wide + x]! - sum)).toBeLessThan(1e-4);
          }
        }
        give(t, p, out);
      }),
    );
  });
});

describe('a picture seen through a map', () => {
  const [w, h] = [40, 30];
  const data = list(w * h, 5);

  test.each([
    ['as it is', [1, 0, 0, 0, 1, 0, 0, 0, 1]],
    ['moved and turned', [0.9, -0.2, 7.3, 0.25, 1.05, -2.1, 0, 0, 1]],
    ['in perspective', [1, 0.1, 2, -0.05, 0.9, 4, 0.004, -0.003, 1]],
    ['from behind in part', [1, 0, 0, 0, 1, 0, -0.05, 0, 1]],
  ] as [string, number[]][])('%s', (_, map) => {
    const picture = k.copy(data);
    const n = 200;
    const [xs, ys] = [doubles(list(n, 6).map((v) => 50 * v - 5)), doubles(list(n, 7).map((v) => 40 * v - 5))];
    const [m, out, seen] = [doubles(map), doubles(list(n, 8)), doubles(list(n, 9))];
    k.fn.lookThrough(picture.byteOffset, w, h, m.byteOffset, xs.byteOffset, ys.byteOffset, n, out.byteOffset, seen.byteOffset);
    let inside = 0;
    for (let i = 0; i < n; i++) {
      const [u, v, depth] = applyHomography(map as unknown as Homography, xs[i]!, ys[i]!);
      const there = depth > 1e-6 && u > 1 && v > 1 && u < w - 1 && v < h - 1;
      inside += +there;
      expect(seen[i]).toBe(+there);
      expect(out[i]).toBeCloseTo(there ? sampleAt({ width: w, height: h, data: picture }, u, v) : 0, 6);
    }
    expect(inside).toBeGreaterThan(20);
    give(picture, xs, ys, m, out, seen);
  });
});

test('weighted normal equations are sums over every row', () => {
  const [m, n] = [5, 23];
  const [columns, weights, y] = [doubles(list(m * n, 10)), doubles(list(n, 11).map((v) => (v < 0.3 ? 0 : v))), doubles(list(n, 12))];
  const [matrix, right, scratch] = [doubles(list(m * m, 0)), doubles(list(m, 0)), doubles(list(n, 0))];
  k.fn.weightedProducts(
    columns.byteOffset,
    m,
    n,
    weights.byteOffset,
    y.byteOffset,
    matrix.byteOffset,
    right.byteOffset,
    scratch.byteOffset,
  );
  const over = (f: (i: number) => number): number => Array.from({ length: n }, (_, i) => weights[i]! * f(i)).reduce((a, b) => a + b, 0);
  for (let a = 0; a < m; a++) {
    expect(right[a]).toBeCloseTo(
      over((i) => columns[a * n + i]! * y[i]!),
      10,
    );
    for (let b = a; b < m; b++) {
      expect(matrix[a * m + b]).toBeCloseTo(
        over((i) => columns[a * n + i]! * columns[b * n + i]!),
        10,
      );
    }
  }
  give(columns, weights, y, matrix, right, scratch);
});

describe('a window followed by shift', () => {
  const [w, h] = [60, 50];
  /** Smooth and rich, moved by dx, dy, in other light. */
  const picture = (dx: number, dy: number, gain = 1, bias = 0): Float32Array => {
    const plane = k.take(w * h + 16);
    for (let i = 0; i < w * h; i++) {
      const [x, y] = [(i % w) - dx, Math.floor(i / w) - dy];
      plane[i] =
        bias + gain * (0.5 + 0.2 * Math.sin(0.31 * x + 0.1 * y) + 0.2 * Math.cos(0.23 * y - 0.17 * x) + 0.1 * Math.sin(0.6 * x * 0.7 + y));
    }
    return plane;
  };
  const follow = (from: Float32Array, to: Float32Array, u: number, v: number): number[] | null => {
    const [scratch, result] = [k.take(5 * 15 * 16), doubles([0, 0, 0])];
    const ok = k.fn.followShift(
      from.byteOffset,
      to.byteOffset,
      w,
      h,
      15,
      30.4,
      24.7,
      u,
      v,
      1e-4,
      30,
      scratch.byteOffset,
      result.byteOffset,
    );
    const made = ok ? [...result] : null;
    give(scratch, result);
    return made;
  };

  test.each([
    [0, 0, 1, 0],
    [0.37, -0.62, 1, 0],
    [1.9, 1.1, 0.6, 0.2],
    [-1.4, 2.2, 1.7, -0.3],
  ])('moved by %d, %d with gain %d and bias %d it is found to a fiftieth of a pixel', (dx, dy, gain, bias) => {
    const [from, to] = [picture(0, 0), picture(dx, dy, gain, bias)];
    const [u, v, match] = follow(from, to, 30.4, 24.7) as [number, number, number];
    expect(Math.hypot(u - 30.4 - dx, v - 24.7 - dy)).toBeLessThan(0.02);
    expect(match).toBeGreaterThan(0.999);
    give(from, to);
  });

  test('in a flat picture, and in one that shows its negative, it has no hold', () => {
    const [from, flat, negative] = [picture(0, 0), picture(0, 0, 0, 0.5), picture(0, 0, -1, 1)];
    expect(follow(flat, from, 30.4, 24.7)).toBeNull();
    expect(follow(from, negative, 30.4, 24.7)).toBeNull();
    give(from, flat, negative);
  });
});
