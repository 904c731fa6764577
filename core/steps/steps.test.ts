import fc from 'fast-check';
import type { TestStep } from '../testing/evaluate';
import { evaluate, flat } from '../testing/evaluate';
import { STEPS } from '.';

const pixel = async (steps: TestStep[], colour: [number, number, number, number], extra = {}): Promise<number[]> => {
  const [r, g, b, a] = colour;
  const out = await evaluate({ main: flat(8, 8, r, g, b, a), ...extra }, steps);
  return ['R', 'G', 'B', 'A'].map((c) => out.at(c, 3, 3));
};
const close = (got: number[], wanted: number[], digits = 6): void => wanted.forEach((w, i) => expect(got[i]).toBeCloseTo(w, digits));

describe('every step', () => {
  test.each([...STEPS.values()].map((d) => [d.type, d] as const))('%s passes a picture through at mix 0 and when off', async (type) => {
    const feeds = STEPS.get(type)!.feeds.map((f) => f.name);
    const pictures = Object.fromEntries(feeds.map((f) => [f, flat(8, 8, 0.3, 0.2, 0.1, 0.5)]));
    const params = type === 'blur' || type === 'transform' ? { size: 2, rotate: 20 } : {};
    for (const state of [{ mix: 0 }, { on: false }]) {
      close(await pixel([{ type, params, feeds, ...state }], [0.1, 0.2, 0.3, 0.5], pictures), [0.1, 0.2, 0.3, 0.5]);
    }
  });

  test.each([...STEPS.keys()])('%s has a summary and defaults inside its own limits', (type) => {
    const d = STEPS.get(type)!;
    expect(d.summary).toMatch(/^[A-Z].*\.$/);
    for (const p of Object.values(d.params)) {
      if (p.kind === 'number') expect(p.default).toBeGreaterThanOrEqual(p.min);
      if (p.kind === 'choice') expect(p.options.map((o) => o.value)).toContain(p.default);
    }
  });
});

describe('colour', () => {
  test('two stops up is four times the light', async () => {
    close(await pixel([{ type: 'exposure', params: { stops: 2 } }], [0.1, 0.2, 0.3, 1]), [0.4, 0.8, 1.2, 1]);
  });

  test('slope, offset and power come in the order of the ASC CDL', async () => {
    const params = { slope: [2, 1, 1], offset: [0.1, 0, -0.1], power: [2, 1, 0.5] };
    close(await pixel([{ type: 'grade', params }], [0.2, 0.5, 0.35, 1]), [0.25, 0.5, 0.5, 1], 5);
  });

  test('contrast leaves its pivot alone', async () => {
    const got = await pixel([{ type: 'grade', params: { contrast: 2, pivot: 0.18 } }], [0.18, 0.36, 0.09, 1]);
    close(got, [0.18, 0.72, 0.045, 1], 5);
  });

  test('no saturation is Rec.709 luminance', async () => {
    close(await pixel([{ type: 'grade', params: { saturation: 0 } }], [1, 0, 0, 1]), [0.2126, 0.2126, 0.2126, 1]);
  });

  test('an offset on half-covered grey acts on the colour, not on the product', async () => {
    // (0.2 / 0.5 + 0.1)·0.5
    const [r] = await pixel([{ type: 'grade', params: { masterOffset: 0.1 } }], [0.2, 0.2, 0.2, 0.5]);
    expect(r).toBeCloseTo(0.25, 6);
    const [plain] = await pixel([{ type: 'grade', params: { masterOffset: 0.1, unpremultiply: false } }], [0.2, 0.2, 0.2, 0.5]);
    expect(plain).toBeCloseTo(0.3, 6);
  });

  test('clamp holds both sides, and one side when the other is open', async () => {
    close(await pixel([{ type: 'clamp' }], [-1, 0.5, 7, 1]), [0, 0.5, 1, 1]);
    close(await pixel([{ type: 'clamp', params: { limitHigh: false } }], [-1, 0.5, 7, 1]), [0, 0.5, 7, 1]);
  });

  test('invert twice is nothing', async () => {
    const twice = [
      { type: 'invert', params: { channels: 'colour' } },
      { type: 'invert', params: { channels: 'colour' } },
    ];
    close(await pixel(twice, [0.1, 0.2, 0.3, 0.5]), [0.1, 0.2, 0.3, 0.5]);
  });
});

describe('alpha', () => {
  test('a 50 % grey premultiplied by 0.5, over black, reads 0.25', async () => {
    const got = await evaluate({ main: flat(4, 4, 0, 0, 0, 1), front: flat(4, 4, 0.5 * 0.5, 0.5 * 0.5, 0.5 * 0.5, 0.5) }, [
      { type: 'join', feeds: ['front'] },
    ]);
    expect(got.at('R', 1, 1)).toBeCloseTo(0.25, 7);
    expect(got.at('A', 1, 1)).toBe(1);
  });

  test('premultiply and unpremultiply undo each other where there is coverage', async () => {
    await fc.assert(
      fc.asyncProperty(fc.double({ min: 0.01, max: 1, noNaN: true }), fc.double({ min: -2, max: 8, noNaN: true }), async (a, c) => {
        const got = await pixel([{ type: 'premultiply' }, { type: 'unpremultiply' }], [c, c, c, a]);
        expect(Math.abs(got[0]! - c)).toBeLessThanOrEqual(1e-6 * Math.max(1, Math.abs(c)));
      }),
      { numRuns: 25 },
    );
  });

  test('unpremultiply leaves colour where alpha is 0', async () => {
    close(await pixel([{ type: 'unpremultiply' }], [0.4, 0.3, 0.2, 0]), [0.4, 0.3, 0.2, 0]);
  });
});

describe('join', () => {
  const f = [0.3, 0.6] as const; // premultiplied colour, alpha
  const b = [0.2, 0.5] as const;
  const run = async (operator: string, alpha = 'coverage'): Promise<[number, number]> => {
    const got = await evaluate({ main: flat(2, 2, b[0], b[0], b[0], b[1]), front: flat(2, 2, f[0], f[0], f[0], f[1]) }, [
      { type: 'join', feeds: ['front'], params: { operator, alpha } },
    ]);
    return [got.at('G', 0, 0), got.at('A', 0, 0)];
  };

  test.each([
    ['over', 0.3 + 0.2 * 0.4, 0.6 + 0.5 * 0.4],
    ['under', 0.2 + 0.3 * 0.5, 0.5 + 0.6 * 0.5],
    ['inside', 0.3 * 0.5, 0.6 * 0.5],
    ['outside', 0.3 * 0.5, 0.6 * 0.5],
    ['atop', 0.3 * 0.5 + 0.2 * 0.4, 0.5],
    ['xor', 0.3 * 0.5 + 0.2 * 0.4, 0.6 * 0.5 + 0.5 * 0.4],
    ['plus', 0.5, 1],
  ])('%s by Porter and Duff', async (operator, colour, alpha) => {
    const [c, a] = await run(operator);
    expect(Math.abs(c - colour)).toBeLessThan(1e-6);
    expect(Math.abs(a - alpha)).toBeLessThan(1e-6);
  });

  // Unpremultiplied: front 0.5, back 0.4; W3C: f·(1 − αb) + b·(1 − αf) + αf·αb·B(0.4, 0.5)
  const both = (blend: number): number => 0.3 * 0.5 + 0.2 * 0.4 + 0.6 * 0.5 * blend;
  test.each([
    ['multiply', 0.2],
    ['screen', 0.7],
    ['difference', 0.1],
    ['lighten', 0.5],
    ['darken', 0.4],
    ['overlay', 0.4],
    ['hardLight', 0.4],
    ['softLight', 0.4],
    ['colourDodge', 0.8],
    ['colourBurn', 0],
    ['average', 0.45],
    ['minus', -0.1],
    ['divide', 0.8],
  ])('%s where both cover', async (operator, blend) => {
    const [c, a] = await run(operator);
    expect(c).toBeCloseTo(both(blend), 6);
    expect(a).toBeCloseTo(0.8, 6);
  });

  test('plain arithmetic works on the channels as they are', async () => {
    expect((await run('multiply', 'plain'))[0]).toBeCloseTo(0.06, 7);
    expect((await run('minus', 'plain'))[0]).toBeCloseTo(-0.1, 7);
  });

  test('screen of light over 1 never falls below either', async () => {
    const got = await evaluate({ main: flat(2, 2, 3), front: flat(2, 2, 2) }, [
      { type: 'join', feeds: ['front'], params: { operator: 'screen', alpha: 'plain' } },
    ]);
    expect(got.at('R', 0, 0)).toBeGreaterThanOrEqual(3);
  });

  test('an element that covers a corner leaves the rest of the back alone', async () => {
    const front = { width: 8, height: 8, bounds: { x0: 0, y0: 0, x1: 2, y1: 2 }, fill: { R: 1, G: 0, B: 0, A: 1 } };
    const got = await evaluate({ main: flat(8, 8, 0.2), front }, [{ type: 'join', feeds: ['front'] }]);
    expect([got.at('R', 1, 1), got.at('R', 3, 3)]).toEqual([1, Math.fround(0.2)]);
  });

  test('a mask and a mix limit it', async () => {
    const mask = { width: 4, height: 4, fill: { A: (x: number) => (x < 2 ? 1 : 0) } };
    const got = await evaluate({ main: flat(4, 4, 0), front: flat(4, 4, 1), mask }, [
      { type: 'join', feeds: ['front'], mask: { from: 'mask' }, mix: 0.25 },
    ]);
    expect([got.at('R', 0, 0), got.at('R', 3, 0)]).toEqual([0.25, 0]);
    const inverted = await evaluate({ main: flat(4, 4, 0), front: flat(4, 4, 1), mask }, [
      { type: 'join', feeds: ['front'], mask: { from: 'mask', invert: true } },
    ]);
    expect([inverted.at('R', 0, 0), inverted.at('R', 3, 0)]).toEqual([0, 1]);
  });
});

describe('pick layer', () => {
  test('normals by X, Y, Z become colour, with alpha from the main layer', async () => {
    const main = { width: 2, height: 2, fill: { R: 1, G: 1, B: 1, A: 0.5, 'N.X': 0.1, 'N.Y': 0.2, 'N.Z': 0.3 } };
    const got = await evaluate({ main }, [{ type: 'pickLayer', params: { layer: 'N' } }]);
    expect(['R', 'G', 'B', 'A'].map((c) => got.at(c, 0, 0))).toEqual([0.1, 0.2, 0.3, 0.5].map(Math.fround));
  });

  test('a single channel stands for all three, and alpha can be the brightest', async () => {
    const main = { width: 2, height: 2, fill: { R: 1, G: 1, B: 1, A: 1, 'depth.Z': 0.75 } };
    const got = await evaluate({ main }, [{ type: 'pickLayer', params: { layer: 'depth', alpha: 'max' } }]);
    expect(['R', 'G', 'B', 'A'].map((c) => got.at(c, 1, 1))).toEqual([0.75, 0.75, 0.75, 0.75]);
  });
});
