import { describe, expect, test } from '@jest/globals';
import { LUMA, SRGB } from '../colour/transfer';
import { rect } from '../geometry/rect';
import { correlation, peaks } from './correlate';
import { followFeature, goodFeatures, pyramidOf } from './features';
import type { Gray } from './gray';
import { calmed, frameOf, grayFrame, halved, sampleAt } from './gray';
import { seenThrough, texture } from './testing';

const grayOf = (width: number, height: number, at: (x: number, y: number) => number): Gray => ({
  width,
  height,
  data: Float32Array.from({ length: width * height }, (_, i) => at(i % width, Math.floor(i / width))),
});
const whole = (frame: ReturnType<typeof frameOf>): Gray => frame.read(0, 0, frame.width, frame.height);

describe('channels to be measured', () => {
  const pixels = Float32Array.from([0.2, 0.4, 0.1, 0.5, 1, 1, 1, 1, 0, 0, 0, 0, NaN, 0.2, 0.2, 1]);
  const frame = (channel: Parameters<typeof grayFrame>[3]) => grayFrame(pixels, rect(0, 0, 2, 2), { width: 2, height: 2 }, channel);

  test('light is taken as it is seen, coverage and saturation as they are', () => {
    expect(frame('green').read(0, 0, 1, 1).data[0]).toBeCloseTo(SRGB.encode(0.4), 4);
    expect(frame('luma').read(0, 0, 1, 1).data[0]).toBeCloseTo(SRGB.encode(LUMA[0] * 0.2 + LUMA[1] * 0.4 + LUMA[2] * 0.1), 4);
    expect(frame('alpha').read(0, 0, 1, 1).data[0]).toBe(0.5);
    const [low, high] = [SRGB.encode(0.1), SRGB.encode(0.4)];
    expect(frame('saturation').read(0, 0, 1, 1).data[0]).toBeCloseTo((high - low) / high, 4);
    expect(frame('saturation').read(1, 0, 1, 1).data[0]).toBe(0);
  });

  test('edges are repeated beyond the picture, and what is not a number is dark', () => {
    expect([...frame('alpha').read(-2, -1, 3, 1).data]).toEqual([0.5, 0.5, 0.5]);
    expect(frame('red').read(1, 1, 1, 1).data[0]).toBe(0);
  });

  test('a part of a picture counts its pixels from the frame’s corner', () => {
    const part = grayFrame(pixels, rect(10, 5, 12, 7), { width: 100, height: 50 }, 'alpha');
    expect([...part.read(10, 5, 2, 2).data]).toEqual([0.5, 1, 0, 1]);
  });
});

describe('pictures of one channel', () => {
  test('calming keeps what is even, edges too, and a ramp within', () => {
    expect(calmed(grayOf(5, 4, () => 0.3)).data.every((v) => Math.abs(v - 0.3) < 1e-6)).toBe(true);
    const ramp = calmed(grayOf(9, 3, (x) => x));
    for (let x = 1; x < 8; x++) expect(ramp.data[9 + x]).toBeCloseTo(x, 5);
  });

  test('half the size is the mean of four', () => {
    expect([...halved(grayOf(5, 3, (x, y) => x + 10 * y)).data]).toEqual([5.5, 7.5]);
  });

  test('between pixels a plane stays a plane, and outside its edge is repeated', () => {
    const g = grayOf(6, 5, (x, y) => 2 * (x + 0.5) - (y + 0.5));
    for (const [x, y] of [
      [1.3, 2.7],
      [4.9, 1.1],
      [0.5, 0.5],
    ] as const)
      expect(sampleAt(g, x, y)).toBeCloseTo(2 * x - y, 4);
    expect(sampleAt(g, -5, 2.5)).toBeCloseTo(sampleAt(g, 0.5, 2.5), 5);
  });
});

describe('correlation', () => {
  const picture = whole(seenThrough([1, 0, 0, 0, 1, 0, 0, 0, 1], 60, 50));
  const cut = (x: number, y: number, w: number, h: number): Gray => frameOf(picture).read(x, y, w, h);

  test('a part of a picture is found where it was cut, whatever its gain and bias', () => {
    const template = cut(23, 17, 15, 11);
    const dull = { ...template, data: template.data.map((v) => 0.4 * v + 0.2) };
    for (const t of [template, dull]) {
      const [best] = peaks(correlation(t, picture), 1, 5);
      expect([best!.x, best!.y]).toEqual([23, 17]);
      expect(best!.score).toBeCloseTo(1, 5);
    }
  });

  test('it is Pearson’s, place by place', () => {
    const t = cut(5, 6, 7, 5);
    const scores = correlation(t, picture);
    const mean = (v: ArrayLike<number>): number => Array.from(v).reduce((s, a) => s + a, 0) / v.length;
    for (const [x, y] of [
      [0, 0],
      [20, 31],
      [53, 45],
    ] as const) {
      const there = cut(x, y, 7, 5).data;
      const [ma, mb] = [mean(t.data), mean(there)];
      let [ab, aa, bb] = [0, 0, 0];
      for (let i = 0; i < there.length; i++) {
        const [a, b] = [t.data[i]! - ma, there[i]! - mb];
        ab += a * b;
        aa += a * a;
        bb += b * b;
      }
      expect(scores.data[y * scores.width + x]).toBeCloseTo(ab / Math.sqrt(aa * bb), 4);
    }
  });

  test('what has no contrast fits nowhere, and a template larger than the picture has no place', () => {
    expect(
      correlation(
        grayOf(4, 4, () => 0.5),
        picture,
      ).data.every((v) => v === 0),
    ).toBe(true);
    expect(correlation(picture, cut(0, 0, 10, 10)).data).toHaveLength(0);
  });

  test('peaks keep their distance and come in order', () => {
    const found = peaks(correlation(cut(23, 17, 9, 9), picture), 4, 6);
    for (let i = 0; i < found.length; i++) {
      if (i) expect(found[i]!.score).toBeLessThanOrEqual(found[i - 1]!.score);
      for (let j = 0; j < i; j++)
        expect(Math.max(Math.abs(found[i]!.x - found[j]!.x), Math.abs(found[i]!.y - found[j]!.y))).toBeGreaterThanOrEqual(6);
    }
  });
});

describe('features', () => {
  test('corners of a square are found, its sides and its inside are not', () => {
    const g = calmed(grayOf(80, 60, (x, y) => +(x >= 30 && x < 55 && y >= 20 && y < 42)));
    const found = goodFeatures(g, () => true, 4, 6);
    expect(found).toHaveLength(4);
    for (const [cx, cy] of [
      [30, 20],
      [55, 20],
      [30, 42],
      [55, 42],
    ] as const)
      expect(Math.min(...found.map((f) => Math.hypot(f.x - cx, f.y - cy)))).toBeLessThan(4);
  });

  test('only where it is allowed, apart from each other, the stronger first', () => {
    const g = whole(seenThrough([1, 0, 0, 0, 1, 0, 0, 0, 1], 160, 120));
    const list = goodFeatures(g, (x) => x < 80, 40, 12);
    expect(list.length).toBeGreaterThan(8);
    list.forEach((f, i) => {
      expect(f.x).toBeLessThan(80);
      if (i) expect(f.strength).toBeLessThanOrEqual(list[i - 1]!.strength);
      for (const o of list.slice(0, i)) expect(Math.hypot(f.x - o.x, f.y - o.y)).toBeGreaterThanOrEqual(12);
    });
    expect(
      goodFeatures(
        grayOf(64, 64, () => 0.5),
        () => true,
        10,
        5,
      ),
    ).toEqual([]);
  });

  test('a feature is followed through a shift and in other light, to a twentieth of a pixel', () => {
    const [dx, dy] = [5.3, -3.6];
    const before = pyramidOf(calmed(whole(seenThrough([1, 0, 0, 0, 1, 0, 0, 0, 1], 200, 160))), 4);
    const after = pyramidOf(calmed(whole(seenThrough([1, 0, -dx, 0, 1, -dy, 0, 0, 1], 200, 160, { gain: 0.7, bias: 0.1 }))), 4);
    for (const f of goodFeatures(before[0]!, (x, y) => x > 50 && y > 50 && x < 140 && y < 110, 6, 12)) {
      const found = followFeature(before, after, f.x, f.y, [f.x, f.y])!;
      expect(Math.hypot(found.x - f.x - dx, found.y - f.y - dy)).toBeLessThan(0.05);
      expect(found.match).toBeGreaterThan(0.97);
    }
  });

  test('one that leaves the picture is lost', () => {
    const before = pyramidOf(calmed(grayOf(120, 90, (x, y) => texture(x, y))), 3);
    const after = pyramidOf(calmed(grayOf(120, 90, (x, y) => texture(x + 80, y))), 3);
    const found = followFeature(before, after, 30, 45, [30, 45]);
    expect(found === null || found.match < 0.75).toBe(true);
  });
});
