import { nodeKernels } from '@/engine/node/host';
import type { Kernels } from '@/kernels';
import { matteFigures } from './matte-report';

const [W, H] = [96, 72];
const GREEN = [0.05, 0.25, 0.07];

/** A soft disc of a straight colour, at a place, with whatever is done to its coverage. */
function keyed(colour: readonly number[], cx = 48, change = (a: number, _x: number, _y: number): number => a) {
  const pixels = new Float32Array(4 * W * H);
  for (let i = 0; i < W * H; i++) {
    const [x, y] = [i % W, Math.floor(i / W)];
    const a = change(Math.min(1, Math.max(0, (24 - Math.hypot(x - cx, y - 36)) / 5 + 0.5)), x, y);
    pixels.set([...colour.map((c) => c * a), a], 4 * i);
  }
  return { pixels, width: W, height: H };
}
const GREY = [0.4, 0.4, 0.4];

describe('matte report', () => {
  let kernels: Kernels;
  beforeAll(async () => {
    kernels = await nodeKernels();
  });

  test('a clean matte has nothing to tell', () => {
    const got = matteFigures(kernels, keyed(GREY), keyed(GREY), GREEN);
    expect(got.holes).toBe(0);
    expect(got.specks).toBe(0);
    expect(got.chatter).toBe(0);
    expect(got.spill).toBeLessThan(0.01);
    expect(got.fringe).toBeLessThan(0.5);
  });

  test('a hole and a speck are counted by their pixels', () => {
    const got = matteFigures(
      kernels,
      keyed(GREY, 48, (a, x, y) => (x >= 46 && x < 49 && y >= 30 && y < 34 ? 0.5 : x < 4 && y < 3 ? 0.8 : a)),
      null,
      GREEN,
    );
    expect(got.holes).toBe(12);
    expect(got.specks).toBe(12);
  });

  test('a matte that moves does not chatter; one whose edge breathes does', () => {
    const still = keyed(GREY);
    const moved = matteFigures(kernels, keyed(GREY, 51), still, GREEN).chatter!;
    const breathing = matteFigures(
      kernels,
      keyed(GREY, 48, (a, x, y) => (a > 0 && a < 1 ? Math.min(1, Math.max(0, a + ((x * 7 + y * 13) % 5) * 0.1 - 0.2)) : a)),
      still,
      GREEN,
    ).chatter!;
    expect(moved).toBeLessThan(0.03);
    expect(breathing).toBeGreaterThan(3 * moved);
  });

  test('green left at the edge is spill, of any screen’s channel, and another edge colour a fringe', () => {
    const tinted = keyed([0.4, 0.5, 0.4]);
    expect(matteFigures(kernels, tinted, null, GREEN).spill).toBeGreaterThan(3);
    expect(matteFigures(kernels, tinted, null, [0.1, 0.1, 0.4]).spill).toBeLessThan(0.01);
    const rimmed = keyed(GREY);
    for (let i = 0; i < W * H; i++) if (rimmed.pixels[4 * i + 3]! < 0.98) rimmed.pixels[4 * i]! *= 2;
    expect(matteFigures(kernels, rimmed, null, GREEN).fringe).toBeGreaterThan(8);
  });
});
