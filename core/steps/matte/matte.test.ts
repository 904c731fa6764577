import { evaluate, flat } from '../../testing/evaluate';

const SCREEN = [0.05, 0.25, 0.07] as const;
const key = { type: 'screenKey', params: { screenColour: [...SCREEN] } };

describe('screen key', () => {
  test('the screen itself is empty, grey is solid, and both keep no green', async () => {
    const screen = await evaluate({ main: flat(4, 4, ...SCREEN) }, [key]);
    expect(['R', 'G', 'B', 'A'].map((c) => screen.at(c, 1, 1))).toEqual([0, 0, 0, 0]);
    const grey = await evaluate({ main: flat(4, 4, 0.4) }, [key]);
    expect(grey.at('A', 1, 1)).toBe(1);
    expect(grey.at('G', 1, 1)).toBeCloseTo(0.4, 6);
  });

  test('a grey at 30 % coverage over the screen comes out as 30 % and as its own premultiplied colour', async () => {
    const mixed = SCREEN.map((s) => 0.3 * 0.5 + 0.7 * s) as [number, number, number];
    const got = await evaluate({ main: flat(4, 4, ...mixed) }, [key]);
    expect(got.at('A', 0, 0)).toBeCloseTo(0.3, 5);
    for (const c of ['R', 'G', 'B']) expect(got.at(c, 0, 0)).toBeCloseTo(0.15, 5);
  });

  test('blue screens are found from the screen colour', async () => {
    const blue = [0.04, 0.09, 0.35];
    const mixed = blue.map((s) => 0.6 * 0.5 + 0.4 * s) as [number, number, number];
    const got = await evaluate({ main: flat(4, 4, ...mixed) }, [{ type: 'screenKey', params: { screenColour: blue } }]);
    expect(got.at('A', 0, 0)).toBeCloseTo(0.6, 5);
  });

  test('thresholds stretch the matte; toe and shoulder keep its ends and its rise', async () => {
    const ramp = {
      width: 101,
      height: 1,
      fill: Object.fromEntries(['R', 'G', 'B'].map((c, i) => [c, (x: number) => (x / 100) * 0.5 + (1 - x / 100) * SCREEN[i]!])),
    };
    const got = await evaluate({ main: ramp }, [
      { type: 'screenKey', params: { ...key.params, low: 0.2, high: 0.8, toe: 0.6, shoulder: 0.4 } },
    ]);
    const matte = Array.from({ length: 101 }, (_, x) => got.at('A', x, 0));
    expect(Math.max(...matte.slice(0, 20))).toBeLessThan(1e-6);
    expect(Math.min(...matte.slice(81))).toBe(1);
    matte.slice(1).forEach((v, i) => expect(v).toBeGreaterThanOrEqual(matte[i]! - 1e-6));
  });

  test('an inside matte fills, an outside matte empties, and a screen plate follows uneven light', async () => {
    const dark = SCREEN.map((s) => s * 0.6) as [number, number, number];
    const pictures = { main: flat(4, 4, ...SCREEN), inside: flat(4, 4, 0, 0, 0, 1), outside: flat(4, 4, 0, 0, 0, 0.25) };
    const got = await evaluate(pictures, [{ ...key, feeds: ['inside', 'outside'] }]);
    expect(got.at('A', 0, 0)).toBeCloseTo(0.75, 6);
    const plain = await evaluate({ main: flat(4, 4, ...dark) }, [key]);
    expect(plain.at('A', 0, 0)).toBeGreaterThan(0.3);
    const lit = await evaluate({ main: flat(4, 4, ...dark), screenPlate: flat(4, 4, ...dark) }, [{ ...key, feeds: ['screenPlate'] }]);
    expect(lit.at('A', 0, 0)).toBeLessThan(1e-6);
  });

  test('where the screen plate is empty the screen colour stands in', async () => {
    const got = await evaluate({ main: flat(4, 4, ...SCREEN), screenPlate: flat(4, 4, 0) }, [{ ...key, feeds: ['screenPlate'] }]);
    expect(got.at('A', 0, 0)).toBe(0);
  });
});

describe('despill', () => {
  const green = { screenColour: [0, 1, 0], giveBack: 'nothing' };

  test('green over the average of red and blue is taken off, and comes out as a channel', async () => {
    const got = await evaluate({ main: flat(2, 2, 0.2, 0.5, 0.3) }, [{ type: 'despill', params: green }], {
      channels: ['R', 'G', 'B', 'spill.A'],
    });
    [0.2, 0.25, 0.3, 0.25].forEach((v, i) => expect(got.at(['R', 'G', 'B', 'spill.A'][i]!, 0, 0)).toBeCloseTo(v, 5));
  });

  test.each([
    ['maximum', 0.3],
    ['minimum', 0.2],
    ['average', 0.25],
  ])('limit %s', async (limit, wanted) => {
    const got = await evaluate({ main: flat(2, 2, 0.2, 0.5, 0.3) }, [{ type: 'despill', params: { ...green, limit } }]);
    expect(got.at('G', 0, 0)).toBeCloseTo(wanted, 5);
  });

  test('light that is given back keeps luminance', async () => {
    const got = await evaluate({ main: flat(2, 2, 0.2, 0.5, 0.3) }, [{ type: 'despill', params: { ...green, giveBack: 'neutral' } }]);
    const luma = 0.2126 * got.at('R', 0, 0) + 0.7152 * got.at('G', 0, 0) + 0.0722 * got.at('B', 0, 0);
    expect(luma).toBeCloseTo(0.2126 * 0.2 + 0.7152 * 0.5 + 0.0722 * 0.3, 5);
  });

  test('light given back from the background takes its colour', async () => {
    const got = await evaluate({ main: flat(2, 2, 0.2, 0.5, 0.3), background: flat(2, 2, 0, 0, 0.5) }, [
      { type: 'despill', params: { ...green, giveBack: 'background' }, feeds: ['background'] },
    ]);
    expect(got.at('B', 0, 0)).toBeGreaterThan(1);
    expect(got.at('R', 0, 0)).toBeCloseTo(0.2, 5);
  });

  test('a magenta screen is despilled too, and greys and other hues are left alone', async () => {
    const params = { screenColour: [1, 0, 1], giveBack: 'nothing' };
    const spilt = await evaluate({ main: flat(2, 2, 0.5, 0.3, 0.5) }, [{ type: 'despill', params }]);
    expect(Math.abs(spilt.at('R', 0, 0) - spilt.at('G', 0, 0))).toBeLessThan(0.1);
    const grey = await evaluate({ main: flat(2, 2, 0.4) }, [{ type: 'despill', params }]);
    ['R', 'G', 'B'].forEach((c) => expect(grey.at(c, 0, 0)).toBeCloseTo(0.4, 5));
    const yellowGreen = await evaluate({ main: flat(2, 2, 0.3, 0.6, 0.1) }, [{ type: 'despill', params }]);
    expect(yellowGreen.at('G', 0, 0)).toBeCloseTo(0.6, 4);
  });

  test('a protected hue is kept', async () => {
    const params = { ...green, protect: [0.5, 0.5, 0], protectRange: 40 };
    const got = await evaluate({ main: flat(2, 2, 0.5, 0.52, 0.02) }, [{ type: 'despill', params }]);
    expect(got.at('G', 0, 0)).toBeCloseTo(0.52, 3);
  });
});

describe('choke', () => {
  const disc = (r: number, soft = 1) => ({
    width: 96,
    height: 96,
    fill: {
      R: 0,
      G: 0,
      B: 0,
      A: (x: number, y: number) => Math.min(1, Math.max(0, (r - Math.hypot(x + 0.5 - 48, y + 0.5 - 48)) / soft + 0.5)),
    },
  });
  const areaOf = (plane: Float32Array): number => plane.reduce((s, v) => s + v, 0);
  const radiusOf = (plane: Float32Array): number => Math.sqrt(areaOf(plane) / Math.PI);

  test.each([-8.3, -3, -0.4, 0.4, 2.5, 9])('a hard disc of 20 px moves by %s px', async (radius) => {
    const got = await evaluate({ main: disc(20) }, [{ type: 'choke', params: { radius, edge: 'hard' } }]);
    expect(radiusOf(got.planes.A!)).toBeCloseTo(20 + radius, 0);
    expect(Math.abs(radiusOf(got.planes.A!) - 20 - radius)).toBeLessThan(0.12);
  });

  test.each([-6, -2.5, 3.5, 8])('a soft disc moves by %s px and keeps its ramp', async (radius) => {
    const got = await evaluate({ main: disc(20, 6) }, [{ type: 'choke', params: { radius } }]);
    expect(Math.abs(radiusOf(got.planes.A!) - 20 - radius)).toBeLessThan(0.5);
    const partial = got.planes.A!.filter((v) => v > 0.05 && v < 0.95).length;
    expect(partial).toBeGreaterThan(3 * (20 + radius) * 4);
  });

  test('a matte that fills the frame stays full to the edge when shrunk', async () => {
    for (const edge of ['soft', 'hard']) {
      const got = await evaluate({ main: flat(40, 40, 0.5) }, [{ type: 'choke', params: { radius: -6, edge } }]);
      expect(Math.min(...got.planes.A!)).toBe(1);
    }
  });

  test('specks smaller than the radius vanish, and do not come back', async () => {
    const speck = {
      width: 60,
      height: 60,
      fill: { A: (x: number, y: number) => (Math.hypot(x - 30, y - 30) < 2 ? 1 : 0), R: 0, G: 0, B: 0 },
    };
    const got = await evaluate({ main: speck }, [
      { type: 'choke', params: { radius: -3 } },
      { type: 'choke', params: { radius: 12 } },
    ]);
    expect(Math.max(...got.planes.A!)).toBe(0);
  });

  test('premultiplied colour follows', async () => {
    const main = { width: 9, height: 1, fill: { R: (x: number) => 0.5 * (x / 8), G: 0, B: 0, A: (x: number) => x / 8 } };
    const got = await evaluate({ main }, [{ type: 'choke', params: { radius: -1 } }]);
    for (let x = 1; x < 8; x++) expect(got.at('R', x, 0)).toBeCloseTo(0.5 * got.at('A', x, 0), 5);
  });
});

describe('combine mattes', () => {
  const a = flat(2, 2, 0.3, 0.3, 0.3, 0.6);
  const other = flat(2, 2, 0, 0, 0, 0.25);
  test.each([
    ['union', 0.6],
    ['intersection', 0.25],
    ['subtraction', 0.6 * 0.75],
  ])('%s', async (operation, wanted) => {
    const got = await evaluate({ main: a, other }, [{ type: 'combineMattes', params: { operation }, feeds: ['other'] }]);
    expect(got.at('A', 0, 0)).toBeCloseTo(wanted, 6);
    expect(got.at('R', 0, 0)).toBeCloseTo(0.5 * wanted, 6);
  });
  test('inside and outside: max(inside, edge)·(1 − outside)', async () => {
    const got = await evaluate({ main: a, inside: flat(2, 2, 0, 0, 0, 0.8), outside: flat(2, 2, 0, 0, 0, 0.5) }, [
      { type: 'combineMattes', params: { operation: 'insideOutside' }, feeds: ['inside', 'outside'] },
    ]);
    expect(got.at('A', 0, 0)).toBeCloseTo(0.4, 6);
  });
});
