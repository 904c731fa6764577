import fc from 'fast-check';
import { nodeKernels } from '@/engine/node/host';
import type { Rect } from '../geometry/rect';
import { area, grow, rect } from '../geometry/rect';
import { copyShared } from './copy';
import { fillMissing } from './missing';
import { growGrey, morphologyPad, offsetByDistance } from './morphology';

const FRAME = rect(0, 0, 26, 19);
const W = 26;

/** Numbers in 0..1 that look random and are the same every time. */
const values = (seed: number): number[] =>
  Array.from({ length: area(FRAME) }, (_, i) => Math.abs((Math.sin(i * 12.9898 + seed * 78.233) * 43758.5453) % 1));

/** A plane over the frame, grown or shrunk over a part of it. */
async function grown(of: readonly number[], radius: number, want: Rect = FRAME): Promise<number[]> {
  const k = await nodeKernels();
  const plane = k.copy(of);
  const near = grow(want, morphologyPad(radius));
  const around = k.take(area(near)).fill(0);
  copyShared(k, plane, FRAME, around, near);
  const made = growGrey(k, around, near, want, radius, FRAME);
  const got = [...made];
  [plane, around, made].forEach((p) => k.give(p));
  return got;
}

/** The greatest value within a whole radius, pixel by pixel, inside the frame. */
const naive = (of: readonly number[], radius: number): number[] =>
  of.map((_, i) => {
    const [x, y] = [i % W, Math.floor(i / W)];
    let most = -Infinity;
    for (let v = -radius; v <= radius; v++) {
      for (let u = -radius; u <= radius; u++) {
        if (u * u + v * v > radius * radius || x + u < 0 || y + v < 0 || x + u >= FRAME.x1 || y + v >= FRAME.y1) continue;
        most = Math.max(most, of[(y + v) * W + x + u]!);
      }
    }
    return most;
  });
const near = (got: readonly number[], wanted: readonly number[]): void => {
  expect(got).toHaveLength(wanted.length);
  got.forEach((v, i) => expect(Math.abs(v - wanted[i]!)).toBeLessThan(1e-6));
};

describe('growing and shrinking soft mattes', () => {
  test.each([1, 2, 5])('by %i px it is the greatest value in a disc, and shrinking the least', async (radius) => {
    const of = values(radius);
    near(await grown(of, radius), naive(of, radius));
    near(
      await grown(of, -radius),
      naive(
        of.map((v) => -v),
        radius,
      ).map((v) => -v),
    );
  });

  test('parts of a pixel lie between the two whole radii', async () => {
    const of = values(4);
    const [low, high] = [naive(of, 2), naive(of, 3)];
    near(
      await grown(of, 2.25),
      low.map((v, i) => 0.75 * v + 0.25 * high[i]!),
    );
  });

  test('a part of the frame is the same as cut out of the whole', async () => {
    const of = values(6);
    const part = rect(5, 3, 19, 15);
    const whole = await grown(of, 3);
    const cut = await grown(of, 3, part);
    for (let y = part.y0; y < part.y1; y++)
      for (let x = part.x0; x < part.x1; x++) expect(cut[(y - part.y0) * 14 + x - part.x0]).toBeCloseTo(whole[y * W + x]!, 6);
  });

  test('growing never takes away, and shrinking after it gives back at least what was there', async () => {
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 0, max: 50 }), fc.constantFrom(1, 1.5, 3), async (seed, radius) => {
        const of = values(seed);
        const more = await grown(of, radius);
        more.forEach((v, i) => expect(v).toBeGreaterThanOrEqual(of[i]! - 1e-6));
        if (Number.isInteger(radius)) (await grown(more, -radius)).forEach((v, i) => expect(v).toBeGreaterThanOrEqual(of[i]! - 1e-6));
      }),
      { numRuns: 15 },
    );
  });

  test('a matte that ends at the frame’s edge is not eaten from there', async () => {
    expect((await grown(Array(area(FRAME)).fill(1), -4)).every((v) => v === 1)).toBe(true);
  });
});

describe('hard mattes by exact distance', () => {
  test.each([-3.3, -0.5, 0.5, 4.2])('a disc moved by %f px is a disc with that much more radius', async (radius) => {
    const k = await nodeKernels();
    const all = rect(0, 0, 64, 64);
    const disc = (r: number) => (x: number, y: number) => Math.min(1, Math.max(0, r + 0.5 - Math.hypot(x + 0.5 - 32, y + 0.5 - 32)));
    const plane = k.copy(Array.from({ length: area(all) }, (_, i) => disc(14)(i % 64, Math.floor(i / 64))));
    const made = offsetByDistance(k, plane, all, radius, all);
    // Distances are to crossings between pixels: a single pixel may be off by a little, the disc as a whole is not.
    made.forEach((v, i) => expect(Math.abs(v - disc(14 + radius)(i % 64, Math.floor(i / 64)))).toBeLessThan(0.2));
    const sum = made.reduce((s, v) => s + v, 0);
    expect(Math.abs(Math.sqrt(sum / Math.PI) - 14 - radius)).toBeLessThan(0.1);
    [plane, made].forEach((p) => k.give(p));
  });
});

describe('missing pixels', () => {
  const square = rect(0, 0, 5, 5);
  test('one takes the mean of its neighbours, and what is known stays', () => {
    const from = Float32Array.from({ length: 25 }, (_, i) => i);
    from[12] = NaN;
    const to = new Float32Array(25);
    fillMissing(from, square, to);
    expect(to[12]).toBe(12);
    from.forEach((v, i) => i !== 12 && expect(to[i]).toBe(v));
  });

  test('a hole is filled from its rim inward, without a value that was not there', () => {
    const from = new Float32Array(25).fill(NaN);
    for (let i = 0; i < 5; i++) from[i] = from[20 + i] = from[5 * i] = from[5 * i + 4] = 2 + (i % 2);
    const to = new Float32Array(25);
    fillMissing(from, square, to);
    for (const v of to) {
      expect(v).toBeGreaterThanOrEqual(2);
      expect(v).toBeLessThanOrEqual(3);
    }
  });

  test('infinity counts as missing; where nothing is known there is nothing', () => {
    const to = new Float32Array(25);
    fillMissing(new Float32Array(25).fill(Infinity), square, to);
    expect(to.every((v) => v === 0)).toBe(true);
  });
});
