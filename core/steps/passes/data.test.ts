import type { PassFacts } from '../../passes/pass';
import { hexOfId, idOfName, floatOfId } from '../../formats/cryptomatte';
import type { Filling, TestPicture, TestStep } from '../../testing/evaluate';
import { evaluate, flat } from '../../testing/evaluate';

const [W, H] = [48, 32];
const LENS = { focal: 36, filmWidth: 36 };
const scene = (fill: Filling): TestPicture => ({ width: W, height: H, fill: { R: 0.4, G: 0.4, B: 0.4, A: 1, ...fill } });
const step = (type: string, params: Record<string, unknown> = {}, more: Partial<TestStep> = {}): TestStep => ({
  type,
  params: params as TestStep['params'],
  ...more,
});
/** Depth that goes from 1 at the left to 9 at the right. */
const deep = (x: number): number => 1 + (8 * x) / (W - 1);

describe('depth range', () => {
  const ramp = scene({ Z: deep });
  test('near is black, far is white, and back', async () => {
    const got = await evaluate({ main: ramp }, [step('depthRange', { near: 1, far: 9 })]);
    expect([0, W - 1].map((x) => got.at('R', x, 3))).toEqual([0, 1]);
    const back = await evaluate({ main: ramp }, [step('depthRange', { near: 1, far: 9, invert: true, gamma: 2 })]);
    expect(back.at('A', 0, 3)).toBe(1);
  });

  test('nothing there is far, whatever stands for it', async () => {
    for (const none of [0, -3, Infinity, NaN]) {
      const got = await evaluate({ main: scene({ Z: (x) => (x < 4 ? none : 5) }) }, [step('depthRange', { near: 1, far: 9 })]);
      expect(got.at('A', 1, 1)).toBe(1);
      expect(got.at('A', 9, 1)).toBeCloseTo(0.5, 6);
    }
  });

  test('depth is the same however it is meant', async () => {
    const shown = step('depthRange', { near: 1, far: 9, ...LENS });
    const wanted = await evaluate({ main: ramp }, [shown]);
    const ways: [facts: PassFacts, of: (z: number, x: number, y: number) => number][] = [
      [{ as: 'inverse' }, (z) => 1 / z],
      [{ as: 'nearness', from: [9, 1] }, (z) => (9 - z) / 8],
      [{ along: 'ray' }, (z, x, y) => z * Math.hypot(1, (x + 0.5 - W / 2) / W, (y + 0.5 - H / 2) / W)],
    ];
    for (const [facts, of] of ways) {
      const main: TestPicture = { ...scene({ Z: (x, y) => of(deep(x), x, y) }), passes: { Z: { role: 'depth', facts } } };
      const got = await evaluate({ main }, [shown]);
      for (const x of [0, 13, 30, 46]) expect(got.at('A', x, 7)).toBeCloseTo(wanted.at('A', x, 7), 5);
    }
  });

  test('from the camera it is longer than along the view, as far as from the middle', async () => {
    const flatWall = scene({ Z: 4 });
    const got = await evaluate({ main: flatWall }, [step('depthRange', { near: 0, far: 10, measure: 'ray', ...LENS })]);
    const [u, v] = [(0.5 - W / 2) / W, (0.5 - H / 2) / W];
    expect(got.at('A', 0, 0)).toBeCloseTo(0.4 * Math.hypot(1, u, v), 5);
  });

  test('without a depth it says so and changes nothing', async () => {
    const got = await evaluate({ main: flat(8, 8, 0.2) }, [step('depthRange')]);
    expect(got.at('R', 1, 1)).toBeCloseTo(0.2, 6);
    expect(got.plan.remarks[0]!.message).toMatch(/no depth/);
  });
});

describe('haze', () => {
  test('is what Beer and Lambert say, also at half coverage', async () => {
    for (const a of [1, 0.5]) {
      const main = scene({ Z: 5, A: a, R: 0.4 * a });
      const got = await evaluate({ main }, [step('haze', { density: 0.2, colour: [0.1, 0.1, 0.1], focal: 1e4, filmWidth: 1 })]);
      const t = Math.exp(-0.2 * 5);
      expect(got.at('R', 20, 16)).toBeCloseTo(0.4 * a * t + a * (1 - t) * 0.1, 5);
      expect(got.at('A', 20, 16)).toBe(a);
    }
  });

  test('an edge is as hazy as what it is the edge of', async () => {
    // The last column is half covered, and its depth that of what is behind.
    const main = scene({
      Z: (x) => (x >= 23 ? 100 : 2),
      A: (x) => (x < 23 ? 1 : x === 23 ? 0.5 : 0),
      R: (x) => (x < 23 ? 0.4 : x === 23 ? 0.2 : 0),
    });
    const got = await evaluate({ main }, [step('haze', { density: 0.3, colour: [1, 1, 1], focal: 1e4, filmWidth: 1 })]);
    expect(got.at('R', 23, 5) / 0.5).toBeCloseTo(got.at('R', 20, 5), 5);
  });

  test('starts where it is told, and is thinner up high', async () => {
    const near = await evaluate({ main: scene({ Z: 3 }) }, [step('haze', { density: 1, start: 4 })]);
    expect(near.at('R', 24, 16)).toBeCloseTo(0.4, 6);
    const high = scene({ Z: 5, 'P.X': 0, 'P.Y': (_, y) => (H - y) / 8, 'P.Z': -5 });
    const got = await evaluate({ main: high }, [step('haze', { density: 0.5, byHeight: true, falloff: 1, eye: 0, colour: [0, 0, 0] })]);
    expect(got.at('R', 24, 2)).toBeGreaterThan(got.at('R', 24, 28));
  });
});

describe('depth of field', () => {
  const dot = scene({ R: (x, y) => (x === 24 && y === 16 ? 1 : 0), Z: 10 });
  const px = (more: Record<string, unknown>): TestStep => step('depthOfField', { by: 'px', infinity: 8, ...more });

  test('what is in focus stays as it is', async () => {
    const got = await evaluate({ main: dot }, [px({ focus: 10 })]);
    expect(got.at('R', 24, 16)).toBeCloseTo(1, 5);
    expect(got.at('R', 26, 16)).toBeCloseTo(0, 6);
  });

  test('a point out of focus becomes a disc of the lens’s radius that holds its light', async () => {
    // 8 · (1 − 5 / 10) = 4 px
    const got = await evaluate({ main: dot }, [px({ focus: 5 })]);
    let sum = 0;
    for (let y = 0; y < H; y++) for (let x = 0; x < W; x++) sum += got.at('R', x, y);
    expect(sum).toBeCloseTo(1, 3);
    expect(got.at('R', 24, 16)).toBeCloseTo(1 / (Math.PI * 16), 2);
    expect(got.at('R', 27, 16)).toBeCloseTo(1 / (Math.PI * 16), 2);
    expect(got.at('R', 30, 16)).toBeCloseTo(0, 5);
  });

  test('a sharp front keeps its edge, and nothing of it leaks into what is blurred behind', async () => {
    const main = scene({ R: (x) => (x < 24 ? 1 : 0.2), Z: (x) => (x < 24 ? 2 : 20) });
    const got = await evaluate({ main }, [px({ focus: 2 })]);
    expect(got.at('R', 23, 16)).toBeCloseTo(1, 3);
    expect(got.at('R', 24, 16)).toBeCloseTo(0.2, 3);
    expect(got.at('R', 27, 16)).toBeCloseTo(0.2, 3);
  });

  test('a blurred front lets what is behind it through at its edge', async () => {
    const main = scene({ R: (x) => (x < 24 ? 1 : 0.2), G: (x) => (x < 24 ? 0 : 0.5), Z: (x) => (x < 24 ? 2 : 20) });
    const got = await evaluate({ main }, [px({ focus: 20, infinity: 0.6 })]);
    // 0.6 · (20 / 2 − 1) = 5.4 px to either side.
    expect(got.at('R', 24, 16)).toBeGreaterThan(0.5);
    expect(got.at('G', 22, 16)).toBeGreaterThan(0.1);
    for (let x = 14; x < 34; x++) expect(got.at('A', x, 16)).toBeCloseTo(1, 3);
    expect(got.at('G', 31, 16)).toBeCloseTo(0.5, 2);
  });

  test('a slanted surface stays whole', async () => {
    const got = await evaluate({ main: scene({ Z: deep }) }, [px({ focus: 4, infinity: 6 })]);
    for (let x = 12; x < W - 12; x++) {
      expect(got.at('A', x, 16)).toBeCloseTo(1, 2);
      expect(got.at('R', x, 16)).toBeCloseTo(0.4, 2);
    }
  });
});

describe('vector blur', () => {
  const bar = (more: Filling): TestPicture => scene({ R: (x) => (x >= 22 && x < 26 ? 1 : 0), 'motion.Y': 0, ...more });
  test('spreads what moves along its way, and keeps its light', async () => {
    const moving = bar({ 'motion.X': (x) => (x >= 22 && x < 26 ? 8 : 0), Z: (x) => (x >= 22 && x < 26 ? 2 : 5) });
    const got = await evaluate({ main: moving }, [step('vectorBlur', { shutter: 360, phase: -180 })]);
    let sum = 0;
    for (let x = 0; x < W; x++) sum += got.at('R', x, 16);
    expect(sum).toBeCloseTo(4, 0);
    expect(got.at('R', 23, 16)).toBeCloseTo(0.5, 1);
    expect(got.at('R', 32, 16)).toBeCloseTo(0, 5);
    expect(got.at('R', 20, 16)).toBeGreaterThan(0.2);
  });

  test('what stands still in front stays sharp', async () => {
    const behind = bar({ R: (x) => (x < 20 ? 0 : (x % 4) / 4), 'motion.X': (x) => (x < 20 ? 0 : 10), Z: (x) => (x < 20 ? 1 : 5) });
    const got = await evaluate({ main: behind }, [step('vectorBlur', { shutter: 360, phase: -180 })]);
    for (let x = 0; x < 20; x++) expect(got.at('R', x, 10)).toBeCloseTo(0, 5);
  });

  test('motion is the same however it is meant', async () => {
    const inPixels = bar({ 'motion.X': (x) => (x >= 22 && x < 26 ? 8 : 0), 'motion.Y': 2 });
    const blur = step('vectorBlur', { shutter: 360, phase: 0 });
    const wanted = await evaluate({ main: inPixels }, [blur]);
    for (const [unit, sx, sy] of [
      ['frame', W, H],
      ['half', W / 2, H / 2],
    ] as const) {
      const main: TestPicture = {
        ...bar({ 'motion.X': (x) => (x >= 22 && x < 26 ? -8 / sx : 0), 'motion.Y': 2 / sy }),
        passes: { motion: { role: 'motion', facts: { unit, towards: 'previous', turned: 'y' } } },
      };
      const got = await evaluate({ main }, [blur]);
      got.planes.R!.forEach((v, i) => expect(v).toBeCloseTo(wanted.planes.R![i]!, 5));
    }
    // A shutter that opens at the frame blurs to one side.
    expect(wanted.at('R', 28, 16)).toBeGreaterThan(0.1);
    expect(wanted.at('R', 19, 16)).toBeCloseTo(0, 5);
  });

  test('what stands still stays as it is', async () => {
    const still = await evaluate({ main: bar({ 'motion.X': 0 }) }, [step('vectorBlur')]);
    expect(still.at('R', 22, 4)).toBe(1);
    expect(still.at('R', 21, 4)).toBe(0);
  });

  test('alpha follows', async () => {
    const loose: TestPicture = {
      width: W,
      height: H,
      fill: { R: (x) => (x >= 22 && x < 26 ? 1 : 0), G: 0, B: 0, A: (x) => (x >= 22 && x < 26 ? 1 : 0), 'motion.X': 8, 'motion.Y': 0 },
    };
    const got = await evaluate({ main: loose }, [step('vectorBlur', { shutter: 360, phase: -180 })]);
    for (const x of [20, 23, 27]) expect(got.at('A', x, 8)).toBeCloseTo(got.at('R', x, 8), 6);
  });
});

describe('mattes by ID', () => {
  const [a, b] = ['buoy', 'chain'].map(idOfName) as [number, number];
  const crypto = scene({
    'CryptoObject00.R': (x) => (x < 24 ? floatOfId(a) : floatOfId(b)),
    'CryptoObject00.G': (x) => (x === 24 ? 0.75 : 1),
    'CryptoObject00.B': (x) => (x === 24 ? floatOfId(a) : 0),
    'CryptoObject00.A': (x) => (x === 24 ? 0.25 : 0),
    'object_id.Y': (x) => (x < 24 ? 3 : 7),
  });
  const things = (...names: number[]) => names.map((id) => ({ id: hexOfId(id) }));

  test('the coverage is exact, of one or of several', async () => {
    const one = await evaluate({ main: crypto }, [step('idMatte', { things: things(a) })]);
    expect([23, 24, 25].map((x) => one.at('A', x, 4))).toEqual([1, 0.25, 0]);
    const both = await evaluate({ main: crypto }, [step('idMatte', { things: things(a, b) })]);
    expect(both.at('A', 24, 4)).toBe(1);
  });

  test('numbers and cut-outs', async () => {
    const got = await evaluate({ main: crypto }, [step('idMatte', { set: 'object_id', things: [{ id: '7' }], gives: 'cut' })]);
    expect([23, 25].map((x) => got.at('R', x, 4))).toEqual([0, Math.fround(0.4)]);
    const hole = await evaluate({ main: crypto }, [step('idMatte', { things: things(a), gives: 'hole' })]);
    expect(hole.at('A', 24, 4)).toBeCloseTo(0.75, 6);
  });

  test('nothing picked is an empty matte, and it says so', async () => {
    const got = await evaluate({ main: crypto }, [step('idMatte')]);
    expect(got.at('A', 3, 3)).toBe(0);
    expect(got.plan.remarks[0]!.message).toMatch(/nothing is picked/);
  });
});

describe('edges from data', () => {
  test('where the depth steps, and where things meet', async () => {
    const stepped = await evaluate({ main: scene({ Z: (x) => (x < 20 ? 2 : 6) }) }, [step('edgesFromData', { reach: 1 })]);
    expect([10, 19, 20, 30].map((x) => stepped.at('A', x, 5))).toEqual([0, 1, 1, 0]);
    const met = await evaluate({ main: scene({ 'object_id.Y': (x) => (x < 20 ? 3 : 4) }) }, [step('edgesFromData', { reach: 1 })]);
    expect([10, 20].map((x) => met.at('A', x, 5))).toEqual([0, 1]);
    const slope = await evaluate({ main: scene({ Z: deep }) }, [step('edgesFromData', { steps: 0.5 })]);
    expect(slope.at('A', 24, 5)).toBe(0);
  });
});

describe('data that are moved', () => {
  test('keep their numbers: no depth lies between two things, and an id stays one', async () => {
    const [a, b] = ['buoy', 'chain'].map(idOfName) as [number, number];
    const main = scene({
      Z: (x) => (x < 24 ? 2 : 9),
      'CryptoObject00.R': (x) => (x < 24 ? floatOfId(a) : floatOfId(b)),
      'CryptoObject00.G': 1,
      'CryptoObject00.B': 0,
      'CryptoObject00.A': 0,
    });
    const turned = step('transform', { rotate: 20, filter: 'catmullRom' });
    const got = await evaluate({ main }, [turned], { channels: ['Z', 'R'] });
    for (const v of got.planes.Z!) expect([0, 2, 9]).toContain(v);
    const matte = await evaluate({ main }, [turned, step('idMatte', { things: [{ id: hexOfId(a) }] })]);
    expect(matte.at('A', 14, 16)).toBe(1);
    expect(matte.at('A', 34, 16)).toBe(0);
  });
});

describe('ids as other renders have them', () => {
  const names = ['buoy', 'chain', 'post', 'rail', 'rope', 'lamp'];
  /** Six things in a pixel: three levels. */
  const levels = (spelling: readonly string[], set: string): Filling =>
    Object.fromEntries(
      names.flatMap((name, i) => {
        const layer = `${set}0${i >> 1}`;
        return [
          [`${layer}.${spelling[i % 2 ? 2 : 0]}`, floatOfId(idOfName(name))],
          [`${layer}.${spelling[i % 2 ? 3 : 1]}`, [0.4, 0.3, 0.1, 0.1, 0.06, 0.04][i]!],
        ];
      }),
    );

  test.each([
    ['CryptoMaterial', ['R', 'G', 'B', 'A']],
    ['CryptoAsset', ['red', 'green', 'blue', 'alpha']],
  ] as const)('%s of three levels, whichever way its channels are spelled', async (set, spelling) => {
    const main = scene(levels(spelling, set));
    for (const [name, coverage] of [
      ['buoy', 0.4],
      ['rope', 0.06],
      ['lamp', 0.04],
    ] as const) {
      const got = await evaluate({ main }, [step('idMatte', { things: [{ id: hexOfId(idOfName(name)) }] })]);
      expect(got.at('A', 3, 3)).toBeCloseTo(coverage, 6);
    }
  });

  test('colours that stand for things', async () => {
    const main = scene({ 'object_id.R': (x) => (x < 24 ? 1 : 0), 'object_id.G': 0, 'object_id.B': (x) => (x < 24 ? 0 : 1) });
    const got = await evaluate({ main }, [step('idMatte', { things: [{ id: '1,0,0' }] })]);
    expect([10, 30].map((x) => got.at('A', x, 3))).toEqual([1, 0]);
  });
});
