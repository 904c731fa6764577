import fc from 'fast-check';
import { ShotError } from '../errors';
import { testStroke } from '../testing/strokes';
import { rect } from '../geometry/rect';
import { layRegion, strokeCoverage } from './lay-strokes';
import type { LaidStroke } from './pose';
import type { Stroke } from './strokes';
import { neededPoints, squaredDistance, strokesAt, strokesOf } from './strokes';

const stroke = testStroke;
const region = rect(0, 0, 40, 20);
const laid = (s: Stroke): LaidStroke => ({ stroke: s, points: s.points, size: s.size, look: null, name: '' });
const layStrokes = (list: readonly Stroke[], scale: number, over: typeof region): { coverage: Float32Array } => {
  const coverage = new Float32Array((over.x1 - over.x0) * (over.y1 - over.y0));
  layRegion(list.map(laid), scale, over, coverage);
  return { coverage };
};
const at = (plane: Float32Array, x: number, y: number): number => plane[y * 40 + x]!;

describe('brush strokes', () => {
  test('a hard stroke is full within its radius and nothing beyond', () => {
    const { coverage } = layStrokes([stroke()], 1, region);
    expect(at(coverage, 20, 10)).toBe(1);
    expect(at(coverage, 20, 15)).toBe(0);
    expect(at(coverage, 35, 10)).toBe(0);
    // Its area is that of a rectangle with two half discs, to a few per cent.
    const sum = coverage.reduce((s, v) => s + v, 0);
    expect(Math.abs(sum / (20 * 8 + Math.PI * 16) - 1)).toBeLessThan(0.03);
  });

  test('a soft stroke falls off from its middle, and a flow is its most', () => {
    const { coverage } = layStrokes([stroke({ hardness: 0, flow: 0.6 })], 1, region);
    const across = [10, 11, 12, 13].map((y) => at(coverage, 20, y));
    for (let i = 1; i < 4; i++) expect(across[i]!).toBeLessThan(across[i - 1]!);
    expect(Math.max(...coverage)).toBeLessThanOrEqual(0.6);
  });

  test('strokes add to each other: two of a half cover three quarters; erasing takes away', () => {
    const half = stroke({ flow: 0.5 });
    expect(at(layStrokes([half, half], 1, region).coverage, 20, 10)).toBeCloseTo(0.75, 6);
    expect(at(layStrokes([half, half, stroke({ tool: 'erase' })], 1, region).coverage, 20, 10)).toBe(0);
  });

  test('any part of a region is what the whole has there, and a proxy is the same picture', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 30 }), fc.integer({ min: 0, max: 12 }), (x, y) => {
        const whole = layStrokes([stroke({ hardness: 0.4 })], 1, region).coverage;
        const part = rect(x, y, x + 8, y + 6);
        const cut = layStrokes([stroke({ hardness: 0.4 })], 1, part).coverage;
        for (let i = 0; i < cut.length; i++) expect(cut[i]).toBe(at(whole, x + (i % 8), y + Math.floor(i / 8)));
      }),
    );
    const small = strokeCoverage(laid(stroke({ size: 12 })), 0.5, rect(0, 0, 20, 10))!;
    const full = small.data.reduce((s, v) => s + v, 0) * 4;
    expect(Math.abs(full / (20 * 12 + Math.PI * 36) - 1)).toBeLessThan(0.03);
  });

  test('a line is made of fewer points, none further off than asked', () => {
    const coordinate = fc.double({ min: 0, max: 100, noNaN: true });
    fc.assert(
      fc.property(fc.array(coordinate, { minLength: 4, maxLength: 60 }), (list) => {
        const points = list.slice(0, list.length - (list.length % 2));
        const less = neededPoints(points, 1).flatMap((i) => points.slice(2 * i, 2 * i + 2));
        for (let i = 0; i < points.length; i += 2) {
          let nearest = Infinity;
          for (let k = 0; k + 3 < less.length; k += 2) {
            nearest = Math.min(nearest, squaredDistance(points[i]!, points[i + 1]!, less[k]!, less[k + 1]!, less[k + 2]!, less[k + 3]!));
          }
          expect(Math.sqrt(nearest)).toBeLessThan(1.0001);
        }
      }),
    );
  });

  test('a frame has its own strokes only; there and back through text', () => {
    const list = [stroke(), stroke({ first: 4, last: 4 })];
    expect(strokesOf(list)).toBe(list);
    expect(strokesAt(list, 4)).toHaveLength(2);
    expect(strokesAt(list, 5)).toHaveLength(1);
    expect(strokesAt(list, 11)).toEqual([]);
    // The same list while it is the same: what is drawn from it is not drawn again.
    expect(strokesAt(list, 4)).toBe(strokesAt(list, 4));
  });

  test('damaged text is refused with what to do', () => {
    for (const bad of ['{', [{ tool: 'paint' }], [stroke({ points: [1] })], [stroke({ size: -1 })]]) {
      expect(() => strokesOf(bad)).toThrow(ShotError);
    }
  });
});
