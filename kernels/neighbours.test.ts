import { nodeKernels } from '@/engine/node/host';
import { random } from '@/demo/noise';
import type { Kernels } from '.';

let k: Kernels;
beforeAll(async () => {
  k = await nodeKernels();
});

/** A plane of random values, with so many floats more behind it. */
function noise(n: number, seed: number, more = 0): Float32Array {
  const next = random(seed);
  return k.copy(Array.from({ length: n + more }, () => next()));
}
const give = (...planes: (Float32Array | Uint8Array)[]): void => planes.forEach((p) => k.give(p));
const mean = (v: readonly number[]): number => v.reduce((s, x) => s + x, 0) / v.length;
const range = (n: number): number[] => Array.from({ length: n }, (_, i) => i);

describe('smaller and larger', () => {
  test.each([2, 3, 4])('blocks of %i by as many are their mean', (factor) => {
    const [w, h, stride] = [12, 12, 15];
    const x = noise(stride * h, 1);
    const out = k.take((w / factor) * (h / factor));
    k.fn.boxReduce(x.byteOffset, out.byteOffset, w / factor, h / factor, stride, factor);
    for (let y = 0; y < h / factor; y++)
      for (let c = 0; c < w / factor; c++) {
        const block = range(factor).flatMap((j) => range(factor).map((i) => x[(y * factor + j) * stride + c * factor + i]!));
        expect(out[y * (w / factor) + c]).toBeCloseTo(mean(block), 6);
      }
    give(x, out);
  });

  test.each([
    [8, 6],
    [7, 5],
    [1, 1],
    [2, 9],
  ])('sums of fours of %i × %i leave out what lies beyond the edge', (w, h) => {
    const x = noise(w * h, 2, 8);
    const [ow, oh] = [(w + 1) >> 1, (h + 1) >> 1];
    const out = k.take(ow * oh + 8);
    k.fn.sumFours(x.byteOffset, out.byteOffset, w, h);
    for (let y = 0; y < oh; y++)
      for (let c = 0; c < ow; c++) {
        let sum = 0;
        for (const [i, j] of [
          [0, 0],
          [1, 0],
          [0, 1],
          [1, 1],
        ] as const)
          if (2 * c + i < w && 2 * y + j < h) sum += x[(2 * y + j) * w + 2 * c + i]!;
        expect(out[y * ow + c]).toBeCloseTo(sum, 5);
      }
    give(x, out);
  });

  test('twice the size: a ramp stays a ramp, and a lone pixel becomes a bump of its light four times', () => {
    const [w, h] = [6, 5];
    const stride = w + 2;
    const at = (plane: Float32Array): number => plane.byteOffset + 4 * (stride + 1);
    const out = k.take(4 * w * h);
    const ramp = k.copy(range(stride * (h + 2)).map((i) => 2 * (i % stride) + 5 * Math.floor(i / stride)));
    k.fn.doubled(at(ramp), out.byteOffset, w, h, stride);
    for (let y = 0; y < 2 * h; y++)
      for (let c = 0; c < 2 * w; c++) expect(out[2 * w * y + c]).toBeCloseTo(2 * ((c + 0.5) / 2 + 0.5) + 5 * ((y + 0.5) / 2 + 0.5), 4);
    const lone = k.copy(range(stride * (h + 2)).map((i) => +(i === 3 * stride + 3)));
    k.fn.doubled(at(lone), out.byteOffset, w, h, stride);
    expect([...out.subarray(0, 4 * w * h)].reduce((s, v) => s + v, 0)).toBeCloseTo(4, 5);
    expect(Math.max(...out.subarray(0, 4 * w * h))).toBeCloseTo(9 / 16, 6);
    give(ramp, lone, out);
  });

  test('what is open takes from the half size, what is covered keeps its own', () => {
    const [w, h] = [8, 6];
    const fine = k.copy(range(w * h).map(() => 0.25));
    const weight = k.copy(range(w * h).map((i) => (i % w < 4 ? 1 : 0)));
    const coarse = k.copy(range((w / 2) * (h / 2)).map(() => 2));
    k.fn.addOpen(fine.byteOffset, weight.byteOffset, w, h, coarse.byteOffset, w / 2, h / 2);
    range(w * h).forEach((i) => expect(fine[i]).toBeCloseTo(i % w < 4 ? 0.25 : 2.25, 5));
    k.fn.divideByOver1(fine.byteOffset, coarse.byteOffset, 12);
    range(12).forEach((i) => expect(fine[i]).toBeCloseTo((i % w < 4 ? 0.25 : 2.25) / 2, 5));
    give(fine, weight, coarse);
  });
});

describe('bytes of files', () => {
  test('the predictor of bytes is undone by its partner, for every length', () => {
    for (const n of [1, 2, 3, 16, 31, 64, 1001]) {
      const next = random(n);
      const raw = Uint8Array.from({ length: n }, () => next() * 256);
      const [from, packed, back] = [k.bytes(n + 16), k.bytes(n + 16), k.bytes(n + 16)];
      from.set(raw);
      k.fn.predictBytes(from.byteOffset, packed.byteOffset, n);
      k.fn.unpredictBytes(packed.byteOffset, back.byteOffset, n);
      expect([...back.subarray(0, n)]).toEqual([...raw]);
      give(from, packed, back);
    }
  });

  test.each([
    [8, 8, 255],
    [13, 7, 16383],
    [32, 5, 65535],
    [1, 9, 65535],
  ])('a wavelet of %i × %i values up to %i comes back to the bit', (nx, ny, most) => {
    const next = random(nx * ny);
    const values = Uint16Array.from({ length: nx * ny }, () => Math.floor(next() * (most + 1)));
    const bytes = k.bytes(2 * nx * ny + 16);
    const held = new Uint16Array(bytes.buffer, bytes.byteOffset, nx * ny);
    held.set(values);
    k.fn.waveletEncode(bytes.byteOffset, nx, 1, ny, nx, most);
    if (nx * ny > 16) expect([...held]).not.toEqual([...values]);
    k.fn.waveletDecode(bytes.byteOffset, nx, 1, ny, nx, most);
    expect([...held]).toEqual([...values]);
    give(bytes);
  });

  test('codes of a table, every step-th of them', () => {
    const table = k.copy(range(65536).map((i) => i / 65535));
    const codes = k.bytes(64);
    const out = k.take(16);
    codes.set(range(30).map((i) => (i * 37) % 256));
    k.fn.lookup8(codes.byteOffset, out.byteOffset, 10, 3, table.byteOffset);
    range(10).forEach((i) => expect(out[i]).toBe(table[(3 * i * 37) % 256]));
    const wide = new Uint16Array(codes.buffer, codes.byteOffset, 20);
    wide.set(range(20).map((i) => (i * 4099) % 65536));
    k.fn.lookup16(codes.byteOffset, out.byteOffset, 10, 2, table.byteOffset);
    range(10).forEach((i) => expect(out[i]).toBe(table[(2 * i * 4099) % 65536]));
    give(table, codes, out);
  });
});

describe('neighbours', () => {
  test.each([1, 2, 3])('the median of a square of radius %i, as sorting finds it', (r) => {
    const [w, h] = [9, 6];
    const stride = w + 2 * r;
    const x = noise(stride * (h + 2 * r), 20 + r, 8);
    const out = k.take(w * h + 8);
    const window = k.take(4 * ((2 * r + 1) ** 2 + 1));
    k.fn.medianRows(x.byteOffset, stride, out.byteOffset, w, h, r, window.byteOffset);
    for (let y = 0; y < h; y++)
      for (let c = 0; c < w; c++) {
        const around = range(2 * r + 1).flatMap((j) => range(2 * r + 1).map((i) => x[(y + j) * stride + c + i]!));
        expect(out[y * w + c]).toBe(around.sort((a, b) => a - b)[around.length >> 1]);
      }
    give(x, out, window);
  });

  test('a square of weights over each place', () => {
    const [w, h, side] = [7, 5, 3];
    const stride = w + side - 1;
    const x = noise(stride * (h + side - 1), 30, 8);
    const weights = noise(side * side, 31);
    const out = k.take(w * h + 8);
    k.fn.correlateSquare(x.byteOffset, stride, out.byteOffset, w, h, weights.byteOffset, side);
    for (let y = 0; y < h; y++)
      for (let c = 0; c < w; c++) {
        const sum = range(side).reduce(
          (s, j) => s + range(side).reduce((t, i) => t + weights[j * side + i]! * x[(y + j) * stride + c + i]!, 0),
          0,
        );
        expect(out[y * w + c]).toBeCloseTo(sum, 5);
      }
    give(x, weights, out);
  });
});

describe('noise', () => {
  test('white noise is of mean 0 and variance 1, the same at the same place, another by another seed', () => {
    const [w, h] = [128, 96];
    const [whole, part, other] = [k.take(w * h + 4), k.take(32 * 20 + 4), k.take(w * h + 4)];
    k.fn.whiteNoise(whole.byteOffset, w, h, -7, 11, 5);
    const values = [...whole.subarray(0, w * h)];
    expect(Math.abs(mean(values))).toBeLessThan(0.03);
    expect(Math.abs(mean(values.map((v) => v * v)) - 1)).toBeLessThan(0.04);
    k.fn.whiteNoise(part.byteOffset, 32, 20, -7 + 40, 11 + 30, 5);
    for (let y = 0; y < 20; y++) for (let c = 0; c < 32; c++) expect(part[32 * y + c]).toBe(whole[(y + 30) * w + c + 40]);
    k.fn.whiteNoise(other.byteOffset, w, h, -7, 11, 6);
    const both = mean(values.map((v, i) => v * other[i]!));
    expect(Math.abs(both)).toBeLessThan(0.04);
    // Neighbours know nothing of each other.
    expect(Math.abs(mean(values.slice(1).map((v, i) => v * values[i]!)))).toBeLessThan(0.04);
    give(whole, part, other);
  });

  test('grain goes with the light: none in the dark, and of a half-covered pixel its own share', () => {
    const x = k.copy([0, 0.25, 1, 1, -0.5, 0.5, 0, 0]);
    const alpha = k.copy([1, 1, 1, 1, 1, 0.5, 1, 1]);
    const by = k.copy([1, 1, 1, -1, 1, 1, 1, 1]);
    const before = [...x.subarray(0, 8)];
    const [a, b, c, gain] = [0, 0.04, 0.01, 0.5];
    k.fn.addGrain(x.byteOffset, alpha.byteOffset, by.byteOffset, 8, a, b, c, gain);
    before.forEach((v, i) => {
      const light = Math.max(0, v);
      const strength = Math.sqrt(a * alpha[i]! ** 2 + b * light * alpha[i]! + c * light * light);
      expect(x[i]).toBeCloseTo(v + gain * strength * by[i]!, 5);
    });
    expect([x[0], x[4]]).toEqual([0, -0.5]);
    give(x, alpha, by);
  });
});

describe('one picture over another', () => {
  test('under a plane by its alpha, and rows of a picture over rows of another', () => {
    const [out, alpha, under] = [k.copy([0.2, 0.5, 0, 1]), k.copy([0.5, 1, 0, 0.25]), k.copy([1, 1, 1, 1])];
    k.fn.layUnder(out.byteOffset, alpha.byteOffset, under.byteOffset, 4);
    [0.7, 0.5, 1, 1.75].forEach((v, i) => expect(out[i]).toBeCloseTo(v, 6));
    const front = [0.2, 0.1, 0.05, 0.5].map((v) => k.copy(range(12).map(() => v)));
    const back = [1, 0.5, 0.25, 1].map((v) => k.copy(range(20).map(() => v)));
    const at = (planes: Float32Array[], first: number) => planes.map((p) => p.byteOffset + 4 * first) as [number, number, number, number];
    // Two rows of four, in rows of six, over places in rows of ten.
    k.fn.layOver(...at(front, 0), 6, ...at(back, 3), 10, 4, 2);
    back.forEach((p, c) => {
      const [own, was] = [[0.2, 0.1, 0.05, 0.5][c]!, [1, 0.5, 0.25, 1][c]!];
      range(20).forEach((i) => expect(p[i]).toBeCloseTo(i % 10 >= 3 && i % 10 < 7 ? own + was * 0.5 : was, 6));
    });
    give(out, alpha, under, ...front, ...back);
  });

  test('where a homography takes the middles of pixels; behind the horizon is no number', () => {
    const m = new Float64Array([2, 0.5, 3, -0.25, 1, 4, 0.05, 0, 1]);
    const bytes = k.bytes(72);
    new Float64Array(bytes.buffer, bytes.byteOffset, 9).set(m);
    const [w, h] = [6, 3];
    const [xs, ys] = [k.take(w * h + 4), k.take(w * h + 4)];
    k.fn.planePositions(bytes.byteOffset, -24, 5, w, h, xs.byteOffset, ys.byteOffset);
    for (let y = 0; y < h; y++)
      for (let c = 0; c < w; c++) {
        const [px, py] = [-24 + c + 0.5, 5 + y + 0.5];
        const z = m[6]! * px + m[7]! * py + m[8]!;
        const [gx, gy] = [xs[y * w + c]!, ys[y * w + c]!];
        if (z <= 0) expect([gx, gy].every(Number.isNaN)).toBe(true);
        else {
          expect(gx / ((m[0]! * px + m[1]! * py + m[2]!) / z)).toBeCloseTo(1, 4);
          expect(gy / ((m[3]! * px + m[4]! * py + m[5]!) / z)).toBeCloseTo(1, 4);
        }
      }
    give(bytes, xs, ys);
  });
});
