import type { TestPicture, TestStep } from '../../testing/evaluate';
import { evaluate, flat } from '../../testing/evaluate';

const dot = (w: number, h: number, x0: number, y0: number, value = 100): TestPicture => ({
  width: w,
  height: h,
  fill: Object.fromEntries(['R', 'G', 'B'].map((c) => [c, (x: number, y: number) => (x === x0 && y === y0 ? value : 0)])),
});
const sum = (plane: Float32Array): number => plane.reduce((s, v) => s + v, 0);
const run = (main: TestPicture, step: TestStep, more: Record<string, TestPicture> = {}) => evaluate({ main, ...more }, [step]);

describe('defocus', () => {
  test('a point becomes the exact disc: full inside, nothing outside, the light kept', async () => {
    const got = await run(dot(61, 61, 30, 30), { type: 'defocus', params: { radius: 12 } });
    expect(sum(got.planes.R!)).toBeCloseTo(100, 3);
    const inside = 100 / (Math.PI * 144);
    for (let y = 0; y < 61; y++) {
      for (let x = 0; x < 61; x++) {
        const d = Math.hypot(x - 30, y - 30);
        if (d < 10.8) expect(Math.abs(got.at('R', x, y) / inside - 1)).toBeLessThan(0.01);
        if (d > 13.2) expect(got.at('R', x, y)).toBe(0);
      }
    }
  });

  test.each([
    ['blades', { blades: 5, turn: 13 }],
    ['round blades', { blades: 6, roundness: 0.5 }],
    ['a squeeze', { squeeze: 0.5 }],
    ['a bright rim', { rim: 1 }],
  ])('keeps the light with %s', async (_, params) => {
    const got = await run(dot(91, 91, 60, 40), { type: 'defocus', params: { radius: 14, ...params } });
    expect(Math.abs(sum(got.planes.G!) / 100 - 1)).toBeLessThan(1e-4);
  });

  test('an even picture stays even to its edges', async () => {
    const got = await run(flat(50, 40, 0.3), { type: 'defocus', params: { radius: 9 } });
    got.planes.R!.forEach((v) => expect(v).toBeCloseTo(0.3, 5));
  });

  test("the barrel's cut leaves even places even, and makes discs narrower towards the corners", async () => {
    const step: TestStep = { type: 'defocus', params: { radius: 12, swirl: 1 } };
    const still = await run(flat(200, 120, 0.3), step);
    still.planes.R!.forEach((v) => expect(v).toBeCloseTo(0.3, 4));
    const got = await run(dot(200, 120, 170, 60), step);
    const [xs, ys] = [new Set<number>(), new Set<number>()];
    got.planes.R!.forEach((v, i) => {
      if (v <= 1e-4) return;
      xs.add(i % 200);
      ys.add(Math.floor(i / 200));
    });
    const [wide, high] = [xs.size, ys.size];
    expect(wide).toBeLessThan(0.85 * high);
  });

  test('a rim is as much brighter as it says', async () => {
    const got = await run(dot(81, 81, 40, 40), { type: 'defocus', params: { radius: 20, rim: 1 } });
    expect(got.at('R', 40 + 18, 40) / got.at('R', 40, 40)).toBeCloseTo(2, 2);
  });

  test('along a ramp it grows from nothing', async () => {
    const stripes: TestPicture = { width: 64, height: 64, fill: { R: (x) => x % 2, G: 0.5, B: 0.5 } };
    const got = await run(stripes, { type: 'defocus', params: { radius: 8, by: 'ramp', from: [0, -28], to: [0, 28] } });
    const contrast = (y: number): number => Math.abs(got.at('R', 32, y) - got.at('R', 33, y));
    expect(contrast(2)).toBeGreaterThan(0.99);
    expect(contrast(58)).toBeLessThan(0.1);
    expect(contrast(20)).toBeGreaterThan(contrast(40));
  });

  test('what is sharp does not leak into what is blurred behind it, nor the blur over it', async () => {
    // Left half sharp and bright, right half dark and blurred.
    const main: TestPicture = { width: 64, height: 24, fill: { R: (x) => (x < 32 ? 1 : 0), G: 0, B: 0 } };
    const map: TestPicture = {
      width: 64,
      height: 24,
      fill: { R: (x) => (x < 32 ? 0 : 1), G: (x) => (x < 32 ? 0 : 1), B: (x) => (x < 32 ? 0 : 1) },
    };
    const got = await run(main, { type: 'defocus', params: { radius: 8, by: 'map' }, feeds: ['map'] }, { map });
    expect(got.at('R', 31, 12)).toBeCloseTo(1, 3);
    expect(got.at('R', 33, 12)).toBeLessThan(0.02);
    const even = await run(main, { type: 'defocus', params: { radius: 8 } });
    expect(even.at('R', 33, 12)).toBeGreaterThan(0.3);
  });

  test('a picture of an aperture is what points become, turned over', async () => {
    const shape: TestPicture = {
      width: 20,
      height: 20,
      fill: { R: (x) => (x < 10 ? 1 : 0), G: (x) => (x < 10 ? 1 : 0), B: (x) => (x < 10 ? 1 : 0) },
    };
    const got = await run(dot(61, 61, 30, 30), { type: 'defocus', params: { radius: 10 }, feeds: ['shape'] }, { shape });
    expect(sum(got.planes.R!)).toBeCloseTo(100, 2);
    const side = (from: number, to: number): number => {
      let s = 0;
      for (let y = 0; y < 61; y++) for (let x = from; x < to; x++) s += got.at('R', x, y);
      return s;
    };
    expect(side(0, 30)).toBeGreaterThan(90);
  });
});

describe('blurs along a way', () => {
  test('a point becomes a line of its length, at its angle', async () => {
    const got = await run(dot(61, 61, 30, 30), { type: 'directionalBlur', params: { length: 20, angle: 90 } });
    expect(sum(got.planes.R!)).toBeCloseTo(100, 1);
    expect(got.at('R', 30, 30)).toBeCloseTo(5, 0);
    expect(got.at('R', 30, 22)).toBeCloseTo(5, 0);
    expect(got.at('R', 30, 44)).toBe(0);
    expect(got.at('R', 33, 30)).toBe(0);
  });

  test.each(['directionalBlur', 'radialBlur', 'zoomBlur'])('%s leaves an even picture as it is, to its edges', async (type) => {
    const got = await run(flat(48, 32, 0.4), {
      type,
      params: type === 'directionalBlur' ? { length: 11, angle: 30 } : {},
    });
    got.planes.R!.forEach((v) => expect(v).toBeCloseTo(0.4, 3));
  });

  test('what is in the middle stays sharp; the farther away the longer the way', async () => {
    const rays: TestPicture = { width: 65, height: 65, fill: { R: (x, y) => (Math.hypot(x - 32, y - 32) % 6 < 3 ? 1 : 0), G: 0, B: 0 } };
    const turned = await run(rays, { type: 'radialBlur', params: { angle: 20 } });
    // Rings about the middle are not changed by turning.
    expect(turned.at('R', 32 + 13, 32)).toBeGreaterThan(0.9);
    const zoomed = await run(rays, { type: 'zoomBlur', params: { amount: 40 } });
    expect(zoomed.at('R', 32 + 27, 32)).toBeLessThan(0.75);
  });
});
