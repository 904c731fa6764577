import type { Param } from '../../document/types';
import { temperatureFactors } from '../../colour/temperature';
import type { TestPicture, TestStep } from '../../testing/evaluate';
import { evaluate, flat } from '../../testing/evaluate';

/** A render of two parts and two lamps, and a rest that no part has. */
const render: TestPicture = {
  width: 8,
  height: 4,
  fill: {
    R: (x) => 0.5 + 0.1 * x,
    G: 0.4,
    B: 0.3,
    A: 1,
    'diffuse.R': (x) => 0.2 + 0.1 * x,
    'diffuse.G': 0.25,
    'diffuse.B': 0.1,
    'specular.R': 0.25,
    'specular.G': 0.1,
    'specular.B': 0.15,
    'light_one.R': 0.3,
    'light_one.G': 0.2,
    'light_one.B': 0.2,
    'light_two.R': (x) => 0.15 + 0.1 * x,
    'light_two.G': 0.15,
    'light_two.B': 0.05,
    'albedo.R': 0.5,
    'albedo.G': 0.5,
    'albedo.B': 0.25,
  },
};

const listed = (type: string, param: string, names: readonly string[], more: Record<string, unknown> = {}): TestStep => ({
  type,
  params: { [param]: names.map((name) => ({ id: name, name })), ...more } as unknown as Record<string, Param>,
});
const parts = (more: Record<string, unknown> = {}): TestStep => listed('rebuildBeauty', 'parts', ['diffuse', 'specular'], more);
const lamps = (more: Record<string, unknown> = {}): TestStep => listed('lightMix', 'lamps', ['light_one', 'light_two'], more);
const red = async (steps: TestStep[], x = 3): Promise<number> => (await evaluate({ main: render }, steps)).at('R', x, 1);

describe('rebuild beauty', () => {
  test('at neutral it is the beauty to the bit, also where one part is brightened and darkened back', async () => {
    const was = await evaluate({ main: render }, []);
    for (const residual of ['carry', 'share']) {
      const got = await evaluate({ main: render }, [parts({ residual })]);
      for (const c of ['R', 'G', 'B', 'A']) expect(got.planes[c]).toEqual(was.planes[c]);
    }
  });

  test('a part a stop brighter adds itself once more; the rest is carried along', async () => {
    expect(await red([parts({ 'specular.gain': 1 })])).toBeCloseTo(0.8 + 0.25, 6);
  });

  test('without the residual the parts alone are there', async () => {
    expect(await red([parts({ residual: 'drop' })])).toBeCloseTo(0.75, 6);
    expect(await red([parts({ show: 'residual' })])).toBeCloseTo(0.05, 6);
  });

  test('shared, the residual grows with the parts', async () => {
    // 0.8 of light of which 0.75 is listed: 0.75 → 1.0
    expect(await red([parts({ residual: 'share', 'specular.gain': 1 })])).toBeCloseTo(0.8 * (1 / 0.75), 5);
  });

  test('off, tinted, desaturated and with levels', async () => {
    expect(await red([parts({ 'specular.on': false })])).toBeCloseTo(0.55, 6);
    expect(await red([parts({ 'specular.tint': [0.5, 1, 1] })])).toBeCloseTo(0.8 - 0.125, 6);
    const luma = 0.2126 * 0.25 + 0.7152 * 0.1 + 0.0722 * 0.15;
    expect(await red([parts({ 'specular.saturation': 0 })])).toBeCloseTo(0.55 + luma, 5);
    expect(await red([parts({ 'specular.black': 0.05, 'specular.white': 1.05 })])).toBeCloseTo(0.55 + 0.2, 5);
    expect(await red([parts({ 'specular.gamma': 2 })])).toBeCloseTo(0.55 + 0.5, 4);
  });

  test('a part is changed where its mask is', async () => {
    const step = { ...parts({ 'specular.gain': 1 }), taps: { 'specular.mask': { lane: 'matte' } } };
    const matte: TestPicture = { width: 8, height: 4, fill: { R: 0, G: 0, B: 0, A: (x) => (x < 4 ? 0.5 : 0) } };
    const got = await evaluate({ main: render, matte }, [step]);
    expect(got.at('R', 3, 1)).toBeCloseTo(0.8 + 0.125, 6);
    // Where it is empty, to the bit.
    expect(got.at('R', 6, 1)).toBe(Math.fround(0.5 + 0.1 * 6));
  });

  test('raw light is multiplied by its filter', async () => {
    const raw: TestPicture = {
      width: 2,
      height: 2,
      fill: { R: 0.2, G: 0, B: 0, A: 1, 'raw.R': 0.4, 'raw.G': 0, 'raw.B': 0, 'flt.R': 0.5, 'flt.G': 0, 'flt.B': 0 },
    };
    const got = await evaluate({ main: raw }, [listed('rebuildBeauty', 'parts', ['raw'], { 'raw.filter': 'flt', 'raw.gain': 1 })]);
    expect(got.at('R', 0, 0)).toBeCloseTo(0.4, 6);
  });

  test('a gain that is keyed is what it is at the frame', async () => {
    const gain = {
      keys: [
        { frame: 1, value: 0, ease: 'linear' },
        { frame: 3, value: 2, ease: 'linear' },
      ],
    };
    const got = await evaluate({ main: render }, [parts({ 'specular.gain': gain })], { frame: 2 });
    expect(got.at('R', 3, 1)).toBeCloseTo(0.8 + 0.25, 6);
  });

  test('a pass that is not there is told, and the others count', async () => {
    const got = await evaluate({ main: render }, [listed('rebuildBeauty', 'parts', ['coat', 'specular'], { 'specular.gain': 1 })]);
    expect(got.plan.remarks[0]!.message).toMatch(/coat: no such pass/);
    expect(got.at('R', 3, 1)).toBeCloseTo(1.05, 6);
  });
});

describe('light mix', () => {
  test('a lamp at half takes half of its share', async () => {
    expect(await red([lamps({ 'light_two.gain': -1 })])).toBeCloseTo(0.8 - 0.225, 5);
    expect(await red([lamps({ 'light_two.solo': true })])).toBeCloseTo(0.8 - 0.3, 5);
  });

  test('after a rebuild it dims its share of every material, by ratio', async () => {
    const got = await red([parts({ 'specular.gain': 1 }), lamps({ 'light_two.gain': -1 })]);
    expect(got).toBeCloseTo(1.05 * ((0.8 - 0.225) / 0.8), 5);
    const plain = await red([parts({ 'specular.gain': 1 }), lamps({ 'light_two.gain': -1, method: 'sum' })]);
    expect(plain).toBeCloseTo(1.05 - 0.225, 5);
  });

  test('where there is no light to go by, the difference is taken, without a step', async () => {
    const dark = (v: number): TestPicture => ({
      width: 2,
      height: 1,
      fill: { R: v, G: v, B: v, A: 1, 'diffuse.R': v, 'diffuse.G': v, 'diffuse.B': v, 'light_a.R': v, 'light_a.G': v, 'light_a.B': v },
    });
    const mixed = async (v: number): Promise<number> => {
      const rebuilt = listed('rebuildBeauty', 'parts', ['diffuse'], { 'diffuse.gain': 0.5 });
      return (await evaluate({ main: dark(v) }, [rebuilt, listed('lightMix', 'lamps', ['light_a'], { 'light_a.gain': 1 })])).at('R', 0, 0);
    };
    for (const v of [0, -1e-4]) expect(await mixed(v)).toBeCloseTo(v * Math.SQRT2 + v, 6);
    const near = await Promise.all([0.00098, 0.00099, 0.001, 0.00101].map(mixed));
    near.slice(1).forEach((v, i) => expect(Math.abs(v - near[i]!)).toBeLessThan(1e-4));
  });

  test('temperature keeps the luminance of a white', () => {
    for (const k of [2000, 3200, 5000, 9000]) {
      const [r, g, b] = temperatureFactors(6500, k);
      expect(0.2126 * r + 0.7152 * g + 0.0722 * b).toBeCloseTo(1, 6);
      expect(Math.sign(r - b)).toBe(k < 6500 ? 1 : -1);
    }
    expect(temperatureFactors(6500, 6500)).toEqual([1, 1, 1]);
  });

  test('after an alpha edge the light stays premultiplied', async () => {
    const half: TestPicture = { ...render, fill: { ...render.fill, A: 0.5 } };
    const got = await evaluate({ main: half }, [lamps({ 'light_one.on': false })]);
    expect(got.at('A', 1, 1)).toBe(0.5);
    expect(got.at('G', 1, 1)).toBeCloseTo(0.2, 6);
  });
});

test('nothing of a picture that has only a beauty is changed', async () => {
  const got = await evaluate({ main: flat(4, 4, 0.3) }, [parts({ 'diffuse.gain': 1 }), lamps({ 'light_one.gain': 1 })]);
  expect(got.at('R', 1, 1)).toBeCloseTo(0.3, 6);
  expect(got.plan.remarks).toHaveLength(2);
});
