import fc from 'fast-check';
import type { Quad } from '../../geometry/homography';
import { applyHomography, homographyBetween } from '../../geometry/homography';
import { evaluate, flat } from '../../testing/evaluate';

const SQUARE: Quad = [
  [0, 0],
  [64, 0],
  [64, 48],
  [0, 48],
];
/** Soft, so that resampling it loses little. */
const soft = {
  width: 64,
  height: 48,
  fill: Object.fromEntries(['R', 'G', 'B'].map((c, k) => [c, (x: number, y: number) => 0.5 + 0.3 * Math.sin(x / 7 + k) * Math.cos(y / 6)])),
};

describe('homography', () => {
  test('takes four points to four others, and back', () => {
    const near = fc.double({ min: -12, max: 12, noNaN: true });
    fc.assert(
      fc.property(fc.array(near, { minLength: 8, maxLength: 8 }), (d) => {
        const to = SQUARE.map(([x, y], i) => [x + d[2 * i]!, y + d[2 * i + 1]!]) as unknown as Quad;
        const there = homographyBetween(SQUARE, to);
        const back = homographyBetween(to, SQUARE);
        expect(there).not.toBeNull();
        SQUARE.forEach(([x, y], i) => {
          const [u, v] = applyHomography(there!, x, y);
          expect(Math.hypot(u - to[i]![0], v - to[i]![1])).toBeLessThan(1e-6);
        });
        const [u, v] = applyHomography(there!, 20, 30);
        const [x, y] = applyHomography(back!, u, v);
        expect(Math.hypot(x - 20, y - 30)).toBeLessThan(1e-6);
      }),
    );
  });

  test('straight lines stay straight', () => {
    const m = homographyBetween(SQUARE, [
      [5, 3],
      [60, 10],
      [50, 44],
      [-4, 40],
    ])!;
    const [a, b, c] = [10, 25, 52].map((x) => applyHomography(m, x, 7 + 0.5 * x));
    expect((b![0] - a![0]) * (c![1] - a![1]) - (b![1] - a![1]) * (c![0] - a![0])).toBeCloseTo(0, 6);
  });

  test.each([
    [
      [
        [0, 0],
        [10, 0],
        [20, 0],
        [0, 10],
      ],
    ],
    [
      [
        [0, 0],
        [10, 10],
        [10, 0],
        [0, 10],
      ],
    ],
  ] as unknown as [Quad][])('corners on a line or crossed have no map: %j', (q) => {
    expect(homographyBetween(SQUARE, q)).toBeNull();
  });
});

describe('corner pin', () => {
  const pins = { topLeft: [6, 4], topRight: [-3, 7], bottomRight: [-8, -2], bottomLeft: [2, -6] };

  test('all corners moved alike are a shift', async () => {
    const by = [3, -2];
    const got = await evaluate({ main: soft }, [
      { type: 'cornerPin', params: { topLeft: by, topRight: by, bottomRight: by, bottomLeft: by } },
    ]);
    const was = await evaluate({ main: soft }, []);
    for (const [x, y] of [
      [10, 10],
      [30, 20],
      [50, 40],
    ] as const)
      expect(got.at('G', x + 3, y - 2)).toBeCloseTo(was.at('G', x, y), 4);
  });

  test('pinned and unwrapped again it is what it was', async () => {
    const both = [
      { type: 'cornerPin', params: pins },
      { type: 'cornerPin', params: { ...pins, unwrap: true } },
    ];
    const got = await evaluate({ main: soft }, both);
    const was = await evaluate({ main: soft }, []);
    for (let y = 6; y < 42; y += 6)
      for (let x = 6; x < 58; x += 6) expect(Math.abs(got.at('R', x, y) - was.at('R', x, y))).toBeLessThan(0.02);
  });

  test('outside the corners there is nothing, inside full coverage', async () => {
    const got = await evaluate({ main: flat(64, 48, 0.5) }, [{ type: 'cornerPin', params: pins }]);
    expect(got.at('A', 1, 1)).toBe(0);
    expect(got.at('A', 32, 24)).toBeCloseTo(1, 5);
    expect(got.at('R', 32, 24)).toBeCloseTo(0.5, 5);
  });

  test('a picture made much smaller does not lose its mean', async () => {
    const checks = {
      width: 64,
      height: 48,
      fill: Object.fromEntries(['R', 'G', 'B'].map((c) => [c, (x: number, y: number) => (x + y) % 2])),
    };
    const small = { topLeft: [24, 18], topRight: [-24, 18], bottomRight: [-24, -18], bottomLeft: [24, -18] };
    const got = await evaluate({ main: checks }, [{ type: 'cornerPin', params: small }]);
    for (const [x, y] of [
      [30, 22],
      [34, 26],
    ] as const)
      expect(Math.abs(got.at('G', x, y) - 0.5)).toBeLessThan(0.1);
  });

  test('crossed corners are told in words', async () => {
    const crossed = { topLeft: [64, 0], topRight: [-64, 0] };
    await expect(evaluate({ main: soft }, [{ type: 'cornerPin', params: crossed }])).rejects.toThrow('cross or lie on a line');
  });
});
