import { within } from '../../filters/push';
import type { TestPicture, TestStep } from '../../testing/evaluate';
import { evaluate, flat } from '../../testing/evaluate';

const [W, H] = [64, 48];
const wave = (x: number, y: number): number => 0.5 + 0.3 * Math.sin(x / 3.1) * Math.cos(y / 4.3) + 0.1 * Math.sin(x * y * 0.01);
const main: TestPicture = { width: W, height: H, fill: { R: wave, G: (x, y) => wave(y, x), B: 0.2, A: 1 } };
const driver: TestPicture = {
  width: W,
  height: H,
  fill: { R: (x, y) => 0.5 + 0.3 * Math.sin(x / 9 + y / 7), G: (x, y) => 0.5 + 0.3 * Math.cos(x / 8 - y / 6), B: 0 },
};
const push = (params: TestStep['params'], more: Record<string, TestPicture> = {}) => {
  const pictures = { main, driver, ...more };
  return evaluate(pictures, [{ type: 'displace', params, feeds: Object.keys(pictures).slice(1) }]);
};

/** Catmull–Rom as a textbook has it, of a function on whole pixels. */
function bicubic(f: (x: number, y: number) => number, x: number, y: number): number {
  const [i, j] = [Math.floor(x), Math.floor(y)];
  const k = (t: number): number => {
    const a = Math.abs(t);
    return a < 1 ? 1.5 * a ** 3 - 2.5 * a ** 2 + 1 : a < 2 ? -0.5 * a ** 3 + 2.5 * a ** 2 - 4 * a + 2 : 0;
  };
  let sum = 0;
  for (let v = j - 1; v <= j + 2; v++) for (let u = i - 1; u <= i + 2; u++) sum += k(x - u) * k(y - v) * f(u, v);
  return sum;
}

describe('displace', () => {
  test('by a known map it is a naive bicubic, to a hundred thousandth', async () => {
    const got = await push({ amount: [5, -4] });
    const at = (c: 'R' | 'G', x: number, y: number): number => (driver.fill[c] as (x: number, y: number) => number)(x, y);
    let worst = 0;
    for (let y = 12; y < H - 12; y++) {
      for (let x = 12; x < W - 12; x++) {
        const [u, v] = [x + 5 * (at('R', x, y) - 0.5), y - 4 * (at('G', x, y) - 0.5)];
        worst = Math.max(worst, Math.abs(got.at('R', x, y) - bicubic(wave, u, v)));
      }
    }
    expect(worst).toBeLessThan(1e-5);
  });

  test('a matte drives how far, not how transparent: half of it is half the way', async () => {
    const half = await push({ amount: [10, 0] }, { reach: flat(W, H, 0, 0, 0, 0.5) });
    const five = await push({ amount: [5, 0] });
    half.planes.R!.forEach((v, i) => expect(v).toBeCloseTo(five.planes.R![i]!, 5));
  });

  test('slopes push downhill: a hill pushes away from its top', async () => {
    const hill = {
      ...driver,
      fill: Object.fromEntries(['R', 'G', 'B'].map((c) => [c, (x: number, y: number) => Math.exp(-((x - 32) ** 2 + (y - 24) ** 2) / 200)])),
    };
    const stripes: TestPicture = { width: W, height: H, fill: { R: (x) => x / W, G: 0, B: 0 } };
    const got = await evaluate({ main: stripes, driver: hill }, [
      { type: 'displace', params: { by: 'slope', amount: [40, 40] }, feeds: ['driver'] },
    ]);
    // Right of the top the slope goes down to the right: what is seen there comes from farther right.
    expect(got.at('R', 40, 24)).toBeGreaterThan(40 / W + 0.01);
    expect(got.at('R', 24, 24)).toBeLessThan(24 / W - 0.01);
  });

  test('a driver of another size lies over the whole frame', async () => {
    const small: TestPicture = { width: 2, height: 2, fill: { R: 1, G: 0.5, B: 0 } };
    const got = await evaluate({ main, driver: small }, [{ type: 'displace', params: { amount: [6, 6] }, feeds: ['driver'] }]);
    expect(got.at('R', 30, 20)).toBeCloseTo(wave(33, 20), 3);
  });

  test('edges hold, are mirrored, come from the other side, or are nothing', async () => {
    expect([-3.5, 4, 12.5].map((v) => within(v, 0, 10, 'hold'))).toEqual([0.5, 4, 9.5]);
    expect([-3.5, 4, 12.5].map((v) => within(v, 0, 10, 'mirror'))).toEqual([3.5, 4, 7.5]);
    expect([-3.5, 4, 12.5].map((v) => within(v, 0, 10, 'wrap'))).toEqual([6.5, 4, 2.5]);
    const right = { width: W, height: H, fill: { R: 1, G: 0.5, B: 0 } };
    const seen = async (edge: string) =>
      (await evaluate({ main, driver: right }, [{ type: 'displace', params: { amount: [20, 0], edge }, feeds: ['driver'] }])).at(
        'R',
        W - 1,
        20,
      );
    expect(await seen('empty')).toBe(0);
    expect(await seen('wrap')).toBeCloseTo(wave(9, 20), 3);
    expect(await seen('hold')).toBeCloseTo(wave(W - 1, 20), 3);
  });

  test('its own colour fills a matte that is too wide, and the matte stays', async () => {
    // Coverage reaches 3 px beyond the colour, which is dark there.
    const wide: TestPicture = {
      width: W,
      height: H,
      fill: { R: (x) => (x < 30 ? 0.8 : x < 33 ? 0.05 : 0), G: 0, B: 0, A: (x) => (x < 33 ? 1 : 0) },
    };
    const got = await evaluate({ main: wide }, [{ type: 'displace', params: { by: 'edge', outwards: 6 } }]);
    expect(got.at('R', 31, 20)).toBeGreaterThan(0.6);
    expect(got.at('R', 10, 20)).toBeCloseTo(0.8, 4);
    expect(got.planes.A).toEqual((await evaluate({ main: wide }, [])).planes.A);
  });

  test('folds are shown where pixels are pushed past their neighbours, and nowhere else', async () => {
    const steep = { ...driver, fill: { R: (x: number) => (x % 16) / 16, G: 0.5, B: 0 } };
    const got = await evaluate({ main: flat(W, H, 0.2), driver: steep }, [
      { type: 'displace', params: { amount: [24, 0], folds: true }, feeds: ['driver'] },
    ]);
    expect([got.at('R', 15, 10), got.at('G', 15, 10)]).toEqual([1, 0]);
    expect(got.at('G', 20, 10)).toBeCloseTo(0.2, 3);
  });
});
