import type { Zone } from '../../document/types';
import { boxPoints, movePoints, shapeDefaults } from '../../shape/edit';
import type { Shape } from '../../shape/shapes';
import { evaluate, flat } from '../../testing/evaluate';
import type { Param } from '../../document/types';

const main = flat(64, 48, 0.4, 0.3, 0.2, 0.8);
const box = boxPoints(16, 12, 40, 36);
const shape = (change: Partial<Shape> = {}): Shape => ({
  ...shapeDefaults,
  id: 's',
  name: 'Box',
  keys: [{ frame: 1, value: box, ease: 'linear' }],
  ...change,
});
const roto = (effect: string, list: readonly Shape[] = [shape()], more: Record<string, Param> = {}) =>
  evaluate({ main }, [{ type: 'roto', params: { shapes: list, effect, ...more } }]);

describe('roto', () => {
  test.each([
    ['replace', [1, 0.4], [0, 0.4]],
    ['add', [1, 0.4], [0.8, 0.4]],
    ['cut', [0, 0.4], [0.8, 0.4]],
    ['keep', [0.8, 0.4], [0, 0]],
    ['white', [1, 1], [0, 0]],
  ] as const)('%s: alpha and red inside, and outside', async (effect, inside, outside) => {
    const got = await roto(effect);
    expect([got.at('A', 28, 24), got.at('R', 28, 24)].map((v) => Math.round(v * 1e4) / 1e4)).toEqual(inside);
    expect([got.at('A', 5, 5), got.at('R', 5, 5)].map((v) => Math.round(v * 1e4) / 1e4)).toEqual(outside);
  });

  test('nothing drawn is the picture; nothing on is an empty matte; inverted it is the other way about', async () => {
    expect((await roto('replace', [])).at('A', 5, 5)).toBeCloseTo(0.8, 5);
    expect((await roto('replace', [shape({ on: false })])).at('A', 28, 24)).toBe(0);
    const around = await roto('replace', [shape()], { invert: true });
    expect([around.at('A', 28, 24), around.at('A', 5, 5)]).toEqual([0, 1]);
  });

  test('shapes are laid together in order', async () => {
    const hole = shape({ id: 'h', operation: 'subtract', keys: [{ frame: 1, value: boxPoints(24, 20, 32, 28), ease: 'linear' }] });
    const got = await roto('replace', [shape(), hole]);
    expect([got.at('A', 18, 14), got.at('A', 28, 24)]).toEqual([1, 0]);
    const first = await roto('replace', [hole]);
    expect([first.at('A', 18, 14), first.at('A', 28, 24)]).toEqual([1, 0]);
    const both = await roto('replace', [shape(), shape({ id: 'i', operation: 'intersect', keys: hole.keys })]);
    expect([both.at('A', 18, 14), both.at('A', 28, 24)]).toEqual([0, 1]);
  });

  test('half open, a moving edge is half covered where it passes', async () => {
    const moving = shape({
      keys: [
        { frame: 0, value: movePoints(box, null, (x, y) => [x - 8, y]), ease: 'linear' },
        { frame: 2, value: movePoints(box, null, (x, y) => [x + 8, y]), ease: 'linear' },
      ],
    });
    const got = await roto('replace', [moving], { shutter: 180, shutterSamples: 32 });
    // In half a frame it goes 4 px: 14 to 18 at the left edge.
    const edge = [12, 14, 15, 16, 17, 19].map((x) => got.at('A', x, 24));
    [0, 0.125, 0.375, 0.625, 0.875, 1].forEach((v, i) => expect(Math.abs(edge[i]! - v)).toBeLessThan(0.07));
  });

  test('a proxy is the full picture, smaller', async () => {
    const [full, half] = await Promise.all([
      roto('replace'),
      evaluate({ main }, [{ type: 'roto', params: { shapes: [shape()] } }], {
        scale: 0.5,
        format: { width: 64, height: 48 },
      }),
    ]);
    for (const [x, y] of [
      [8, 6],
      [14, 12],
      [3, 3],
      [19, 17],
    ] as const)
      expect(half.at('A', x, y)).toBeCloseTo(full.at('A', 2 * x, 2 * y), 5);
  });
});

describe('a zone in shapes', () => {
  const zone = (params: Record<string, Param>): Zone => ({
    id: 'z',
    type: 'zone',
    name: 'Zone',
    on: true,
    params: { within: 'shapes', ...params },
    feeds: {},
    mix: 1,
    first: 'step 0',
    last: 'step 0',
  });
  test('acts inside, and leaves each bit outside', async () => {
    const steps = [{ type: 'exposure', params: { stops: 1 } }];
    const got = await evaluate({ main }, steps, { zones: [zone({ shapes: [shape({ feather: 4 })] })] });
    const plain = await evaluate({ main }, []);
    expect(got.at('R', 28, 24)).toBeCloseTo(0.8, 5);
    expect(got.at('R', 14, 24)).toBeGreaterThan(0.42);
    for (const c of ['R', 'G', 'B', 'A']) {
      for (let y = 0; y < 48; y++)
        for (let x = 0; x < 64; x++) if (x < 12 || x >= 44 || y < 8 || y >= 40) expect(got.at(c, x, y)).toBe(plain.at(c, x, y));
    }
  });

  test('with none drawn it does nothing; a reading that is gone is told', async () => {
    const steps = [{ type: 'exposure', params: { stops: 1 } }];
    expect((await evaluate({ main }, steps, { zones: [zone({})] })).at('R', 28, 24)).toBeCloseTo(0.4, 6);
    const gone = await evaluate({ main }, steps, { zones: [zone({ shapes: [shape({ follows: ['nobody'] })] })] });
    expect(gone.plan.remarks.map((r) => r.message)).toEqual(['the reading of its shapes is no longer there']);
    expect(gone.at('R', 28, 24)).toBeCloseTo(0.8, 5);
  });
});
