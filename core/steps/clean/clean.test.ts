import type { Param, Shot } from '../../document/types';
import { RGBA } from '../../picture';
import { newPlane } from '../../readings/make';
import type { Reading } from '../../readings/types';
import { boxPoints, shapeDefaults } from '../../shape/edit';
import type { Shape } from '../../shape/shapes';
import { nodeHost, openShotFile } from '@/engine/node/host';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import type { TestPicture } from '../../testing/evaluate';
import { evaluate } from '../../testing/evaluate';

const [W, H] = [120, 90];
const brick = (x: number, y: number): number =>
  Math.floor(y) % 15 < 2 || (Math.floor(x) + 11 * (Math.floor(y / 15) % 2)) % 22 < 2 ? 0.5 : 0.18 + 0.03 * Math.sin(x * 1.9 + y * 0.7);
const wall: TestPicture = { width: W, height: H, fill: { R: brick, G: (x, y) => brick(x, y) * 0.9, B: (x, y) => brick(x, y) * 0.8, A: 1 } };
const shape = (box: readonly [number, number, number, number], more: Partial<Shape> = {}): Param =>
  [{ ...shapeDefaults, id: 's', name: 's', keys: [{ frame: 1, value: boxPoints(...box), ease: 'linear' }], ...more }] as unknown as Param;

describe('fill', () => {
  const marked: TestPicture = { ...wall, fill: { ...wall.fill, R: (x, y) => (x > 44 && x < 70 && y > 30 && y < 55 ? 3 : brick(x, y)) } };
  const params = { shapes: shape([44, 30, 71, 56]), reach: 60 };

  test('patches of the wall take the place of a mark, and nothing beyond the hole changes', async () => {
    const [before, after] = [await evaluate({ main: marked }, []), await evaluate({ main: marked }, [{ type: 'fill', params }])];
    let [inside, outside] = [0, 0];
    for (let y = 0; y < H; y++) {
      for (let x = 0; x < W; x++) {
        if (x >= 42 && x < 73 && y >= 28 && y < 58) inside = Math.max(inside, after.at('R', x, y));
        else outside = Math.max(outside, Math.abs(after.at('R', x, y) - before.at('R', x, y)));
      }
    }
    expect(inside).toBeLessThan(0.62);
    expect(outside).toBe(0);
  });

  test('smoothly: a ramp is continued through the hole', async () => {
    const ramp: TestPicture = { width: W, height: H, fill: { R: (x) => (x > 40 && x < 70 ? 9 : x / 100), G: 0.2, B: 0.2, A: 1 } };
    const out = await evaluate({ main: ramp }, [{ type: 'fill', params: { shapes: shape([40, -5, 70, H + 5]), method: 'smooth' } }]);
    for (const x of [45, 55, 65]) expect(out.at('R', x, 40)).toBeCloseTo(x / 100, 3);
  });

  test('a clear place is closed and becomes solid; a matte says where, another from where not', async () => {
    const clear: TestPicture = { ...wall, fill: { ...wall.fill, A: (x, y) => (Math.hypot(x - 60, y - 45) < 12 ? 0 : 1) } };
    const closed = await evaluate({ main: clear }, [{ type: 'fill', params: { within: 'alpha', reach: 50 } }]);
    expect([closed.at('A', 60, 45), closed.at('A', 5, 5)]).toEqual([1, 1]);
    expect(closed.at('R', 60, 45)).toBeGreaterThan(0.1);
    const matte: TestPicture = {
      width: W,
      height: H,
      fill: { R: 0, G: 0, B: 0, A: (x, y) => (x > 50 && x < 70 && y > 40 && y < 60 ? 1 : 0) },
    };
    const avoid: TestPicture = { width: W, height: H, fill: { R: 0, G: 0, B: 0, A: (x) => (x > 80 ? 1 : 0) } };
    const loud: TestPicture = { ...wall, fill: { ...wall.fill, R: (x, y) => (x > 80 ? 7 : brick(x, y)) } };
    const out = await evaluate({ main: loud, matte, avoid }, [
      { type: 'fill', params: { within: 'matte', reach: 80 }, feeds: ['matte', 'avoid'] },
    ]);
    let most = 0;
    for (let y = 41; y < 60; y++) for (let x = 51; x < 70; x++) most = Math.max(most, out.at('R', x, y));
    expect(most).toBeLessThan(1);
  });
});

/** Six frames of a wall that drifts two pixels a frame and flickers, with something that passes from left to right. */
async function film(): Promise<{ host: Awaited<ReturnType<typeof nodeHost>>; shot: Shot; drift: Reading }> {
  const dir = mkdtempSync(join(tmpdir(), 'ostracon-clean-'));
  for (let f = 1; f <= 6; f++) {
    const bytes = Buffer.alloc(3 * W * H);
    for (let y = 0; y < H; y++) {
      for (let x = 0; x < W; x++) {
        const passes = x >= 18 * f - 10 && x < 18 * f + 8 && y > 20;
        const v = passes ? [0.9, 0.1, 0.1] : [1, 0.9, 0.8].map((k) => k * brick(x - 2 * (f - 1), y) * (1 + 0.04 * (f % 2)));
        v.forEach((p, c) => (bytes[3 * (y * W + x) + c] = Math.round(255 * p)));
      }
    }
    await sharp(bytes, { raw: { width: W, height: H, channels: 3 } })
      .png()
      .toFile(join(dir, `p.000${f}.png`));
  }
  const drift: Reading = {
    ...newPlane([[4, 4, 100, 4, 100, 80, 4, 80]], {
      id: 'drift',
      name: 'drift',
      from: { lane: 'plate' },
      reference: 1,
      range: { first: 1, last: 6 },
    }),
    frames: [1, 2, 3, 4, 5, 6].map((frame) => ({
      frame,
      confidence: 1,
      error: 0,
      homography: [1, 0, 2 * (frame - 1), 0, 1, 0, 0, 0, 1] as const,
    })),
  };
  const json = {
    schema: 'ostracon/3',
    id: 'film',
    name: 'film',
    format: { width: W, height: H, pixelAspect: 1 },
    frameRate: 24,
    range: { first: 1, last: 6 },
    sources: [{ id: 'src', name: 'p', path: 'p.####.png', colourSpace: 'linear' }],
    lanes: [{ id: 'plate', name: 'plate', start: { source: 'src' }, steps: [], muted: false, collapsed: false }],
    result: 'plate',
    readings: [drift],
    notes: [],
  };
  writeFileSync(join(dir, 'film.json'), JSON.stringify(json));
  const { shot, files } = await openShotFile(join(dir, 'film.json'));
  return { host: await nodeHost(files), shot, drift };
}

describe('over frames', () => {
  test('a clean plate has nobody in it, the wall of its frame, and says how many agreed; the same on every frame', async () => {
    const { host, shot } = await film();
    const step = { id: 'c', type: 'cleanPlate', name: 'c', on: true, mix: 1, feeds: {}, params: { reading: 'drift', home: 3, count: 6 } };
    const made: Shot = {
      ...shot,
      lanes: [
        ...shot.lanes,
        { id: 'clean', name: 'clean', start: { tap: { lane: 'plate' } }, steps: [step], muted: false, collapsed: false },
      ],
    };
    const at = async (frame: number, channels: readonly string[]) =>
      (await host.render(made, { tap: { lane: 'clean' }, frame, scale: 1, channels })).pixels;
    const pixels = await at(3, RGBA);
    const flicker = 1 + 0.04;
    for (const [x, y] of [
      [50, 50],
      [60, 33],
      [40, 70],
      [90, 60],
    ] as const)
      expect(pixels[4 * (y * W + x)]).toBeCloseTo(brick(x - 4, y) * flicker, 1);
    expect(await at(5, RGBA)).toEqual(pixels);
    const confidence = await at(3, ['confidence', 'confidence', 'confidence', 'A']);
    expect(confidence[4 * (10 * W + 60)]).toBe(1);
    expect(confidence[4 * (50 * W + 50)]).toBeLessThan(1);
  });

  test('a patch goes along with the wall in the light of each frame, and leaves what is around it to the bit', async () => {
    const { host, shot } = await film();
    const follows = [
      { ...shapeDefaults, id: 's', name: 's', follows: ['drift'], keys: [{ frame: 1, value: boxPoints(40, 4, 64, 18), ease: 'linear' }] },
    ];
    const patch = {
      id: 'p',
      type: 'patch',
      name: 'p',
      on: true,
      mix: 1,
      feeds: {},
      params: { shapes: follows as unknown as Param, reading: 'drift', frame: 1, shift: [22, 0], ring: 8 },
    };
    const made: Shot = { ...shot, lanes: [{ ...shot.lanes[0]!, steps: [patch] }] };
    const [plain, patched] = [shot, made].map((s) => host.render(s, { tap: { lane: 'plate' }, frame: 4, scale: 1, channels: RGBA }));
    const [before, after] = [(await plain)!.pixels, (await patched)!.pixels];
    // Frame 4 is darker than frame 1 and six pixels on: the place beside it, at that light.
    for (const [x, y] of [
      [54, 8],
      [60, 12],
      [64, 14],
    ] as const)
      expect(after[4 * (y * W + x)]).toBeCloseTo(brick(x - 6 + 22, y) * 1, 1);
    for (const [x, y] of [
      [20, 10],
      [54, 40],
      [100, 8],
    ] as const)
      for (let c = 0; c < 4; c++) expect(after[4 * (y * W + x) + c]).toBe(before[4 * (y * W + x) + c]);
  });
});

describe('matchColour, formula, routeChannels', () => {
  const a: TestPicture = {
    width: 40,
    height: 30,
    fill: { R: (x) => 0.1 + x / 200, G: (_, y) => 0.2 + y / 200, B: (x, y) => 0.15 + ((x * y) % 7) / 60, A: 1 },
  };
  const tint = (v: number, k: number): number => v ** 1.2 * k;
  const fillOf = (c: 'R' | 'G' | 'B') => a.fill[c] as (x: number, y: number) => number;
  const like: TestPicture = {
    width: 40,
    height: 30,
    fill: {
      R: (x, y) => tint(fillOf('R')(x, y), 1.6),
      G: (x, y) => tint(fillOf('G')(x, y), 0.9),
      B: (x, y) => tint(fillOf('B')(x, y), 0.7),
      A: 1,
    },
  };

  test.each(['spread', 'full', 'all'])('%s: the same picture in another grade is matched to it', async (method) => {
    const [want, out] = [
      await evaluate({ main: like }, []),
      await evaluate({ main: a, like }, [{ type: 'matchColour', params: { method }, feeds: ['like'] }]),
    ];
    for (const c of ['R', 'G', 'B'])
      out.planes[c]!.forEach((v, i) => expect(Math.abs(v - want.planes[c]![i]!)).toBeLessThan(method === 'all' ? 0.04 : 0.02));
  });

  test('the whole distribution: tones that no mean and spread could give are there as often', async () => {
    // Even tones here; there many dark ones, few in between, some bright.
    const t = (x: number, y: number): number => ((x * 37 + y * 61) % 97) / 97;
    const bent = (v: number): number => 0.03 + 0.6 / (1 + Math.exp(-14 * (v - 0.6)));
    const even: TestPicture = {
      width: 60,
      height: 40,
      fill: { R: (x, y) => 0.1 + 0.3 * t(x, y), G: (x, y) => 0.2 + 0.2 * t(y, x), B: 0.2, A: 1 },
    };
    const there: TestPicture = {
      width: 60,
      height: 40,
      fill: { R: (x, y) => bent(t(x, y)), G: (x, y) => 0.5 * bent(t(y, x)), B: 0.3, A: 1 },
    };
    const want = await evaluate({ main: there }, []);
    const off = async (method: string): Promise<number> => {
      const out = await evaluate({ main: even, like: there }, [{ type: 'matchColour', params: { method }, feeds: ['like'] }]);
      let most = 0;
      for (const c of ['R', 'G']) {
        const [a, b] = [want.planes[c]!, out.planes[c]!].map((p) => Float32Array.from(p).sort()) as [Float32Array, Float32Array];
        for (const q of [0.1, 0.3, 0.5, 0.7, 0.9])
          most = Math.max(most, Math.abs(a[Math.floor(q * a.length)]! - b[Math.floor(q * b.length)]!));
      }
      return most;
    };
    expect(await off('all')).toBeLessThan(0.06);
    expect(await off('full')).toBeGreaterThan(0.1);
  });

  test('a box too small to say anything, and an amount of nothing, change nothing', async () => {
    const before = await evaluate({ main: a }, []);
    for (const params of [{ ownBox: [0, 0, 2, 2] }, { amount: 0 }]) {
      const out = await evaluate({ main: a, like }, [{ type: 'matchColour', params, feeds: ['like'] }]);
      expect(out.planes.R).toEqual(before.planes.R);
    }
  });

  test('a formula reads channels, the other picture, place and frame; what is wrong is told at its character', async () => {
    const params = {
      R: 'G * 2 + other.B',
      G: 'x / width',
      B: 'frame > 3 ? 1 : smoothstep(0, 1, 0.5)',
      A: 'max(0.25, min(a, 2), y * 0)',
      a: 0.5,
    };
    const out = await evaluate({ main: a, other: like }, [{ type: 'formula', params, feeds: ['other'] }], { frame: 1 });
    expect(out.at('R', 7, 9)).toBeCloseTo(2 * (0.2 + 9 / 200) + tint(fillOf('B')(7, 9), 0.7), 5);
    expect(out.at('G', 7, 9)).toBeCloseTo(7.5 / 40, 6);
    expect([out.at('B', 7, 9), out.at('A', 7, 9)]).toEqual([0.5, 0.5]);
    for (const [text, says] of [
      ['R +', /character 4/],
      ['R * nothing', /character 5: “nothing” is not known/],
      ['foo(R)', /“foo” is no function/],
      ['clamp(R, 0)', /takes 3 values/],
      ['"text"', /only numbers/],
      ['R.x[0]', /brackets|not known/],
    ] as const) {
      await expect(evaluate({ main: a }, [{ type: 'formula', params: { R: text } }])).rejects.toThrow(says);
    }
  });

  test('dividing by nothing and roots of less are 0, not a hole in the picture', async () => {
    const out = await evaluate({ main: a }, [{ type: 'formula', params: { R: 'R / (G - G)', G: 'sqrt(0 - 1)', B: '(0 - 8) ^ 0.5' } }]);
    expect(['R', 'G', 'B'].map((c) => out.at(c, 3, 3))).toEqual([0, 0, 0]);
  });

  test('channels are taken from where is said', async () => {
    const params = { R: 'B', G: 'one', B: 'otherR', A: 'luma' };
    const out = await evaluate({ main: a, other: like }, [{ type: 'routeChannels', params, feeds: ['other'] }]);
    const before = await evaluate({ main: a }, []);
    expect([out.at('R', 5, 6), out.at('G', 5, 6)]).toEqual([before.at('B', 5, 6), 1]);
    expect(out.at('B', 5, 6)).toBeCloseTo(tint(fillOf('R')(5, 6), 1.6), 6);
    expect(out.at('A', 5, 6)).toBeCloseTo(0.2126 * before.at('R', 5, 6) + 0.7152 * before.at('G', 5, 6) + 0.0722 * before.at('B', 5, 6), 5);
  });
});
