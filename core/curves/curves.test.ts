import fc from 'fast-check';
import { evaluate, flat } from '../testing/evaluate';
import type { Curve } from './curves';
import { checkCurves, curveThrough, curveValue } from './curves';

/** Points in order, of any heights. */
const anyPoints = fc
  .array(fc.record({ gap: fc.double({ min: 0.01, max: 1, noNaN: true }), y: fc.double({ min: -1, max: 2, noNaN: true }) }), {
    minLength: 2,
    maxLength: 9,
  })
  .map((list) => {
    let x = -0.5;
    return list.flatMap(({ gap, y }) => [(x += gap), y]);
  });

describe('a curve through points', () => {
  test('passes through each, and between two it never leaves their heights', () => {
    fc.assert(
      fc.property(anyPoints, fc.double({ min: 0, max: 1, noNaN: true }), (points, t) => {
        const f = curveThrough(points);
        for (let i = 0; i < points.length; i += 2) expect(f(points[i]!)).toBeCloseTo(points[i + 1]!, 9);
        for (let i = 0; i + 3 < points.length; i += 2) {
          const y = f(points[i]! + t * (points[i + 2]! - points[i]!));
          const [low, high] = [Math.min(points[i + 1]!, points[i + 3]!), Math.max(points[i + 1]!, points[i + 3]!)];
          expect(y).toBeGreaterThanOrEqual(low - 1e-9);
          expect(y).toBeLessThanOrEqual(high + 1e-9);
        }
      }),
    );
  });

  test('goes straight on beyond its ends, so that light over 1 is not cut', () => {
    const f = curveThrough([0, 0, 0.5, 0.7, 1, 1]);
    const rise = f(2) - f(1.5);
    expect(f(3) - f(2.5)).toBeCloseTo(rise, 9);
    expect(f(2)).toBeGreaterThan(1);
  });

  test('damaged ones are told: one point, out of order, two of a channel', () => {
    for (const bad of [
      [{ channel: 'all', points: [0, 0] }],
      [{ channel: 'all', points: [0, 0, 0, 1] }],
      [{ channel: 'luma', points: [0, 0, 1, 1] }],
      [
        { channel: 'R', points: [0, 0, 1, 1] },
        { channel: 'R', points: [0, 0, 1, 0.5] },
      ],
      'text',
    ])
      expect(() => checkCurves(bad)).toThrow('curves are damaged');
  });
});

describe('the step', () => {
  const of = (curves: readonly Curve[], space: string, r: number, g = r, b = r): Promise<number[]> =>
    evaluate({ main: flat(4, 4, r, g, b) }, [{ type: 'curves', params: { curves, space } }]).then((got) =>
      ['R', 'G', 'B'].map((c) => got.at(c, 1, 1)),
    );
  const bent: Curve = { channel: 'all', points: [0, 0, 0.5, 0.75, 1, 1] };

  test('in scene light it is the curve itself, of each channel after that of all', async () => {
    const own: Curve = { channel: 'G', points: [0, 0.1, 1, 0.9] };
    const [r, g] = await of([bent, own], 'light', 0.5);
    expect(r).toBeCloseTo(0.75, 4);
    expect(g).toBeCloseTo(0.1 + 0.8 * 0.75, 4);
  });

  test('in display codes a code of half becomes one of three quarters; bright, dark and negative light keep their sides', async () => {
    const decode = (v: number): number => ((v + 0.055) / 1.055) ** 2.4;
    const [r] = await of([bent], 'display', decode(0.5));
    expect(r).toBeCloseTo(decode(0.75), 3);
    const [bright, dark, negative] = await of([bent], 'display', 6, 0, -0.02);
    expect(bright).toBeGreaterThan(1);
    expect(dark).toBeCloseTo(0, 6);
    expect(negative).toBeLessThan(0);
  });

  test('straight curves change nothing', async () => {
    const straight: Curve[] = [{ channel: 'all', points: [0, 0, 0.3, 0.3, 1, 1] }];
    expect(curveValue(straight).straight).toBe(true);
    const got = await of(straight, 'display', 0.123, 0.4, 3);
    [0.123, 0.4, 3].forEach((v, i) => expect(got[i]).toBeCloseTo(v, 6));
  });
});
