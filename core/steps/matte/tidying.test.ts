import fc from 'fast-check';
import { atEdge, piecesOf, runsOf } from '../../filters/components';
import { nodeKernels } from '@/engine/node/host';
import { pushPull } from '../../filters/push-pull';
import type { TestPicture } from '../../testing/evaluate';
import { evaluate, flat } from '../../testing/evaluate';

const disc = (x: number, y: number, cx: number, cy: number, r: number): number => +(Math.hypot(x + 0.5 - cx, y + 0.5 - cy) < r);
const matte = (width: number, height: number, A: (x: number, y: number) => number): TestPicture => ({
  width,
  height,
  fill: { R: 0, G: 0, B: 0, A },
});

describe('pieces', () => {
  test('the same pieces as by flooding, whatever the picture', () => {
    fc.assert(
      fc.property(fc.array(fc.boolean(), { minLength: 63, maxLength: 63 }), (bits) => {
        const [w, h] = [9, 7];
        const set = Uint8Array.from(bits, Number);
        const pieces = piecesOf(runsOf(set, w, h), w);
        const { sizes } = pieces;
        const labels = new Int32Array(w * h);
        pieces.piece.forEach((of, run) => labels.fill(of, pieces.begins[run], pieces.ends[run]));
        const flood = new Int32Array(w * h);
        let count = 0;
        for (let i = 0; i < w * h; i++) {
          if (!set[i] || flood[i]) continue;
          const open = [i];
          flood[i] = ++count;
          while (open.length) {
            const at = open.pop()!;
            for (let v = -1; v <= 1; v++) {
              for (let u = -1; u <= 1; u++) {
                const [x, y] = [(at % w) + u, Math.floor(at / w) + v];
                if (x < 0 || y < 0 || x >= w || y >= h || !set[y * w + x] || flood[y * w + x]) continue;
                flood[y * w + x] = count;
                open.push(y * w + x);
              }
            }
          }
        }
        expect(sizes.length - 1).toBe(count);
        expect(sizes.reduce((a, b) => a + b, 0)).toBe(bits.filter(Boolean).length);
        const pairs = new Set(Array.from(labels, (l, i) => `${l} ${flood[i]}`));
        expect(pairs.size).toBe(count + +bits.includes(false));
        const edge = new Set(Array.from(labels).filter((_, i) => i < w || i >= w * (h - 1) || i % w === 0 || i % w === w - 1));
        atEdge(pieces, w, h).forEach((is, k) => k > 0 && expect(Boolean(is)).toBe(edge.has(k)));
        expect(pieces.largest).toBe(sizes.indexOf(Math.max(...sizes)));
      }),
    );
  });
});

describe('push and pull', () => {
  test.each([
    [11, 7],
    [24, 9],
    [5, 1],
    [1, 6],
  ])('%s × %s: what is known stays, what is not becomes a mean of what is, and a constant stays constant', async (w, h) => {
    const kernels = await nodeKernels();
    const before = kernels.used;
    fc.assert(
      fc.property(fc.array(fc.boolean(), { minLength: w * h, maxLength: w * h }), (bits) => {
        if (!bits.includes(true)) return;
        const weight = kernels.copy(bits.map(Number));
        const ramp = kernels.copy(bits.map((b, i) => +b * (1 + (i % w))));
        const flatOne = kernels.copy(weight.map((v) => 0.25 * v));
        const given = ramp.slice();
        pushPull(kernels, [ramp, flatOne], weight, w, h);
        const near = (got: Float32Array, low: number, high = low): boolean => got.every((v) => v >= low - 1e-4 && v <= high + 1e-4);
        expect([near(weight, 1), near(flatOne, 0.25), near(ramp, 1, w)]).toEqual([true, true, true]);
        expect(bits.every((b, i) => !b || ramp[i] === given[i])).toBe(true);
        [weight, ramp, flatOne].forEach((p) => kernels.give(p));
      }),
    );
    expect(kernels.used).toBe(before);
  });

  test('with few levels it reaches only so far', async () => {
    const kernels = await nodeKernels();
    const [weight, plane] = [kernels.zeros(64 * 64), kernels.zeros(64 * 64)];
    weight[32 * 64 + 32] = plane[32 * 64 + 32] = 1;
    pushPull(kernels, [plane], weight, 64, 64, 2);
    expect(weight[32 * 64 + 34]).toBeGreaterThan(0);
    expect(weight[32 * 64 + 48]).toBe(0);
    [weight, plane].forEach((p) => kernels.give(p));
  });
});

describe('tidy matte', () => {
  test('a speck goes, a hole is filled, and what is larger stays as it was', async () => {
    const A = (x: number, y: number): number =>
      disc(x, y, 30, 30, 20) * (1 - disc(x, y, 24, 30, 2)) * (1 - disc(x, y, 38, 30, 6)) + disc(x, y, 58, 8, 2);
    const got = await evaluate({ main: matte(64, 64, A) }, [{ type: 'tidyMatte', params: { specks: 6, holes: 6 } }]);
    expect(got.at('A', 58, 8)).toBe(0);
    expect(got.at('A', 24, 30)).toBe(1);
    expect(got.at('A', 38, 30)).toBe(0);
    expect(got.at('A', 30, 14)).toBe(1);
  });

  test('the largest piece alone is kept, with its soft edge', async () => {
    const A = (x: number, y: number): number =>
      Math.max(Math.min(1, Math.max(0, (16 - Math.hypot(x - 20, y - 30)) / 6)), disc(x, y, 54, 30, 8));
    const got = await evaluate({ main: matte(64, 64, A) }, [{ type: 'tidyMatte', params: { keep: 'largest', specks: 0, holes: 0 } }]);
    expect(got.at('A', 54, 30)).toBe(0);
    expect(got.at('A', 20, 30)).toBe(1);
    expect(got.at('A', 33, 30)).toBeCloseTo(0.5, 6);
  });

  test('specks without number are taken out of a large picture', async () => {
    const A = (x: number, y: number): number => +(x % 2 === 0 && y % 2 === 0) + disc(x, y, 500, 500, 100);
    const got = await evaluate({ main: matte(1000, 1000, (x, y) => Math.min(1, A(x, y))) }, [
      { type: 'tidyMatte', params: { keep: 'largest', specks: 0, holes: 0, follow: false } },
    ]);
    expect(got.at('A', 10, 10)).toBe(0);
    expect(got.at('A', 500, 500)).toBe(1);
  });

  test('solid pixels reach into the rim beside them, not far into thin cloth, and not into what is thinner', async () => {
    // Solid up to 20, a rim of 0.7 to 24, cloth of 0.6 to 50, thin air of 0.3 after it.
    const A = (x: number): number => (x < 20 ? 1 : x < 24 ? 0.7 : x < 50 ? 0.6 : 0.3);
    const main = { width: 64, height: 24, fill: { R: (x: number) => 0.5 * A(x), G: 0, B: 0, A } };
    const reach = (params: Record<string, number>) =>
      evaluate({ main }, [{ type: 'tidyMatte', params: { specks: 0, holes: 0, ...params } }]);
    const rim = await reach({ reach: 30, from: 0.65 });
    expect(rim.at('A', 23, 12)).toBe(1);
    expect(rim.at('A', 24, 12)).toBeCloseTo(0.6, 6);
    // Colour goes along: what is solid now has its whole light.
    expect(rim.at('R', 22, 12)).toBeCloseTo(0.5, 6);
    const near = await reach({ reach: 10, from: 0.5 });
    expect(near.at('A', 29, 12)).toBe(1);
    expect(near.at('A', 30, 12)).toBeCloseTo(0.6, 6);
    const far = await reach({ reach: 60, from: 0.5 });
    expect(far.at('A', 49, 12)).toBe(1);
    expect(far.at('A', 50, 12)).toBeCloseTo(0.3, 6);
  });

  test('a pinhole in thin cloth takes the cloth’s coverage, a wide gap and one at the frame’s edge stay open', async () => {
    const gap = (x: number, y: number): boolean =>
      (x === 20 && y === 20) || (x === 21 && y === 21) || disc(x, y, 44, 44, 6) > 0 || (x === 0 && y === 30);
    const got = await evaluate({ main: matte(64, 64, (x, y) => (gap(x, y) ? 0 : 0.35)) }, [
      { type: 'tidyMatte', params: { specks: 0, holes: 0, pinholes: 4, follow: false } },
    ]);
    expect(got.at('A', 20, 20)).toBeCloseTo(0.35, 6);
    expect(got.at('A', 21, 21)).toBeCloseTo(0.35, 6);
    expect(got.at('A', 44, 44)).toBe(0);
    expect(got.at('A', 0, 30)).toBe(0);
  });

  test('a rim without anything solid beside it stays as it is', async () => {
    const got = await evaluate({ main: matte(16, 16, () => 0.9) }, [
      { type: 'tidyMatte', params: { reach: 8, from: 0.5, specks: 0, holes: 0 } },
    ]);
    expect(got.at('A', 8, 8)).toBeCloseTo(0.9, 6);
  });

  test('a gap that is open to the frame’s edge is no hole', async () => {
    const got = await evaluate({ main: matte(32, 32, (x) => +(x > 3)) }, [{ type: 'tidyMatte', params: { holes: 60, specks: 0 } }]);
    expect(got.at('A', 1, 16)).toBe(0);
  });
});

describe('soften matte', () => {
  const edge = matte(80, 9, (x) => +(x >= 40));
  test.each([
    ['inward', [0, 0, 1]],
    ['outward', [0, 1, 1]],
    ['both', [0, 0.5, 1]],
  ] as const)('%s', async (direction, [outside, , inside]) => {
    const got = await evaluate({ main: edge }, [{ type: 'softenMatte', params: { size: 4, direction } }]);
    expect(got.at('A', 20, 4)).toBeCloseTo(outside, 3);
    expect(got.at('A', 60, 4)).toBeCloseTo(inside, 3);
    const [before, after] = [got.at('A', 38, 4), got.at('A', 41, 4)];
    if (direction === 'inward') expect(before).toBe(0);
    if (direction === 'outward') expect(after).toBe(1);
    if (direction !== 'outward') expect(after).toBeLessThan(1);
    if (direction !== 'inward') expect(before).toBeGreaterThan(0);
    for (let x = 1; x < 80; x++) expect(got.at('A', x, 4)).toBeGreaterThanOrEqual(got.at('A', x - 1, 4) - 1e-6);
  });
});

describe('screen plate', () => {
  const GREEN = [0.05, 0.25, 0.07] as const;
  /** A screen twice as bright at the right as at the left, with a grey disc before it. */
  const light = (x: number): number => 0.6 + (0.6 * x) / 128;
  const plate: TestPicture = {
    width: 128,
    height: 96,
    fill: Object.fromEntries(
      ['R', 'G', 'B'].map((c, k) => [c, (x: number, y: number) => (disc(x, y, 64, 48, 20) ? 0.3 : GREEN[k]! * light(x))]),
    ),
  };
  test('the subject is gone, the light is followed, and nothing is left open', async () => {
    const got = await evaluate({ main: plate }, [{ type: 'screenPlate', params: { screenColour: [...GREEN] } }]);
    for (const [x, y] of [
      [4, 4],
      [20, 80],
      [110, 20],
      [64, 48],
      [50, 40],
      [80, 60],
    ] as const) {
      expect(Math.abs(got.at('G', x, y) / (GREEN[1] * light(x)) - 1)).toBeLessThan(0.06);
      expect(got.at('A', x, y)).toBe(1);
    }
  });

  test('keyed against its own plate the screen is empty, bright or dark, and the subject solid', async () => {
    const made = await evaluate({ main: plate }, [{ type: 'screenPlate', params: { screenColour: [...GREEN] } }]);
    const asPicture = {
      width: 128,
      height: 96,
      fill: Object.fromEntries(['R', 'G', 'B'].map((c) => [c, (x: number, y: number) => made.at(c, x, y)])),
    };
    const got = await evaluate({ main: plate, screenPlate: asPicture }, [
      { type: 'screenKey', params: { screenColour: [...GREEN], low: 0.05 }, feeds: ['screenPlate'] },
    ]);
    expect(got.at('A', 6, 50)).toBe(0);
    expect(got.at('A', 120, 50)).toBe(0);
    expect(got.at('A', 64, 48)).toBe(1);
  });

  test('worked out at half its size where it is smoothed anyhow, it is the same within a hundredth', async () => {
    // Smoothness just under and just over where half the size is enough.
    const [fine, coarse] = await Promise.all(
      [2.999, 3].map((smooth) => evaluate({ main: plate }, [{ type: 'screenPlate', params: { screenColour: [...GREEN], smooth } }])),
    );
    for (let y = 0; y < 96; y += 5) {
      for (let x = 0; x < 128; x += 3) {
        // Where the subject was the two are filled by pyramids that lie differently.
        const tolerance = disc(x, y, 64, 48, 34) ? 0.03 : 0.006;
        expect(Math.abs(coarse!.at('G', x, y) / fine!.at('G', x, y) - 1)).toBeLessThan(tolerance);
      }
    }
  });

  test('a subject that is told is left out, whatever its colour', async () => {
    const even = flat(64, 64, ...GREEN);
    const leaf = { ...even, fill: { ...even.fill, G: (x: number, y: number) => (disc(x, y, 32, 32, 8) ? 0.4 : GREEN[1]) } };
    const got = await evaluate({ main: leaf, subject: matte(64, 64, (x, y) => disc(x, y, 32, 32, 9)) }, [
      { type: 'screenPlate', params: { screenColour: [...GREEN], away: 0, smooth: 0 }, feeds: ['subject'] },
    ]);
    expect(got.at('G', 32, 32)).toBeCloseTo(GREEN[1], 3);
  });
});

describe('extend colour', () => {
  test('the colour of solid pixels goes under the edge, and the matte stays', async () => {
    // Red, solid up to 20, falls off to 30; the partial pixels carry green.
    const a = (x: number): number => Math.min(1, Math.max(0, (30 - x) / 10));
    const main = {
      width: 48,
      height: 8,
      fill: { R: (x: number) => (x <= 20 ? 0.5 : 0), G: (x: number) => (x > 20 ? 0.4 * a(x) : 0), B: 0, A: a },
    };
    const got = await evaluate({ main }, [{ type: 'extendColour', params: { distance: 16, solid: 1 } }]);
    for (let x = 21; x < 30; x++) {
      expect(got.at('A', x, 4)).toBeCloseTo(a(x), 6);
      expect(got.at('R', x, 4)).toBeCloseTo(0.5 * a(x), 2);
      expect(got.at('G', x, 4)).toBeLessThan(0.02);
    }
    expect(got.at('R', 10, 4)).toBe(0.5);
  });

  test('blocks leave no seams: a long edge takes the same colour all along', async () => {
    const a = (x: number): number => Math.min(1, Math.max(0, (100.5 - x) / 6));
    const main = {
      width: 200,
      height: 150,
      fill: { R: (x: number) => 0.5 * a(x), G: 0, B: (x: number) => (a(x) < 1 ? 0.3 * a(x) : 0), A: a },
    };
    const got = await evaluate({ main }, [{ type: 'extendColour', params: { distance: 8, solid: 1 } }]);
    for (let x = 96; x < 100; x++) for (let y = 16; y < 134; y++) expect(got.at('B', x, y)).toBeCloseTo(got.at('B', x, 70), 3);
  });
});

describe('luma and difference keys', () => {
  test('brightness between the ends is kept, with soft ends', async () => {
    const ramp = { width: 101, height: 1, fill: Object.fromEntries(['R', 'G', 'B'].map((c) => [c, (x: number) => x / 100])) };
    const got = await evaluate({ main: ramp }, [
      { type: 'lumaKey', params: { low: 0.4, lowSoft: 0.2, high: 0.7, highSoft: 0.2, output: 'matte' } },
    ]);
    [
      [10, 0],
      [30, 0.5],
      [50, 1],
      [80, 0.5],
      [95, 0],
    ].forEach(([x, wanted]) => expect(got.at('A', x!, 0)).toBeCloseTo(wanted!, 4));
  });

  test('an element on black keeps its light, and a solid one laid over grey covers it', async () => {
    const got = await evaluate({ main: flat(4, 4, 0.3, 0.2, 0.1) }, [
      { type: 'lumaKey', params: { of: 'most', low: 1, lowSoft: 1, output: 'onBlack' } },
    ]);
    expect(got.at('A', 1, 1)).toBeCloseTo(0.3, 6);
    expect(got.at('R', 1, 1)).toBeCloseTo(0.3, 6);
  });

  test('noise is no difference, and a difference is', async () => {
    const clean = flat(32, 32, 0.2);
    const noisy = {
      width: 32,
      height: 32,
      fill: Object.fromEntries(
        ['R', 'G', 'B'].map((c, k) => [c, (x: number, y: number) => 0.2 + (x > 15 ? 0.15 : 0) + 0.008 * Math.sin(x * 12.9 + y * 78.2 + k)]),
      ),
    };
    const got = await evaluate({ main: noisy, clean }, [{ type: 'differenceKey', feeds: ['clean'] }]);
    expect(Math.max(...Array.from({ length: 12 }, (_, x) => got.at('A', x, 9)))).toBe(0);
    expect(Math.min(...Array.from({ length: 12 }, (_, x) => got.at('A', x + 18, 9)))).toBe(1);
  });
});

describe('levels', () => {
  test('black and white go where they are told, with a gamma between', async () => {
    const got = await evaluate({ main: flat(2, 2, 0.1, 0.5, 0.9, 0.5) }, [
      { type: 'levels', params: { blackIn: 0.1, whiteIn: 0.9, blackOut: 0.2, whiteOut: 0.6, gamma: 2, unpremultiply: false } },
    ]);
    [0.2, 0.2 + 0.4 * Math.sqrt(0.5), 0.6].forEach((v, i) => expect(got.at(['R', 'G', 'B'][i]!, 0, 0)).toBeCloseTo(v, 5));
  });

  test('a matte is stretched and limited', async () => {
    const got = await evaluate({ main: flat(2, 2, 0, 0, 0, 0.9) }, [
      { type: 'levels', params: { channels: 'alpha', blackIn: 0.1, whiteIn: 0.8, clampLow: true, clampHigh: true } },
    ]);
    expect(got.at('A', 0, 0)).toBe(1);
  });
});
