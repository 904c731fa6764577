import fc from 'fast-check';
import { nodeKernels } from '@/engine/node/host';
import type { Affine } from '../geometry/affine';
import { compose, invertAffine, translation } from '../geometry/affine';
import type { Rect } from '../geometry/rect';
import { area, rect, width } from '../geometry/rect';
import type { ResampleFilter } from './resample';
import { FILTERS, resample, resampleRegion } from './resample';

const HAVE = rect(0, 0, 48, 36);
const NAMES = FILTERS.map((f) => f.value);

async function resampled(at: (x: number, y: number) => number, toSource: Affine, filter: ResampleFilter, want: Rect = HAVE) {
  const k = await nodeKernels();
  const before = k.used;
  const plane = k.copy(Array.from({ length: area(HAVE) }, (_, i) => at((i % 48) + 0.5, Math.floor(i / 48) + 0.5)));
  const out = k.take(area(want)).fill(NaN);
  resample(k, [plane], HAVE, [out], want, toSource, filter);
  const got = Float32Array.from(out);
  [plane, out].forEach((p) => k.give(p));
  expect(k.used).toBe(before);
  return (x: number, y: number): number => got[(y - want.y0) * width(want) + x - want.x0]!;
}

/** Source positions of a turn by an angle and a scale about the middle. */
const about = (angle: number, scale: number): Affine => {
  const [c, s] = [Math.cos(angle) / scale, Math.sin(angle) / scale];
  return compose(translation(24, 18), compose([c, s, 0, -s, c, 0], translation(-24, -18)));
};
const inner = [
  [20, 14],
  [24, 18],
  [29, 21],
  [18, 22],
] as const;

describe('resampling', () => {
  test.each(NAMES)('%s: whole pixels moved are the same pixels, but where the filter smooths', async (filter) => {
    const at = (x: number, y: number): number => Math.sin(x * 1.7) + Math.cos(y * 2.3);
    const got = await resampled(at, [1, 0, 3, 0, 1, -2], filter);
    if (filter !== 'mitchell') for (const [x, y] of inner) expect(got(x, y)).toBeCloseTo(at(x + 3.5, y - 1.5), 5);
    // Beyond the picture there is nothing.
    expect(got(47, 20)).toBe(0);
  });

  test.each(NAMES.filter((n) => n !== 'nearest'))('%s: a ramp stays a ramp, turned, larger and smaller', async (filter) => {
    const ramp = (x: number, y: number): number => 0.3 + 0.01 * x - 0.02 * y;
    for (const m of [about(0.4, 1), about(0, 1.7), about(-0.2, 0.6), about(0, 0.5)]) {
      const got = await resampled(ramp, m, filter);
      for (const [x, y] of inner) {
        const [u, v] = [m[0] * (x + 0.5) + m[1] * (y + 0.5) + m[2], m[3] * (x + 0.5) + m[4] * (y + 0.5) + m[5]];
        expect(Math.abs(got(x, y) - ramp(u, v))).toBeLessThan(filter === 'lanczos3' ? 4e-3 : 2e-3);
      }
    }
  });

  test.each(NAMES)('%s: an even picture stays even well inside, at any size', async (filter) => {
    await fc.assert(
      fc.asyncProperty(fc.double({ min: 0.3, max: 3, noNaN: true }), fc.double({ min: -3, max: 3, noNaN: true }), async (scale, angle) => {
        const got = await resampled(() => 0.4, about(angle, scale), filter);
        expect(Math.abs(got(24, 18) - 0.4)).toBeLessThan(2e-3);
      }),
      { numRuns: 12 },
    );
  });

  test('smaller by a third, a pattern finer than the new pixels becomes its mean instead of bands', async () => {
    const stripes = (x: number): number => Math.floor(x) % 2;
    for (const filter of ['bilinear', 'mitchell', 'catmullRom', 'lanczos3'] as const) {
      const got = await resampled(stripes, about(0, 1 / 3), filter);
      for (const [x, y] of inner) expect(Math.abs(got(x, y) - 0.5)).toBeLessThan(0.1);
    }
  });

  test('nearest makes no value that was not there', async () => {
    const ids = (x: number, y: number): number => (Math.floor(x) * 7 + Math.floor(y) * 13) % 5;
    const got = await resampled(ids, about(0.7, 1.3), 'nearest');
    for (const [x, y] of inner) expect([0, 1, 2, 3, 4]).toContain(got(x, y));
  });

  test('a part of the result is the same as cut from the whole, and reads no more than it says', async () => {
    const at = (x: number, y: number): number => Math.sin(x * 0.9) * Math.cos(y * 0.7);
    const part = rect(19, 12, 31, 24);
    for (const filter of NAMES) {
      const m = about(0.3, 0.8);
      const [whole, cut] = [await resampled(at, m, filter), await resampled(at, m, filter, part)];
      for (let y = part.y0; y < part.y1; y++) for (let x = part.x0; x < part.x1; x++) expect(cut(x, y)).toBeCloseTo(whole(x, y), 5);
      const need = resampleRegion(part, m, filter);
      const outside = await resampled(
        (x, y) => (x > need.x0 && x < need.x1 && y > need.y0 && y < need.y1 ? at(x, y) : 99),
        m,
        filter,
        part,
      );
      for (const [x, y] of inner) expect(outside(x, y)).toBeCloseTo(cut(x, y), 5);
    }
  });

  test('there and back is near the picture, the sharper filters nearer', async () => {
    const at = (x: number, y: number): number => 0.5 + 0.3 * Math.sin(x * 0.4) * Math.cos(y * 0.35);
    const m = about(0.25, 1.1);
    const errors: Partial<Record<ResampleFilter, number>> = {};
    for (const filter of ['bilinear', 'catmullRom', 'lanczos3'] as const) {
      const there = await resampled(at, m, filter);
      const back = await resampled((x, y) => there(Math.floor(x), Math.floor(y)), invertAffine(m)!, filter);
      errors[filter] = Math.max(...inner.map(([x, y]) => Math.abs(back(x, y) - at(x + 0.5, y + 0.5))));
    }
    expect(errors.bilinear).toBeLessThan(0.05);
    expect(errors.catmullRom).toBeLessThan(errors.bilinear!);
    expect(errors.lanczos3).toBeLessThan(0.01);
  });
});
