import fc from 'fast-check';
import { nodeKernels } from '@/engine/node/host';

/** Numbers in 0..1 that look random and are the same every time. */
const noise = (i: number, seed: number): number => Math.abs((Math.sin(i * 12.9898 + seed * 78.233) * 43758.5453) % 1);
const plane = (n: number, seed: number): number[] => Array.from({ length: n }, (_, i) => noise(i, seed));

const near = (got: ArrayLike<number>, wanted: readonly number[], within = 1e-5): void => {
  expect(got.length).toBe(wanted.length);
  const off = wanted.map((v, i) => Math.abs(got[i]! - v)).reduce((a, b) => Math.max(a, b), 0);
  expect(off).toBeLessThanOrEqual(within);
};

const sizes = [
  [1, 1],
  [7, 5],
  [16, 4],
  [13, 8],
  [34, 3],
] as const;

describe('halving and doubling', () => {
  test.each(sizes)('sums of fours, %i × %i', async (w, h) => {
    const k = await nodeKernels();
    const values = plane(w * h, 1);
    const [hw, hh] = [(w + 1) >> 1, (h + 1) >> 1];
    const [from, to] = [k.copy(values), k.take(hw * hh)];
    k.fn.sumFours(from.byteOffset, to.byteOffset, w, h);
    const wanted = Array.from({ length: hw * hh }, () => 0);
    values.forEach((v, i) => (wanted[(Math.floor(i / w) >> 1) * hw + ((i % w) >> 1)]! += v));
    near(to, wanted);
    [from, to].forEach((p) => k.give(p));
  });

  test.each([
    [8, 4],
    [14, 6],
    [22, 2],
  ])('means of blocks of two, %i × %i, are a quarter of the sums', async (w, h) => {
    const k = await nodeKernels();
    const n = (w * h) / 4;
    const [from, sums, means] = [k.copy(plane(w * h, 2)), k.take(n), k.take(n)];
    k.fn.sumFours(from.byteOffset, sums.byteOffset, w, h);
    k.fn.boxReduce(from.byteOffset, means.byteOffset, w / 2, h / 2, w, 2);
    near(
      means,
      [...sums].map((v) => v / 4),
    );
    [from, sums, means].forEach((p) => k.give(p));
  });

  test('a ramp that is doubled goes on as a ramp of half the slope, pixel centres kept', async () => {
    const k = await nodeKernels();
    const [w, h] = [11, 6];
    // One sample more on each side.
    const ramp = Array.from({ length: (w + 2) * (h + 2) }, (_, i) => 2 * ((i % (w + 2)) - 1) - 3 * (Math.floor(i / (w + 2)) - 1));
    const [from, to] = [k.copy(ramp), k.take(4 * w * h)];
    k.fn.doubled(from.byteOffset + 4 * (w + 3), to.byteOffset, w, h, w + 2);
    near(
      to,
      Array.from({ length: 4 * w * h }, (_, i) => 2 * ((i % (2 * w)) / 2 - 0.25) - 3 * (Math.floor(i / (2 * w)) / 2 - 0.25)),
      1e-4,
    );
    [from, to].forEach((p) => k.give(p));
  });

  test('what is open takes the coarse plane bilinearly, what is known keeps its own', async () => {
    const k = await nodeKernels();
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 27 }), fc.integer({ min: 1, max: 7 }), fc.integer({ min: 0, max: 50 }), (w, h, seed) => {
        const [cw, ch] = [(w + 1) >> 1, (h + 1) >> 1];
        const [fine, coarse] = [plane(w * h, seed), plane(cw * ch, seed + 1)];
        const weight = plane(w * h, seed + 2).map((v) => (v > 0.6 ? 1 : v));
        const [f, o, c] = [k.copy(fine), k.copy(weight), k.copy(coarse)];
        k.fn.addOpen(f.byteOffset, o.byteOffset, w, h, c.byteOffset, cw, ch);
        const side = (i: number, most: number): number => Math.min(most - 1, Math.max(0, (i >> 1) + (i & 1 ? 1 : -1)));
        const wanted = fine.map((v, i) => {
          const [x, y] = [i % w, Math.floor(i / w)];
          const at = (u: number, t: number): number => coarse[t * cw + u]!;
          const [x0, y0, x1, y1] = [x >> 1, y >> 1, side(x, cw), side(y, ch)];
          const under = (9 * at(x0, y0) + 3 * at(x1, y0) + 3 * at(x0, y1) + at(x1, y1)) / 16;
          return v + (1 - weight[i]!) * under;
        });
        near(f, wanted);
        [f, o, c].forEach((p) => k.give(p));
      }),
    );
  });
});

describe('parts of planes', () => {
  test('rows are copied out of a wider plane, with empty sides', async () => {
    const k = await nodeKernels();
    const [from, to] = [k.copy(plane(60, 3)), k.take(4 * 9).fill(-1)];
    k.fn.copyRows(from.byteOffset + 4 * 11, 10, to.byteOffset, 5, 4, 1, 3);
    const row = (y: number): number[] => [0, ...from.subarray(11 + 10 * y, 16 + 10 * y), 0, 0, 0];
    expect([...to]).toEqual([0, 1, 2, 3].flatMap(row));
    [from, to].forEach((p) => k.give(p));
  });

  test('one pixel that differs, wherever it is in a part, is seen, and none beside it', async () => {
    const k = await nodeKernels();
    const p = k.take(12 * 8);
    for (let y = 0; y < 8; y++) {
      for (let x = 0; x < 12; x++) {
        p.fill(0)[y * 12 + x] = 0.5;
        const inside = x >= 2 && x < 9 && y >= 1 && y < 5;
        const first = p.byteOffset + 4 * (12 + 2);
        expect(Boolean(k.fn.allEqualIn(first, 12, 7, 4, 0))).toBe(!inside);
        expect(Boolean(k.fn.anyBetween(first, 7, 4, 12, 0.4, 0.6))).toBe(inside);
        expect(Boolean(k.fn.anyBetween(first, 7, 4, 12, 0.5, 0.6))).toBe(false);
      }
    }
    k.give(p);
  });

  test.each([1, 6, 16, 45])('a quartic along a row of %i', async (w) => {
    const k = await nodeKernels();
    const row = k.take(w);
    k.fn.quarticRow(row.byteOffset, w, 0.3, -0.2, 0.5, 0.1, -0.4);
    near(
      row,
      Array.from({ length: w }, (_, i) => {
        const u = (2 * i + 1) / w - 1;
        return 0.3 - 0.2 * u + 0.5 * u ** 2 + 0.1 * u ** 3 - 0.4 * u ** 4;
      }),
    );
    k.give(row);
  });
});

describe('colour and coverage', () => {
  const n = 37;
  const alpha = plane(n, 4).map((v, i) => (i % 5 === 0 ? 0 : i % 7 === 0 ? 1 : v));
  const colour = plane(n, 5).map((v, i) => v * alpha[i]!);

  test('colour that follows another alpha is divided by the old and multiplied by the new', async () => {
    const k = await nodeKernels();
    const next = plane(n, 6);
    const [c, a, b, to] = [k.copy(colour), k.copy(alpha), k.copy(next), k.take(n)];
    k.fn.carryAlpha(c.byteOffset, a.byteOffset, b.byteOffset, to.byteOffset, n);
    near(
      to,
      colour.map((v, i) => (alpha[i]! > 0 ? v / alpha[i]! : v) * next[i]!),
    );
    [c, a, b, to].forEach((p) => k.give(p));
  });

  test('a line is held between two values', async () => {
    const k = await nodeKernels();
    const x = k.copy(plane(n, 7));
    const wanted = [...x].map((v) => Math.min(0.8, Math.max(0.1, 2 * v - 0.5)));
    k.fn.affineClamped(x.byteOffset, x.byteOffset, n, 2, -0.5, 0.1, 0.8);
    near(x, wanted);
    k.give(x);
  });

  test('only solid pixels give their colour, and only partial ones take it', async () => {
    const k = await nodeKernels();
    const [w, h, stride] = [9, 3, 12];
    const solid = 0.7;
    const [c, a] = [k.copy(colour), k.copy(alpha)];
    const given = k.take(w * h);
    k.fn.solidOnly(c.byteOffset, a.byteOffset, stride, given.byteOffset, w, h, solid);
    const at = (i: number): number => Math.floor(i / w) * stride + (i % w);
    near(
      given,
      Array.from({ length: w * h }, (_, i) => (alpha[at(i)]! >= solid ? colour[at(i)]! / alpha[at(i)]! : 0)),
    );
    const [carried, known] = [k.copy(plane(w * h, 8)), k.copy(plane(w * h, 9).map((v) => (v < 0.3 ? 0 : v)))];
    const to = k.copy(colour);
    k.fn.takeCarried(c.byteOffset, a.byteOffset, stride, carried.byteOffset, known.byteOffset, w, to.byteOffset, stride, w, h, solid, 0.4);
    const wanted = [...colour];
    for (let i = 0; i < w * h; i++) {
      const [was, cover] = [colour[at(i)]!, alpha[at(i)]!];
      if (cover <= 0 || cover >= solid || known[i]! <= 0) continue;
      const share = Math.min(1, 4 * known[i]!) * (1 - 0.4 * cover);
      wanted[at(i)] = was + share * ((cover * carried[i]!) / known[i]! - was);
    }
    near(to, wanted);
    [c, a, given, carried, known, to].forEach((p) => k.give(p));
  });
});
