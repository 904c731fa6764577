import { evaluate, flat } from '../../testing/evaluate';
import type { Evaluated, TestStep } from '../../testing/evaluate';

const made = (step: TestStep, options = {}): Promise<Evaluated> => evaluate({ main: flat(64, 36, 0.3) }, [step], options);
const mean = (v: ArrayLike<number>): number => Array.from(v).reduce((s, x) => s + x, 0) / v.length;

describe('generators', () => {
  test('a solid is its colour by its coverage', async () => {
    const got = await made({ type: 'solid', params: { colour: [1, 0.5, -0.25], opacity: 0.5 } });
    expect(['R', 'G', 'B', 'A'].map((c) => got.at(c, 63, 35))).toEqual([0.5, 0.25, -0.125, 0.5]);
  });

  test('a ramp runs evenly from point to point, and holds beyond them', async () => {
    const got = await made({ type: 'ramp', params: { from: [16, 0], to: [48, 0], first: [0, 0, 1], second: [1, 0, 0] } });
    for (const x of [0, 20, 40, 63]) {
      const t = Math.min(1, Math.max(0, (x + 0.5 - 16) / 32));
      expect(got.at('R', x, 9)).toBeCloseTo(t, 6);
      expect(got.at('B', x, 30)).toBeCloseTo(1 - t, 6);
    }
  });

  test('around a point it is round; between corners each corner has its own', async () => {
    const round = await made({ type: 'ramp', params: { kind: 'radial', from: [32, 18], to: [42, 18] } });
    expect(round.at('R', 36, 18)).toBeCloseTo(round.at('R', 32, 22), 2);
    const four = await made({ type: 'ramp', params: { kind: 'corners' } });
    expect(four.at('R', 63, 0)).toBeGreaterThan(0.95);
    expect(four.at('G', 63, 0)).toBeLessThan(0.05);
    expect(four.at('R', 32, 18)).toBeCloseTo(0.508, 2);
  });

  test('a checker half on a pixel is half of both, and finer than pixels it is their mean', async () => {
    const black = { first: [0, 0, 0], second: [1, 1, 1] };
    const got = await made({ type: 'checker', params: { ...black, size: 8, origin: [0.5, 0] } });
    expect([got.at('R', 4, 4), got.at('R', 12, 4), got.at('R', 12, 12)]).toEqual([0, 1, 0]);
    expect(got.at('R', 8, 4)).toBeCloseTo(0.5, 6);
    const fine = await made({ type: 'checker', params: { ...black, size: 0.5 } });
    expect(fine.planes.R!.every((v) => Math.abs(v - 0.5) < 1e-6)).toBe(true);
  });

  test('noise is the same for the same seed, evolves with time, stays still without', async () => {
    const clouds = (params: TestStep['params'], frame = 1) => made({ type: 'noise', params: { size: 16, ...params } }, { frame });
    const still = await clouds({});
    expect((await clouds({}, 7)).planes).toEqual(still.planes);
    expect((await clouds({ seed: 2 })).planes).not.toEqual(still.planes);
    expect((await clouds({ speed: 1 }, 1)).planes).not.toEqual((await clouds({ speed: 1 }, 2)).planes);
    // A second later at one a second it has gone one on.
    expect((await clouds({ speed: 1 }, 25)).planes).toEqual((await clouds({ speed: 1, phase: 1 }, 1)).planes);
  });

  test('its mean is the middle, it has light and dark, and neighbours are near each other', async () => {
    const big = await evaluate({ main: flat(256, 256, 0) }, [{ type: 'noise', params: { size: 24, octaves: 3 } }]);
    const r = big.planes.R!;
    expect(Math.abs(mean(r) - 0.5)).toBeLessThan(0.04);
    expect(Math.min(...r)).toBeLessThan(0.25);
    expect(Math.max(...r)).toBeGreaterThan(0.75);
    let step = 0;
    for (let i = 1; i < r.length; i++) if (i % 256) step = Math.max(step, Math.abs(r[i]! - r[i - 1]!));
    expect(step).toBeLessThan(0.25);
  });

  test('at half size it is the same clouds', async () => {
    const params = { size: 32, octaves: 3 };
    const [whole, half] = [await made({ type: 'noise', params }), await made({ type: 'noise', params }, { scale: 0.5 })];
    for (let y = 2; y < 16; y += 3)
      for (let x = 2; x < 30; x += 5) {
        const four = [0, 1].flatMap((v) => [0, 1].map((u) => whole.at('R', 2 * x + u, 2 * y + v)));
        expect(Math.abs(half.at('R', x, y) - mean(four))).toBeLessThan(0.02);
      }
  });

  test('fog covers as much as it is bright, and lies over a picture by a mix', async () => {
    const fog = await made({ type: 'noise', params: { size: 16, alpha: 'noise', high: [0.5, 0.6, 0.7] } });
    fog.planes.A!.forEach((a, i) => expect(fog.planes.G![i]).toBeCloseTo(0.6 * a, 6));
    const half = await made({ type: 'solid', params: { colour: [1, 1, 1] }, mix: 0.5 });
    expect(half.at('R', 5, 5)).toBeCloseTo(0.65, 6);
  });
});
