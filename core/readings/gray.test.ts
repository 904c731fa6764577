import { nodeKernels } from '@/engine/node/host';
import { LUMA, SRGB } from '../colour/transfer';
import { rect } from '../geometry/rect';
import { correlation, peaks } from './correlate';
import { FeatureFollower, goodFeatures } from './features';
import type { Gray } from './gray';
import { calmed, frameOf, grayFrame, halved, sampleAt } from './gray';
import { Pattern } from './pattern';
import { Pyramid } from './pyramid';
import { seenThrough, texture } from './testing';

const kernels = await nodeKernels();

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
      const [best] = peaks(correlation(kernels, t, picture), 1, 5);
      expect([best!.x, best!.y]).toEqual([23, 17]);
      expect(best!.score).toBeCloseTo(1, 5);
    }
  });

  test('it is Pearson’s, place by place', () => {
    const t = cut(5, 6, 7, 5);
    const scores = correlation(kernels, t, picture);
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
        kernels,
        grayOf(4, 4, () => 0.5),
        picture,
      ).data.every((v) => v === 0),
    ).toBe(true);
    expect(correlation(kernels, picture, cut(0, 0, 10, 10)).data).toHaveLength(0);
  });

  test('peaks keep their distance and come in order', () => {
    const found = peaks(correlation(kernels, cut(23, 17, 9, 9), picture), 4, 6);
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
    const used = kernels.used;
    const before = new Pyramid(kernels, seenThrough([1, 0, 0, 0, 1, 0, 0, 0, 1], 200, 160), 4);
    const after = new Pyramid(kernels, seenThrough([1, 0, -dx, 0, 1, -dy, 0, 0, 1], 200, 160, { gain: 0.7, bias: 0.1 }), 4);
    const follower = new FeatureFollower(kernels);
    const list = goodFeatures(before.levels[0]!, (x, y) => x > 50 && y > 50 && x < 140 && y < 110, 6, 12);
    expect(list.length).toBeGreaterThan(3);
    for (const f of list) {
      const found = follower.follow(before, after, f.x, f.y, [f.x, f.y])!;
      expect(Math.hypot(found.x - f.x - dx, found.y - f.y - dy)).toBeLessThan(0.05);
      expect(found.match).toBeGreaterThan(0.97);
    }
    [before, after, follower].forEach((x) => x.close());
    expect(kernels.used).toBe(used);
  });

  test('followed by the kernel, a window ends where the pattern of the same window does', () => {
    const [dx, dy] = [1.7, -0.8];
    const frames = [
      seenThrough([1, 0, 0, 0, 1, 0, 0, 0, 1], 90, 70),
      seenThrough([1, 0, -dx, 0, 1, -dy, 0, 0, 1], 90, 70, { noise: 0.01 }),
    ];
    const [before, after] = frames.map((f) => new Pyramid(kernels, f, 1)) as [Pyramid, Pyramid];
    const follower = new FeatureFollower(kernels);
    for (const [x, y] of [
      [40.2, 33.7],
      [52.5, 28.1],
      [30.9, 41.4],
    ] as const) {
      const found = follower.follow(before, after, x, y, [x, y])!;
      const pattern = new Pattern({ gray: calmed(whole(frames[0]!)), x: 0, y: 0 }, x, y, [-7, -7, 8, 8], 'shift');
      const fit = pattern.fit({ gray: calmed(whole(frames[1]!)), x: 0, y: 0 }, [1, 0, x, 0, 1, y])!;
      expect(found.x).toBeCloseTo(fit.at[2], 2);
      expect(found.y).toBeCloseTo(fit.at[5], 2);
      expect(found.match).toBeCloseTo(fit.match, 3);
    }
    [before, after, follower].forEach((p) => p.close());
  });

  test('a pyramid is the calmed picture and its halves, whatever its sides', () => {
    for (const [w, h] of [
      [101, 67],
      [64, 50],
      [7, 3],
    ] as const) {
      const frame = seenThrough([1, 0, 0, 0, 1, 0, 0, 0, 1], w, h, { noise: 0.05 });
      const pyramid = new Pyramid(kernels, frame, 3);
      let wanted = calmed(whole(frame));
      for (const level of pyramid.levels) {
        expect([level.width, level.height]).toEqual([wanted.width, wanted.height]);
        expect(level.data.every((v, i) => Math.abs(v - wanted.data[i]!) < 1e-5)).toBe(true);
        wanted = halved(wanted);
      }
      pyramid.close();
    }
  });

  test('one that leaves the picture is lost', () => {
    const before = new Pyramid(kernels, frameOf(grayOf(120, 90, (x, y) => texture(x, y))), 3);
    const after = new Pyramid(kernels, frameOf(grayOf(120, 90, (x, y) => texture(x + 80, y))), 3);
    const follower = new FeatureFollower(kernels);
    const found = follower.follow(before, after, 30, 45, [30, 45]);
    expect(found === null || found.match < 0.75).toBe(true);
    [before, after, follower].forEach((x) => x.close());
  });
});
