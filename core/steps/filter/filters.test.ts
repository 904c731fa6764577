import { LUMA } from '../../colour/transfer';
import type { TestPicture } from '../../testing/evaluate';
import { evaluate, flat } from '../../testing/evaluate';

let seed = 3;
const noise = Array.from({ length: 40 * 30 }, () => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32);
const grain: TestPicture = { width: 40, height: 30, fill: { R: (x, y) => noise[y * 40 + x]!, G: 0.5, B: 0.25, A: 1 } };
const held = (x: number, y: number): number => noise[Math.min(29, Math.max(0, y)) * 40 + Math.min(39, Math.max(0, x))]!;

describe('median', () => {
  test.each([1, 2, 3, 4])('radius %i is the middle one of its square, edges repeated', async (radius) => {
    const got = await evaluate({ main: grain }, [{ type: 'median', params: { radius } }]);
    for (let y = 0; y < 30; y++) {
      for (let x = 0; x < 40; x++) {
        const all: number[] = [];
        for (let v = -radius; v <= radius; v++) for (let u = -radius; u <= radius; u++) all.push(held(x + u, y + v));
        all.sort((a, b) => a - b);
        expect(got.at('R', x, y)).toBeCloseTo(all[all.length >> 1]!, 6);
      }
    }
  });
});

describe('mosaic', () => {
  test('each tile has its mean; tiles that the frame cuts, that of their part', async () => {
    const got = await evaluate({ main: grain }, [{ type: 'mosaic', params: { size: 7, corner: [3, -2] } }]);
    for (const [x, y] of [
      [12, 9],
      [0, 0],
      [39, 29],
      [10, 4],
    ] as const) {
      const [i, j] = [Math.floor((x + 0.5 - 3) / 7), Math.floor((y + 0.5 + 2) / 7)];
      const all: number[] = [];
      for (let v = 0; v < 30; v++)
        for (let u = 0; u < 40; u++) if (Math.floor((u + 0.5 - 3) / 7) === i && Math.floor((v + 0.5 + 2) / 7) === j) all.push(held(u, v));
      expect(got.at('R', x, y)).toBeCloseTo(all.reduce((a, b) => a + b, 0) / all.length, 5);
    }
    expect(got.at('G', 5, 5)).toBeCloseTo(0.5, 6);
  });
});

describe('sharpen', () => {
  test('a flat picture stays flat, an edge gets steeper, small differences stay under the threshold', async () => {
    expect((await evaluate({ main: flat(20, 20, 0.3) }, [{ type: 'sharpen', params: { amount: 2 } }])).at('R', 0, 19)).toBeCloseTo(0.3, 5);
    const step: TestPicture = { width: 20, height: 20, fill: { R: (x) => (x < 10 ? 0.2 : 0.6), G: 0, B: 0, A: 1 } };
    const got = await evaluate({ main: step }, [{ type: 'sharpen', params: { amount: 1, size: 1.5 } }]);
    expect(got.at('R', 9, 10)).toBeLessThan(0.15);
    expect(got.at('R', 10, 10)).toBeGreaterThan(0.65);
    expect(got.at('R', 1, 10)).toBeCloseTo(0.2, 2);
    const calm = await evaluate({ main: step }, [{ type: 'sharpen', params: { amount: 1, size: 1.5, threshold: 0.5 } }]);
    expect(calm.at('R', 10, 10)).toBeCloseTo(0.6, 5);
  });
});

describe('hue and saturation', () => {
  const of = async (
    params: Record<string, number | boolean>,
    rgb: readonly [number, number, number] = [0.6, 0.2, 0.1],
  ): Promise<number[]> => {
    const got = await evaluate({ main: flat(4, 4, ...rgb) }, [{ type: 'hueSaturation', params }]);
    return ['R', 'G', 'B'].map((c) => got.at(c, 1, 1));
  };
  const luma = (v: readonly number[]): number => LUMA.reduce((s, w, i) => s + w * v[i]!, 0);
  test('a turn keeps grey and luma; a whole one changes nothing', async () => {
    const grey = await of({ hue: 77 }, [0.3, 0.3, 0.3]);
    grey.forEach((v) => expect(v).toBeCloseTo(0.3, 5));
    const turned = await of({ hue: 120 });
    expect(luma(turned)).toBeCloseTo(luma([0.6, 0.2, 0.1]), 5);
    // Red goes towards green.
    expect(turned[1]).toBeGreaterThan(turned[0]!);
    const back = await of({ hue: 360 });
    [0.6, 0.2, 0.1].forEach((v, i) => expect(back[i]).toBeCloseTo(v, 6));
  });
  test('no saturation is luma; a stop is twice the light; other hues are left alone', async () => {
    (await of({ saturation: 0 })).forEach((v) => expect(v).toBeCloseTo(luma([0.6, 0.2, 0.1]), 5));
    (await of({ light: 1 })).forEach((v, i) => expect(v).toBeCloseTo(2 * [0.6, 0.2, 0.1][i]!, 5));
    const params = { saturation: 0, some: true, middle: 0, width: 60, softness: 10 };
    (await of(params)).forEach((v) => expect(v).toBeCloseTo(luma([0.6, 0.2, 0.1]), 5));
    const blue = await of(params, [0.1, 0.2, 0.6]);
    [0.1, 0.2, 0.6].forEach((v, i) => expect(blue[i]).toBeCloseTo(v, 6));
  });
});
