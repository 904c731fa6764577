import { nodeKernels } from '@/engine/node/host';
import type { Kernels } from '@/kernels';
import { random } from '../random';
import type { Aperture, Spans } from './aperture';
import { ROUND, RowSums, apertureBlur, spansOf, spansOfLine, spansOfPicture } from './aperture';
import { guidedFilter, padded } from './guided';

let kernels: Kernels;
beforeAll(async () => {
  kernels = await nodeKernels();
});

/** What a shape is made of: its whole weight, its middle, its extent, and how its weight lies over its distance from the middle. */
function told({ list }: Spans) {
  let [sum, mx, my, left, right, top, bottom] = [0, 0, 0, Infinity, -Infinity, Infinity, -Infinity];
  for (let i = 0; i < list.length; i += 4) {
    const [row, l, r, w] = list.subarray(i, i + 4) as unknown as [number, number, number, number];
    const weight = (r - l) * w;
    sum += weight;
    mx += (weight * (l + r)) / 2;
    my += weight * row;
    [left, right, top, bottom] = [Math.min(left, l), Math.max(right, r), Math.min(top, row), Math.max(bottom, row)];
  }
  return { sum, x: mx / sum, y: my / sum, width: right - left, height: bottom - top + 1 };
}

describe('the shape of a point out of focus', () => {
  const shapes: [string, Aperture, number][] = [
    ['a disc', ROUND, 12],
    ['a small disc', ROUND, 0.7],
    ['six blades', { blades: 6, turn: 0, squeeze: 1 }, 15],
    ['five blades, turned', { blades: 5, turn: 31, squeeze: 1 }, 15],
    ['round blades', { blades: 6, turn: 10, squeeze: 1, roundness: 0.6 }, 15],
    ['anamorphic', { blades: 0, turn: 0, squeeze: 0.5 }, 14],
    ['a bright rim', { blades: 0, turn: 0, squeeze: 1, rim: 0.8 }, 14],
    ['cut by the barrel', { blades: 0, turn: 0, squeeze: 1, cut: [0.5, 0.2] }, 14],
    ['large', ROUND, 130],
  ];

  test.each(shapes)('%s: its weights add up to 1, and none of it lies beyond its reach', (_, aperture, radius) => {
    const spans = spansOf(radius, aperture);
    expect(told(spans).sum).toBeCloseTo(1, 4);
    for (let i = 0; i < spans.list.length; i += 4) {
      expect(Math.abs(spans.list[i]!)).toBeLessThanOrEqual(spans.reach);
      expect(Math.max(Math.abs(spans.list[i + 1]!), Math.abs(spans.list[i + 2]!))).toBeLessThanOrEqual(spans.reach);
    }
  });

  test('a disc is as wide as it is high, and half as wide where it is squeezed so', () => {
    const [disc, flat] = [told(spansOf(20)), told(spansOf(20, { ...ROUND, squeeze: 0.5 }))];
    expect(disc.width).toBeCloseTo(40, 0);
    expect(disc.height).toBeGreaterThanOrEqual(40);
    expect(flat.width).toBeCloseTo(20, 0);
    expect([disc.x, disc.y].map((v) => Math.abs(v) < 1e-4)).toEqual([true, true]);
  });

  test('blades have the area of the disc: as much light on a pixel of either', () => {
    const at = (blades: number): number => spansOf(30, { blades, turn: 0, squeeze: 1 }).list[3]!;
    expect(at(6) / at(0)).toBeCloseTo(1, 2);
    expect(at(5) / at(0)).toBeCloseTo(1, 2);
  });

  test('what the barrel cuts moves the middle of what is left, towards where the other disc lies', () => {
    const cut = told(spansOf(20, { ...ROUND, cut: [0.6, 0] }));
    expect(cut.x).toBeGreaterThan(3);
    expect(cut.width).toBeLessThan(30);
  });

  test('a line lies along its angle, is as long as it says, and goes ahead or to both sides', () => {
    for (const angle of [0, 0.3, Math.PI / 4, 1.2, Math.PI / 2, 2.5]) {
      const [both, ahead] = [told(spansOfLine(20, angle, false)), told(spansOfLine(20, angle, true))];
      expect([both.sum, ahead.sum].map((v) => v.toFixed(4))).toEqual(['1.0000', '1.0000']);
      expect(Math.hypot(both.x, both.y)).toBeLessThan(0.6);
      expect(Math.hypot(ahead.x + 10 * Math.cos(angle), ahead.y + 10 * Math.sin(angle))).toBeLessThan(0.6);
      expect(Math.hypot(Math.max(0, both.width - 1), Math.max(0, both.height - 1))).toBeGreaterThan(17);
    }
    expect(told(spansOfLine(0, 0, false)).sum).toBeCloseTo(1, 4);
  });

  test('a picture of one is turned over, as a lens does', () => {
    const picture = new Float32Array(21 * 21);
    // All of it to the left and at the top.
    for (let y = 0; y < 10; y++) for (let x = 0; x < 10; x++) picture[y * 21 + x] = 1;
    const s = told(spansOfPicture(picture, 21, 21, 10, 1));
    expect(s.sum).toBeCloseTo(1, 4);
    expect([s.x > 2, s.y > 2]).toEqual([true, true]);
    expect(told(spansOfPicture(new Float32Array(9), 3, 3, 4, 1)).sum).toBeCloseTo(1, 4);
  });
});

describe('a picture out of focus', () => {
  const [W, H] = [40, 30];
  const packedOf = (light: (x: number, y: number) => number) => {
    const p = kernels.zeros(4 * W * H + 8);
    for (let i = 0; i < W * H; i++) p.fill(light(i % W, Math.floor(i / W)), 4 * i, 4 * i + 4);
    return p;
  };

  test('a point becomes the shape, and no light is lost', () => {
    const packed = packedOf((x, y) => (x === 20 && y === 15 ? 7 : 0));
    const spans = spansOf(5);
    const { packed: out, w, h } = apertureBlur(kernels, packed, W, H, spans);
    expect([w, h]).toEqual([W + 2 * spans.reach, H + 2 * spans.reach]);
    let sum = 0;
    for (let i = 0; i < w * h; i++) {
      const [x, y] = [(i % w) - spans.reach - 20, Math.floor(i / w) - spans.reach - 15];
      sum += out[4 * i]!;
      if (Math.hypot(x, y) > 6.5) expect(Math.abs(out[4 * i]!)).toBeLessThan(1e-4);
      if (Math.hypot(x, y) < 4) expect(out[4 * i]! / (7 / (Math.PI * 25))).toBeCloseTo(1, 1);
    }
    expect(sum).toBeCloseTo(7, 3);
    [packed, out].forEach((p) => kernels.give(p));
  });

  test('a part of it is what the whole has there, and work that is not wanted any more stops', () => {
    const next = random(9);
    const packed = packedOf(() => next());
    const spans = spansOf(4, { blades: 6, turn: 15, squeeze: 1 });
    const whole = apertureBlur(kernels, packed, W, H, spans);
    const sums = new RowSums(kernels, packed, W, H, spans.reach);
    const part = kernels.zeros(4 * 10 * 8);
    sums.blur(spans.list, 5, 6, 10, 8, part.byteOffset, 10);
    for (let y = 0; y < 8; y++)
      for (let x = 0; x < 10; x++)
        expect(part[4 * (10 * y + x)]).toBeCloseTo(whole.packed[4 * ((y + 6 + spans.reach) * whole.w + x + 5 + spans.reach)]!, 5);
    const stop = (): never => {
      throw new Error('stopped');
    };
    expect(() => sums.blur(spans.list, 0, 0, W, H, part.byteOffset, 10, stop)).toThrow('stopped');
    sums.give();
    [packed, whole.packed, part].forEach((p) => kernels.give(p));
  });
});

describe('the guided filter', () => {
  test('smooths what is rough, and keeps the edge that its guide has', () => {
    const [w, h] = [48, 32];
    const [sw, sh] = [padded(w), padded(h)];
    const next = random(17);
    const plane = (f: (x: number, y: number) => number) => {
      const p = kernels.zeros(sw * sh);
      for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) p[y * sw + x] = f(x, y);
      return p;
    };
    const step = (x: number): number => (x < 24 ? 0.2 : 0.8);
    const guide = [0, 1, 2].map(() => plane((x) => step(x)));
    const rough = plane((x) => step(x) + 0.2 * (next() - 0.5));
    const out = guidedFilter(kernels, guide as never, rough, w, h, 4, 1e-4);
    let worst = 0;
    for (let y = 4; y < h - 4; y++) for (let x = 4; x < w - 4; x++) worst = Math.max(worst, Math.abs(out[y * sw + x]! - step(x)));
    // The mean of 81 looks of noise within ±0.1, and no blur over the edge.
    expect(worst).toBeLessThan(0.04);
    // An even guide tells nothing: the edge goes.
    const even = [0, 1, 2].map(() => plane(() => 0.5));
    const soft = guidedFilter(kernels, even as never, rough, w, h, 4, 1e-4);
    expect(Math.abs(soft[16 * sw + 24]! - soft[16 * sw + 23]!)).toBeLessThan(0.12);
    [...guide, ...even, rough, out, soft].forEach((p) => kernels.give(p));
  });
});
