import { rect } from './geometry/rect';
import { COLUMNS, LEVELS, SIDE, alphaCounts, boxStatistics, chromaOf, findTrouble, histogramOf, vectorscopeOf, waveformOf } from './scopes';

/** A picture of w × h made of a function of the place. */
const picture = (w: number, h: number, at: (x: number, y: number) => number[], x0 = 0, y0 = 0) => ({
  region: rect(x0, y0, x0 + w, y0 + h),
  pixels: Float32Array.from(Array.from({ length: w * h }, (_, i) => at(x0 + (i % w), y0 + Math.floor(i / w))).flat()),
});
const even = (v: number): number => v;

describe('scopes', () => {
  test('a ramp from black to white fills the histogram evenly, and what lies outside is counted', () => {
    const ramp = picture(512, 2, (x) => [(x + 0.5) / 512, (x + 0.5) / 512, (x + 0.5) / 512, 1]);
    const h = histogramOf(ramp, even);
    h.counts.forEach((c) => expect([...new Set(c)]).toEqual([4]));
    const out = histogramOf(
      picture(2, 2, (x, y) => [x ? 2 : -1, y ? NaN : 0.5, 0.25, 1]),
      even,
    );
    expect([out.below[0], out.above[0], out.notFinite, out.pixels]).toEqual([1, 1, 2, 4]);
    expect(out.counts[2][LEVELS / 4]).toBe(2);
  });

  test('a box limits what is counted', () => {
    const halves = picture(10, 10, (x) => (x < 5 ? [0, 0, 0, 1] : [1, 1, 1, 1]), -5, -5);
    expect(histogramOf(halves, even, rect(-5, -5, -3, 5)).counts[3][0]).toBe(20);
    expect(histogramOf(halves, even, rect(40, 40, 50, 50)).pixels).toBe(0);
  });

  test('the waveform stands where the picture stands, the parade has a trace a channel', () => {
    const p = picture(COLUMNS, 3, (x) => [x / COLUMNS, 0.5, 0, 1]);
    const [r, g, b] = waveformOf(p, even, true);
    for (const x of [0, 17, 255]) {
      expect(r![x * COLUMNS + x]).toBe(3);
      expect(g![(LEVELS / 2) * COLUMNS + x]).toBe(3);
      expect(b![x]).toBe(3);
    }
    const [luma] = waveformOf(p, even, false);
    expect(luma!.reduce((s, v) => s + v, 0)).toBe(3 * COLUMNS);
  });

  test.each([1, 3, 20, 255, 257, 900])('the waveform of a box of %d pixels across has no gaps and counts every pixel', (w) => {
    const [trace] = waveformOf(
      picture(1000, 1, () => [0.5, 0.5, 0.5, 1]),
      even,
      false,
      rect(50, 0, 50 + w, 1),
    );
    const row = [...trace!.subarray((LEVELS / 2) * COLUMNS, (LEVELS / 2 + 1) * COLUMNS)];
    expect(Math.min(...row)).toBeGreaterThanOrEqual(1);
    expect(row.reduce((s, v) => s + v, 0)).toBe(Math.max(w, COLUMNS));
  });

  test('grey is the middle of the vectorscope, and the bars lie at their standard places', () => {
    const grey = vectorscopeOf(
      picture(4, 4, () => [0.3, 0.3, 0.3, 1]),
      even,
    );
    expect(grey[(SIDE / 2) * SIDE + SIDE / 2]).toBe(16);
    // BT.709: red has Cr = ½ and Cb = −0.2126 / 1.8556, blue the mirrored pair.
    expect(chromaOf(1, 0, 0)[0]).toBeCloseTo(-0.1146, 4);
    expect(chromaOf(1, 0, 0)[1]).toBeCloseTo(0.5, 6);
    expect(chromaOf(0, 0, 1)).toEqual([expect.closeTo(0.5, 6), expect.closeTo(-0.0458, 4)]);
  });

  test('a box’s least, greatest and mean', () => {
    const p = picture(8, 8, (x, y) => [x, y, 2, x === y ? 1 : 0]);
    expect(boxStatistics(p, rect(2, 3, 4, 5))).toEqual({ min: [2, 3, 2, 0], max: [3, 4, 2, 1], mean: [2.5, 3.5, 2, 0.25], pixels: 4 });
    expect(boxStatistics(p, rect(20, 20, 30, 30))).toBeNull();
  });

  test('trouble is counted with the place where it lies', () => {
    const p = picture(20, 10, (x, y) => {
      if (x === 3 && y === 4) return [NaN, 0, 0, 1];
      if (x >= 10 && x < 12 && y === 2) return [-0.5, 0, 0, 1];
      if (y === 9) return [0.1, 0, 0, 0];
      return [0, 0, 0, x === 19 ? 1.5 : 1];
    });
    const found = findTrouble(p);
    expect(found.notFinite).toEqual({ count: 1, around: rect(3, 4, 4, 5) });
    expect(found.negative).toEqual({ count: 2, around: rect(10, 2, 12, 3) });
    expect(found.lightWithoutAlpha).toEqual({ count: 20, around: rect(0, 9, 20, 10) });
    expect([found.alphaAbove.count, found.alphaBelow.count]).toEqual([9, 0]);
  });

  test('alpha is told apart into five', () => {
    const p = picture(5, 1, (x) => [0, 0, 0, [-1, 0, 0.5, 1, 2][x]!]);
    expect(alphaCounts(p)).toEqual({ below: 1, empty: 1, partial: 1, solid: 1, above: 1 });
  });
});
