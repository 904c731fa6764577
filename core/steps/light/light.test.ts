import { behindOf } from '../../document/behind';
import type { Lane, Shot } from '../../document/types';
import { makePlan } from '../../evaluate/plan';
import { fft, powerSpectrum } from '../../light/fft';
import { WAVES, ghostsAt } from '../../light/ghosts';
import { starburst } from '../../light/starburst';
import type { TestPicture, TestStep } from '../../testing/evaluate';
import { evaluate, flat, testShot } from '../../testing/evaluate';
import { STEPS } from '..';
import { castMap } from './shadow';

type Fill = (x: number, y: number) => number;
const grey = (w: number, h: number, f: Fill, a: number | Fill = 1): TestPicture => ({
  width: w,
  height: h,
  fill: { R: f, G: f, B: f, A: a },
});
const dot = (w: number, h: number, x0: number, y0: number, v = 50): TestPicture => grey(w, h, (x, y) => (x === x0 && y === y0 ? v : 0.1));
const sum = (p: Float32Array): number => p.reduce((s, v) => s + v, 0);
const run = (main: TestPicture, step: TestStep, more: Record<string, TestPicture> = {}) =>
  evaluate({ main, ...more }, [{ ...step, feeds: step.feeds ?? Object.keys(more) }]);

describe('glow', () => {
  test('what is under the threshold shines nowhere', async () => {
    const got = await run(flat(40, 30, 0.2), { type: 'glow', params: { threshold: 0 } });
    got.planes.R!.forEach((v) => expect(v).toBeCloseTo(0.2, 6));
  });

  test('light that is kept adds up to what it was, and falls off from its source', async () => {
    const main = dot(121, 121, 60, 60);
    const got = await run(main, { type: 'glow', params: { size: 12, amount: 0.5, keep: true } });
    expect(Math.abs(sum(got.planes.R!) / (0.1 * 121 * 121 + 49.9) - 1)).toBeLessThan(2e-3);
    expect(got.at('R', 60, 60)).toBeLessThan(40);
    expect(got.at('R', 64, 60)).toBeGreaterThan(got.at('R', 75, 60));
    expect(got.at('R', 75, 60)).toBeGreaterThan(got.at('R', 90, 60));
  });

  test('each channel spreads as wide as it is told, all of its light kept', async () => {
    const got = await run(dot(161, 161, 80, 80), { type: 'glow', params: { size: 10, amount: 0.5, keep: true, spread: [2, 1, 0.5] } });
    const at = (c: string, x: number): number => got.at(c, x, 80) - 0.1;
    expect(at('R', 120)).toBeGreaterThan(4 * at('G', 120));
    expect(at('B', 81)).toBeGreaterThan(at('G', 81));
    const [red, blue] = [sum(got.planes.R!), sum(got.planes.B!)];
    expect(Math.abs(red / blue - 1)).toBeLessThan(5e-3);
  });

  test('only what a matte covers shines', async () => {
    const main = grey(80, 40, (x, y) => ((x === 20 || x === 60) && y === 20 ? 50 : 0));
    const only = grey(
      80,
      40,
      () => 0,
      (x) => (x < 40 ? 1 : 0),
    );
    const got = await run(main, { type: 'glow', params: { size: 8 } }, { only });
    expect(got.at('R', 24, 20)).toBeGreaterThan(0.01);
    expect(got.at('R', 64, 20)).toBeLessThan(1e-4);
  });
});

describe('light wrap', () => {
  const element = grey(
    80,
    40,
    (x) => (x < 40 ? 0.2 : 0),
    (x) => (x < 40 ? 1 : 0),
  );
  const behind = flat(80, 40, 2, 0.5, 0.5);
  const wrap = (params: TestStep['params'] = {}): Promise<Awaited<ReturnType<typeof run>>> =>
    run(element, { type: 'lightWrap', params: { soft: 6, width: 10, ...params } }, { behind });

  test('creeps over the edge and is gone inside; nothing is added where the element is not', async () => {
    const got = await wrap();
    expect(got.at('R', 39, 20)).toBeGreaterThan(0.5);
    expect(got.at('R', 36, 20)).toBeGreaterThan(got.at('R', 30, 20));
    expect(got.at('R', 10, 20)).toBeCloseTo(0.2, 4);
    expect(got.at('R', 45, 20)).toBe(0);
    expect(got.planes.A).toEqual((await evaluate({ main: element }, [])).planes.A);
  });

  test('has the colour of the background, as much of it as is asked for', async () => {
    const [full, none] = [await wrap(), await wrap({ saturation: 0 })];
    const added = (e: typeof full, c: string): number => e.at(c, 38, 20) - 0.2;
    expect(added(full, 'R') / added(full, 'G')).toBeCloseTo(4, 1);
    expect(added(none, 'R')).toBeCloseTo(added(none, 'G'), 4);
  });

  test.each(['plus', 'screen', 'over'])('by %s a brighter background gives a brighter edge', async (operator) => {
    const dark = await run(element, { type: 'lightWrap', params: { operator } }, { behind: flat(80, 40, 0.05) });
    const bright = await run(element, { type: 'lightWrap', params: { operator } }, { behind: flat(80, 40, 0.9) });
    expect(bright.at('R', 39, 20)).toBeGreaterThan(dark.at('R', 39, 20) + 0.05);
  });

  test('lights creep as discs where asked for', async () => {
    const lamp = grey(80, 40, (x, y) => (x === 44 && y === 20 ? 100 : 0));
    const got = await run(element, { type: 'lightWrap', params: { soft: 8, width: 30, shape: 'disc', threshold: -20 } }, { behind: lamp });
    // Inside the disc alike, outside nothing.
    expect(got.at('R', 39, 20) / got.at('R', 39, 24)).toBeCloseTo(1, 1);
    expect(got.at('R', 39, 30)).toBeCloseTo(0.2, 3);
  });
});

describe('what lies behind a lane', () => {
  const lane = (id: string, steps: Partial<Lane['steps'][number]>[]): Lane => ({
    id,
    name: id,
    start: { source: 'source main' },
    muted: false,
    collapsed: false,
    steps: steps.map((s, i) => ({ id: `${id}${i}`, type: 'blur', name: '', on: true, params: {}, mix: 1, feeds: {}, ...s })),
  });
  const shotOf = (...lanes: Lane[]): Shot => ({ ...testShot({ main: flat(8, 8, 0.5) }, []), lanes });
  const joins = (front: string) => ({ type: 'join', feeds: { front: { lane: front } } });

  test('is the picture right before the join that brings it in', () => {
    const shot = shotOf(lane('plate', [{}, joins('fog'), {}, joins('buoy')]), lane('fog', []), lane('buoy', []));
    expect(behindOf(shot, { id: 'buoy' })).toEqual({ lane: 'plate', after: 'plate2' });
    expect(behindOf(shot, { id: 'fog' })).toEqual({ lane: 'plate', after: 'plate0' });
    expect(behindOf(shot, { id: 'plate' })).toBeNull();
  });

  test('is the start of a lane whose first step brings it in, and nothing where the join is off', () => {
    expect(behindOf(shotOf(lane('plate', [joins('a')]), lane('a', [])), { id: 'a' })).toEqual({ lane: 'plate', after: '' });
    expect(behindOf(shotOf(lane('plate', [{ ...joins('a'), on: false }]), lane('a', [])), { id: 'a' })).toBeNull();
  });

  test('is nothing for a step whose background is made from what it makes, but there where that is tapped before it', () => {
    const wrapped = (after: string): Shot =>
      shotOf(
        lane('plate', [{ type: 'blur', mask: { lane: 'a', after, channel: 'A', invert: false } }, joins('a')]),
        lane('a', [{}, { type: 'lightWrap' }, {}]),
      );
    expect(behindOf(wrapped('a1'), { id: 'a' }, 'a1')).toBeNull();
    expect(behindOf(wrapped('a2'), { id: 'a' }, 'a1')).toBeNull();
    expect(behindOf(wrapped('a0'), { id: 'a' }, 'a1')).toEqual({ lane: 'plate', after: 'plate0' });
    // To be looked at, it is there in any case.
    expect(behindOf(wrapped('a2'), { id: 'a' })).toEqual({ lane: 'plate', after: 'plate0' });
  });

  test('two lanes that would each be found behind the other find nothing', () => {
    const shot = shotOf(
      lane('one', [{ type: 'blur', mask: { lane: 'b', channel: 'A', invert: false } }, joins('a')]),
      lane('two', [{ type: 'blur', mask: { lane: 'a', channel: 'A', invert: false } }, joins('b')]),
      lane('a', [{ type: 'lightWrap' }]),
      lane('b', [{ type: 'lightWrap' }]),
    );
    expect([behindOf(shot, { id: 'a' }, 'a0'), behindOf(shot, { id: 'b' }, 'b0')]).toEqual([null, null]);
    expect(() => makePlan(shot, { tap: { lane: 'one' }, frame: 1, channels: ['R'], scale: 1 }, STEPS)).not.toThrow();
  });

  test('a wrap changes with it, and a connected background goes first', () => {
    const wrap = { type: 'lightWrap' };
    const keyOf = (first: Partial<Lane['steps'][number]>, feeds = {}): string =>
      makePlan(
        shotOf(lane('main', [first, joins('a')]), lane('a', [{ ...wrap, feeds }]), lane('other', [])),
        { tap: { lane: 'a' }, frame: 1, channels: ['R'], scale: 1 },
        STEPS,
      ).key;
    expect(keyOf({ params: { size: 3 } })).not.toBe(keyOf({ params: { size: 5 } }));
    const own = { behind: { lane: 'other' } };
    expect(keyOf({ params: { size: 3 } }, own)).toBe(keyOf({ params: { size: 5 } }, own));
  });
});

describe('rays', () => {
  test('a light in the dark streams away from its place, and what stands before it cuts them', async () => {
    const params = { light: 'disc', at: [0, 0], radius: 6, threshold: 0 } as TestStep['params'];
    const open = await run(flat(101, 81, 0), { type: 'rays', params });
    // Rays go out evenly, weaker with distance.
    expect(open.at('R', 70, 40)).toBeGreaterThan(open.at('R', 90, 40));
    expect(open.at('R', 30, 40)).toBeCloseTo(open.at('R', 70, 40), 2);
    const wall = grey(
      101,
      81,
      () => 0,
      (x, y) => (x > 50 && Math.abs(y - 40) < 4 ? 1 : 0),
    );
    const cut = await run(flat(101, 81, 0), { type: 'rays', params }, { before: wall });
    expect(cut.at('R', 80, 40)).toBeLessThan(0.6 * open.at('R', 80, 40));
    expect(cut.at('R', 20, 40)).toBeCloseTo(open.at('R', 20, 40), 2);
  });
});

describe('flare', () => {
  test('a Fourier transform finds a wave, and keeps the energy', () => {
    const n = 32;
    const [re, im] = [Float64Array.from({ length: n }, (_, i) => Math.cos((2 * Math.PI * 5 * i) / n)), new Float64Array(n)];
    fft(re, im);
    expect(re[5]).toBeCloseTo(n / 2, 9);
    expect(re[27]).toBeCloseTo(n / 2, 9);
    expect(Math.abs(re[4]!)).toBeLessThan(1e-9);
    const square = Float64Array.from({ length: 256 }, (_, i) => Math.sin(i * 12.9898) % 1);
    expect(powerSpectrum(square, 16).reduce((a, b) => a + b, 0) / 256).toBeCloseTo(
      square.reduce((a, b) => a + b * b, 0),
      6,
    );
  });

  test('a star has a ray for each side of the aperture, both ways: six of six blades, fourteen of seven', () => {
    const peaks = (blades: number): number => {
      const { pattern, side } = starburst({ blades, turn: 11, squeeze: 1 });
      const ring = Array.from({ length: 360 }, (_, a) => {
        let s = 0;
        for (let r = 30; r < 90; r++) {
          const [x, y] = [
            Math.round(side / 2 + r * Math.cos((a * Math.PI) / 180)),
            Math.round(side / 2 + r * Math.sin((a * Math.PI) / 180)),
          ];
          s += pattern[y * side + x]!;
        }
        return s;
      });
      const most = Math.max(...ring);
      return ring.filter(
        (v, i) => v > 0.25 * most && Array.from({ length: 17 }, (_, k) => ring[(i + k - 8 + 360) % 360]!).every((o) => o <= v),
      ).length;
    };
    expect(peaks(6)).toBe(6);
    expect(peaks(7)).toBe(14);
  });

  test('there is a ghost for every pair of surfaces, at the same place nearly for each colour', () => {
    const [red, green] = [ghostsAt(WAVES[0]), ghostsAt(WAVES[1])];
    expect(red).toHaveLength((9 * 8) / 2);
    red.slice(0, 3).forEach((g, i) => expect(Math.abs(g.place - green[i]!.place)).toBeLessThan(0.2));
    for (const g of red) expect(g.strength).toBeGreaterThanOrEqual(0);
  });

  test('is hidden with its light, and half of it with half', async () => {
    const params = { at: [-20, -10], star: 1, reach: 30 } as TestStep['params'];
    const lit = async (cover: number): Promise<number> =>
      sum((await run(flat(96, 64, 0), { type: 'flare', params }, { before: flat(96, 64, 0, 0, 0, cover) })).planes.R!);
    const [open, half, gone] = [await lit(0), await lit(0.5), await lit(1)];
    expect(half / open).toBeCloseTo(0.5, 2);
    expect(gone).toBe(0);
  });

  test('finds the brightest place', async () => {
    const main = grey(96, 64, (x, y) => (Math.hypot(x - 70, y - 20) < 3 ? 30 : 0));
    const got = await run(main, { type: 'flare', params: { from: 'brightest', ghosts: 0, star: 1, reach: 20 } });
    expect(got.at('R', 70, 30)).toBeGreaterThan(1e-3);
    expect(got.at('R', 30, 40)).toBe(0);
  });
});

describe('shadow', () => {
  test('the foot stays where it is; the top falls where the light sends it', () => {
    const lean = castMap({ left: [-10, 20], right: [10, 20], angle: 30, length: 1, narrow: 0 }, { width: 100, height: 100 })!;
    // 40 px of height come down 20 px along the ground's way: cos 30°, and half of it towards the camera.
    const [x, y] = [50 + 40 * Math.cos(Math.PI / 6), 70 + 20];
    const u = (lean[0] * x + lean[1] * y + lean[2]) / lean[8];
    const v = (lean[3] * x + lean[4] * y + lean[5]) / lean[8];
    expect([u, v].map((n) => Math.round(n))).toEqual([50, 30]);
  });

  test('darkens the ground beside the element, softer with distance, and nothing else', async () => {
    const element = grey(
      120,
      100,
      () => 0.5,
      (x, y) => (x >= 55 && x < 65 && y >= 30 && y < 70 ? 1 : 0),
    );
    const params = {
      left: [-5, 20],
      right: [5, 20],
      angle: 40,
      length: 1,
      density: 0.5,
      contact: 0,
      softness: 0,
      growth: 6,
    } as TestStep['params'];
    const got = await run(flat(120, 100, 0.8), { type: 'shadow', params }, { element });
    expect(got.at('R', 60 + 8, 70 + 6)).toBeCloseTo(0.4, 1);
    expect(got.at('R', 20, 20)).toBeCloseTo(0.8, 5);
    expect(got.at('R', 110, 20)).toBeCloseTo(0.8, 5);
  });

  test('of the filmed screen only what is darker than the clean one is kept, and not the subject', async () => {
    const clean = flat(60, 40, 0.05, 0.4, 0.1);
    const shade: Fill = (x) => (x >= 30 && x < 40 ? 0.5 : 1);
    const plate: TestPicture = {
      width: 60,
      height: 40,
      fill: { R: (x, y) => 0.05 * shade(x, y), G: (x, y) => (x < 10 ? 0.01 : 0.4 * shade(x, y)), B: (x, y) => 0.1 * shade(x, y) },
    };
    const element = grey(
      60,
      40,
      () => 0,
      (x) => (x < 10 ? 1 : 0),
    );
    const got = await run(
      flat(60, 40, 1),
      { type: 'shadow', params: { from: 'plate', density: 1, low: 0, calm: 0.5 } },
      { plate, clean, element },
    );
    expect(got.at('R', 35, 20)).toBeCloseTo(0.5, 2);
    expect(got.at('R', 50, 20)).toBeCloseTo(1, 3);
    expect(got.at('R', 5, 20)).toBeCloseTo(1, 3);
  });
});

describe('ends of a lane', () => {
  test('a vignette is as dark in the corner as it says, not at all in the middle, and can be taken out again', async () => {
    const params = { corner: -2 };
    const got = await run(flat(81, 61, 0.5), { type: 'vignette', params });
    expect(got.at('R', 40, 30)).toBeCloseTo(0.5, 5);
    expect(got.at('R', 0, 0)).toBeCloseTo(0.5 / 4, 1);
    const back = await evaluate({ main: flat(81, 61, 0.5) }, [
      { type: 'vignette', params },
      { type: 'vignette', params: { ...params, remove: true } },
    ]);
    back.planes.R!.forEach((v) => expect(v).toBeCloseTo(0.5, 5));
  });

  test('the falloff of a lens is the fourth power of the cosine', async () => {
    const got = await run(flat(80, 60, 1), { type: 'vignette', params: { by: 'lens', focal: 18, filmWidth: 36 } });
    const d = 39.5 / 40;
    expect(got.at('R', 79, 30)).toBeCloseTo(1 / (1 + d * d + (0.5 / 40) ** 2) ** 2, 3);
  });

  test('fringes draw red and blue at another size; green stays to the bit', async () => {
    const main = grey(101, 81, (x) => (x >= 80 ? 1 : 0));
    const got = await run(main, { type: 'colourFringe', params: { red: 4, blue: -4 } });
    const edge = (c: string): number => Array.from({ length: 101 }, (_, x) => got.at(c, x, 40)).findIndex((v) => v > 0.5);
    const far = Math.hypot(101, 81) / 2;
    expect(edge('R')).toBeCloseTo(80 + (4 * 29.5) / far, -0.3);
    expect(edge('R')).toBeGreaterThan(80);
    expect(edge('B')).toBeLessThan(80);
    expect(edge('G')).toBe(80);
  });

  test('film keeps middle grey, never clips, and its slope there is its contrast', async () => {
    const got = async (v: number) => (await run(flat(4, 4, v), { type: 'filmResponse', params: { dyes: 0, contrast: 1.4 } })).at('R', 1, 1);
    expect(await got(0.18)).toBeCloseTo(0.18, 4);
    expect(await got(1000)).toBeLessThanOrEqual(1.2);
    const slope = Math.log((await got(0.19)) / (await got(0.17))) / Math.log(0.19 / 0.17);
    expect(slope).toBeCloseTo(1.4, 2);
  });
});

describe('air and glass', () => {
  test('dirt is seen near light alone', async () => {
    const dirt = grey(40, 30, (x) => (x % 8 < 4 ? 1 : 0));
    const got = await run(dot(160, 120, 30, 60, 400), { type: 'lensDirt', params: { size: 20 } }, { dirt });
    const contrast = (x: number): number => Math.abs(got.at('R', x + 8, 60) - got.at('R', x - 8, 60));
    expect(contrast(40)).toBeGreaterThan(0.01);
    expect(contrast(140)).toBeLessThan(1e-3);
  });

  test('hot air leaves an even picture even, to its edges', async () => {
    const got = await run(flat(60, 40, 0.4), { type: 'heatShimmer', params: { amount: 6, size: 12, soften: 3 } });
    got.planes.R!.forEach((v) => expect(v).toBeCloseTo(0.4, 4));
  });

  test('hot air bends more near the ground, changes with time, and stays still where there is none', async () => {
    const stripes = grey(96, 96, (x) => (x % 8 < 4 ? 1 : 0));
    const at = (frame: number, step: TestStep, more: Record<string, TestPicture> = {}) =>
      evaluate({ main: stripes, ...more }, [{ ...step, feeds: Object.keys(more) }], { frame });
    const shimmer: TestStep = { type: 'heatShimmer', params: { size: 24, fade: 0.3, soften: 0 } };
    const [still, one, two] = [await at(1, { type: 'blur', params: { size: 0 } }), await at(1, shimmer), await at(2, shimmer)];
    const apart = (a: typeof still, b: typeof still, y0: number, y1: number): number => {
      let s = 0;
      for (let y = y0; y < y1; y++) for (let x = 10; x < 86; x++) s += Math.abs(a.at('R', x, y) - b.at('R', x, y));
      return s;
    };
    expect(apart(one, still, 80, 96)).toBeGreaterThan(2 * apart(one, still, 10, 26));
    expect(apart(one, two, 80, 96)).toBeGreaterThan(10);
    const nowhere = await at(1, shimmer, { where: flat(96, 96, 0, 0, 0, 0) });
    expect(apart(nowhere, still, 0, 96)).toBeLessThan(1e-2);
  });
});
