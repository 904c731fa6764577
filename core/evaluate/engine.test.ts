import fc from 'fast-check';
import { nodeKernels } from '@/engine/node/host';
import { rect } from '../geometry/rect';
import type { TestStep } from '../testing/evaluate';
import { evaluate, flat, testShot } from '../testing/evaluate';
import { STEPS } from '../steps';
import type { Tile } from '../picture';
import { compute, prepare } from './compute';
import type { Plan } from './plan';
import { makePlan } from './plan';
import { ResultCache } from './results';
import { makeStages } from './stages';

const WIDTH = 61;
const HEIGHT = 47;

const main = {
  width: WIDTH,
  height: HEIGHT,
  fill: {
    R: (x: number, y: number) => ((x * 31 + y * 17) % 23) / 23,
    G: (x: number, y: number) => ((x * 7 + y * 11) % 19) / 19,
    B: (x: number, y: number) => ((x * 3 + y * 29) % 29) / 31,
    A: (x: number, y: number) => ((x + 2 * y) % 9) / 8,
  },
};
/** An element that covers a part of the frame and reaches outside it. */
const front = { ...main, bounds: rect(-6, 12, 29, 33), fill: { R: 0.4, G: 0.3, B: (x: number) => Math.abs(x) / 64, A: 0.7 } };

const unit = fc.double({ min: 0, max: 1, noNaN: true });
const pointwise: fc.Arbitrary<TestStep> = fc.oneof(
  unit.map((v) => ({ type: 'exposure', params: { stops: 4 * v - 2 } })),
  fc.tuple(unit, unit).map(([a, b]) => ({ type: 'grade', params: { gain: [1 + a, 1, 1 - b / 2], gamma: [1, 1 + b, 1] } })),
  unit.map((v) => ({ type: 'clamp', params: { high: v + 0.2 } })),
  fc.constantFrom('invert', 'premultiply', 'unpremultiply').map((type) => ({ type })),
  unit.map((v) => ({ type: 'despill', params: { amount: v } })),
  fc
    .constantFrom('over', 'screen', 'inside', 'atop', 'softLight', 'minus')
    .map((operator) => ({ type: 'join', feeds: ['front'], params: { operator } })),
  fc.tuple(unit, fc.boolean()).map(([mix, invert]) => ({ type: 'exposure', params: { stops: 1 }, mix, mask: { from: 'front', invert } })),
  unit.map((v) => ({ type: 'screenKey', params: { screenColour: [0.1, 0.5 + v / 2, 0.2] }, feeds: ['inside'] })),
  fc.tuple(fc.integer({ min: 0, max: 20 }), unit).map(([left, s]) => ({ type: 'crop', params: { left, top: 3.5, softness: 6 * s } })),
);
const spreading: fc.Arbitrary<TestStep> = fc.oneof(
  fc.double({ min: 0.3, max: 12, noNaN: true }).map((size) => ({ type: 'blur', params: { size } })),
  fc.double({ min: -5, max: 5, noNaN: true }).map((radius) => ({ type: 'choke', params: { radius } })),
  fc
    .tuple(unit, unit)
    .map(([a, b]) => ({ type: 'transform', params: { translate: [20 * a - 10, 6 * b], rotate: 40 * b - 20, uniform: 0.7 + a } })),
  fc.tuple(unit, unit).map(([a, b]) => ({ type: 'transform', params: { translate: [9 * a, -3], scale: [0.6 + b, 1.4 - a] } })),
);
const pictures = { main, front, inside: flat(WIDTH, HEIGHT, 0, 0, 0, 0.2) };

const largest = (a: Record<string, Float32Array>, b: Record<string, Float32Array>): number => {
  let most = 0;
  for (const [c, plane] of Object.entries(a)) {
    plane.forEach((v, i) => {
      if (!Object.is(v, b[c]![i]) && v !== b[c]![i])
        most = Math.max(most, Number.isNaN(v - b[c]![i]!) ? Infinity : Math.abs(v - b[c]![i]!));
    });
  }
  return most;
};

describe('the same pixels whichever way they are worked out', () => {
  test('a chain of pointwise steps: fused and step by step, by tiles of any size and whole, are equal to the bit', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(pointwise, { minLength: 1, maxLength: 7 }), fc.integer({ min: 1, max: 3000 }), async (steps, tile) => {
        const whole = await evaluate(pictures, steps, { fuse: false, tile: 1e9 });
        expect(largest((await evaluate(pictures, steps, { tile })).planes, whole.planes)).toBe(0);
      }),
      { numRuns: 60 },
    );
  });

  test('with filters among them: fused by small tiles within 1e-5', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.oneof(pointwise, spreading), { minLength: 1, maxLength: 5 }), async (steps) => {
        const whole = await evaluate(pictures, steps, { fuse: false, tile: 1e9 });
        expect(largest((await evaluate(pictures, steps, { tile: 500 })).planes, whole.planes)).toBeLessThanOrEqual(1e-5);
      }),
      { numRuns: 40 },
    );
  });

  test('a region, or the bands that several workers get, holds the pixels of the whole frame', async () => {
    const box = fc.tuple(
      fc.integer({ min: -4, max: 40 }),
      fc.integer({ min: -4, max: 30 }),
      fc.integer({ min: 1, max: 30 }),
      fc.integer({ min: 1, max: 25 }),
    );
    await fc.assert(
      fc.asyncProperty(fc.array(fc.oneof(pointwise, spreading), { minLength: 1, maxLength: 4 }), box, async (steps, [x, y, w, h]) => {
        const frame = rect(-4, -4, 71, 56);
        const whole = await evaluate(pictures, steps, { region: frame });
        const region = rect(x, y, x + w, y + h);
        const part = await evaluate(pictures, steps, { region });
        // A sharp key or a division by a small alpha enlarges a filter's last bit; the scale of the values is taken into account.
        const size = Math.max(1, ...Object.values(whole.planes).flatMap((p) => [...p].map(Math.abs).filter(Number.isFinite)));
        for (let v = y; v < y + h; v++) {
          for (let u = x; u < x + w; u++) {
            for (const c of 'RGBA') expect(Math.abs(part.at(c, u, v) - whole.at(c, u, v)) / size).toBeLessThanOrEqual(1e-4);
          }
        }
      }),
      { numRuns: 40 },
    );
  });
});

describe('stages', () => {
  const stagesOf = (steps: TestStep[]) => {
    const plan = makePlan(testShot(pictures, steps), { tap: { lane: 'main' }, frame: 1, channels: ['R', 'G', 'B', 'A'], scale: 1 }, STEPS);
    return makeStages(plan.nodes).filter((s) => s.root.kind === 'step');
  };

  test('eight pointwise steps are one stage; a blur between them makes three', () => {
    const grade = { type: 'exposure', params: { stops: 1 } };
    expect(stagesOf(Array(8).fill(grade))).toHaveLength(1);
    expect(stagesOf([grade, grade, { type: 'blur' }, grade])).toHaveLength(3);
  });

  test('a join takes its front along in the same stage', () => {
    const stages = stagesOf([
      { type: 'exposure', params: { stops: 1 } },
      { type: 'join', feeds: ['front'] },
    ]);
    expect(stages).toHaveLength(1);
    expect(stages[0]!.inputs.size).toBe(2);
  });
});

describe('placing steps that follow each other', () => {
  const wave = {
    width: 64,
    height: 64,
    fill: { R: (x: number, y: number) => 0.5 + 0.4 * Math.sin(x * 0.9) * Math.cos(y * 0.8), G: 0, B: 0 },
  };
  const turn = (rotate: number) => ({ type: 'transform', params: { rotate, filter: 'lanczos3' } });

  test('are one: there and back again is the picture itself, not resampled at all', async () => {
    const got = await evaluate({ main: wave }, [turn(33), turn(-33)]);
    expect(got.plan.nodes.filter((n) => n.kind === 'step')).toHaveLength(0);
    for (let y = 3; y < 61; y++) for (let x = 3; x < 61; x++) expect(got.at('R', x, y)).toBe(Math.fround(wave.fill.R(x, y)));
  });

  test('but not through a mix, a mask, or another step', async () => {
    const steps = (second: Partial<TestStep>, between: TestStep[] = []) => [turn(20), ...between, { ...turn(-5), ...second }];
    for (const list of [steps({ mix: 0.5 }), steps({ mask: { from: 'front' } }), steps({}, [{ type: 'exposure', params: { stops: 1 } }])]) {
      const { plan } = await evaluate({ main: wave, front: flat(64, 64, 1) }, list);
      expect(plan.nodes.filter((n) => n.kind === 'step' && n.step.type === 'transform')).toHaveLength(2);
    }
  });
});

describe('NaN and infinity', () => {
  const hole = {
    width: 40,
    height: 30,
    fill: { R: (x: number, y: number) => (x === 20 && y === 15 ? NaN : 0.5), G: (x: number) => (x === 0 ? Infinity : 0.25), B: 0 },
  };

  test('a filter takes them as missing, and says how many there were', async () => {
    for (const step of [
      { type: 'blur', params: { size: 3 } },
      { type: 'transform', params: { rotate: 7 } },
    ]) {
      const got = await evaluate({ main: hole }, [step]);
      expect(got.at('R', 20, 15)).toBeCloseTo(0.5, 4);
      expect(got.at('G', 5, 15)).toBeCloseTo(0.25, 3);
      for (const plane of Object.values(got.planes)) expect(plane.every(Number.isFinite)).toBe(true);
      expect(got.missing).toBe(31);
    }
  });

  test('a pointwise step and the nearest pixel keep them where they are', async () => {
    const grade = await evaluate({ main: hole }, [{ type: 'exposure', params: { stops: 1 } }]);
    expect(grade.at('R', 20, 15)).toBeNaN();
    const moved = await evaluate({ main: hole }, [{ type: 'transform', params: { translate: [3, 2], filter: 'nearest' } }]);
    expect(moved.at('R', 23, 17)).toBeNaN();
    expect(moved.planes.R!.filter(Number.isNaN)).toHaveLength(1);
  });
});

describe('the cache of results', () => {
  const request = { tap: { lane: 'main' }, frame: 1, channels: ['R', 'G', 'B', 'A'], scale: 1 };
  const planOf = (steps: TestStep[]): Plan => makePlan(testShot(pictures, steps), request, STEPS);

  async function bench() {
    const kernels = await nodeKernels();
    const planes = Object.fromEntries('RGBA'.split('').map((c) => [c, kernels.zeros(WIDTH * HEIGHT).fill(0.5)]));
    const picture = (): Tile => ({ region: rect(0, 0, WIDTH, HEIGHT), planes });
    const cache = new ResultCache(kernels, 2 ** 24);
    const run = (p: Plan): string[] => {
      const worked: string[] = [];
      const host = {
        kernels,
        cache,
        picture,
        progress: (_: number, __: number, ___: number, n: Plan['root']) => void worked.push(n.kind === 'step' ? n.step.name : 'source'),
      };
      Object.values(compute(prepare(p, kernels, cache), host).planes).forEach((x) => kernels.give(x));
      return worked;
    };
    return { kernels, cache, run, end: () => Object.values(planes).forEach((p) => kernels.give(p)) };
  }

  test('what comes before a change is not worked out again, and an undone change costs nothing', async () => {
    const { kernels, cache, run, end } = await bench();
    const before = kernels.used;
    const at = (radius: number) =>
      planOf([
        { type: 'blur', params: { size: 4 } },
        { type: 'choke', params: { radius } },
      ]);
    expect(run(at(3))).toEqual(['source', 'blur 0', 'choke 1']);
    expect(run(at(2))).toEqual(['choke 1']);
    expect(run(at(3))).toEqual([]);
    cache.shrink(0);
    expect(kernels.used).toBe(before);
    end();
  });

  test('whatever was worked out and kept before, a chain gives the pixels that it gives without a cache', async () => {
    const kernels = await nodeKernels();
    const cache = new ResultCache(kernels, 2 ** 24);
    const planes = Object.fromEntries(
      Object.entries(main.fill).map(([c, f]) => [
        c,
        kernels.copy(Array.from({ length: WIDTH * HEIGHT }, (_, i) => f(i % WIDTH, Math.floor(i / WIDTH)))),
      ]),
    );
    const picture = (): Tile => ({ region: rect(0, 0, WIDTH, HEIGHT), planes });
    const run = (p: Plan, kept?: ResultCache): Record<string, Float32Array> => {
      const tile = compute(prepare(p, kernels, kept), { kernels, picture, ...(kept && { cache: kept }) });
      const out = Object.fromEntries(Object.entries(tile.planes).map(([c, x]) => [c, Float32Array.from(x)]));
      Object.values(tile.planes).forEach((x) => kernels.give(x));
      return out;
    };
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.oneof(pointwise, spreading), { minLength: 1, maxLength: 5 }),
        fc.array(fc.nat(4), { maxLength: 4 }),
        async (steps, cuts) => {
          // The same chain, cut short in some ways, fills the cache with its parts.
          for (const n of cuts) run(planOf(steps.slice(0, n)), cache);
          expect(largest(run(planOf(steps), cache), run(planOf(steps)))).toBeLessThanOrEqual(1e-5);
        },
      ),
      { numRuns: 40 },
    );
    cache.shrink(0);
    Object.values(planes).forEach((p) => kernels.give(p));
  });

  test('over its budget the least recently used goes first', async () => {
    const { kernels, cache, run, end } = await bench();
    const before = kernels.used;
    cache.budget = 2.5 * WIDTH * HEIGHT * 16;
    const at = (size: number) => planOf([{ type: 'blur', params: { size } }]);
    [4, 5, 4, 6].forEach((s) => run(at(s)));
    expect(run(at(4))).toEqual([]);
    expect(run(at(5))).not.toEqual([]);
    expect(cache.figures.bytes).toBeLessThanOrEqual(cache.figures.budget);
    cache.shrink(0);
    expect(kernels.used).toBe(before);
    end();
  });
});
