import fc from 'fast-check';
import { evaluate, flat } from '../../testing/evaluate';
import { rect } from '../../geometry/rect';

const FILTERS = ['nearest', 'bilinear', 'mitchell', 'catmullRom', 'lanczos3'];
const dot = (x0: number, y0: number) => ({
  width: 32,
  height: 32,
  fill: { R: (x: number, y: number) => +(x === x0 && y === y0), G: 0, B: 0 },
});

describe('transform', () => {
  test('a whole-pixel move moves every pixel exactly', async () => {
    const got = await evaluate({ main: dot(10, 12) }, [{ type: 'transform', params: { translate: [5, -3], filter: 'catmullRom' } }]);
    expect(got.at('R', 15, 9)).toBe(1);
    expect(got.planes.R!.reduce((s, v) => s + v, 0)).toBe(1);
  });

  test('half a pixel with bilinear shares a pixel between two', async () => {
    const got = await evaluate({ main: dot(10, 10) }, [{ type: 'transform', params: { translate: [0.5, 0], filter: 'bilinear' } }]);
    expect(got.at('R', 10, 10)).toBeCloseTo(0.5, 5);
    expect(got.at('R', 11, 10)).toBeCloseTo(0.5, 5);
  });

  test('a quarter turn clockwise about the centre takes the top to the right', async () => {
    const got = await evaluate({ main: dot(15, 2) }, [{ type: 'transform', params: { rotate: 90, filter: 'bilinear' } }]);
    expect(got.at('R', 29, 15)).toBeCloseTo(1, 4);
  });

  test.each(FILTERS)('a constant stays constant inside with %s, enlarged and reduced', async (filter) => {
    for (const uniform of [0.37, 1.7]) {
      const got = await evaluate({ main: flat(64, 64, 0.6) }, [{ type: 'transform', params: { uniform, rotate: 13, filter } }]);
      for (const [x, y] of [
        [32, 32],
        [28, 35],
        [37, 30],
      ] as const)
        expect(got.at('G', x, y)).toBeCloseTo(0.6, 4);
    }
  });

  test('halving takes fine stripes to their mean instead of aliasing', async () => {
    const stripes = { width: 64, height: 64, fill: { R: (x: number) => x % 2, G: 0, B: 0 } };
    const got = await evaluate({ main: stripes }, [{ type: 'transform', params: { uniform: 0.5, filter: 'lanczos3' } }]);
    for (let x = 24; x < 40; x++) expect(Math.abs(got.at('R', x, 32) - 0.5)).toBeLessThan(0.03);
  });

  test('there and back again gives the picture', async () => {
    const wave = {
      width: 64,
      height: 64,
      fill: { R: (x: number, y: number) => 0.5 + 0.4 * Math.sin(x * 0.3) * Math.cos(y * 0.25), G: 0, B: 0 },
    };
    const turn = (rotate: number) => ({ type: 'transform', params: { rotate, filter: 'lanczos3' } });
    const got = await evaluate({ main: wave }, [turn(17), turn(-17)]);
    for (let y = 24; y < 40; y++) for (let x = 24; x < 40; x++) expect(Math.abs(got.at('R', x, y) - wave.fill.R(x, y))).toBeLessThan(0.01);
  });

  test('motion blur spreads a moving dot along its path and keeps its light', async () => {
    const translate = {
      keys: [
        { frame: 1, value: [0, 0], ease: 'linear' as const },
        { frame: 2, value: [10, 0], ease: 'linear' as const },
      ],
    };
    const params = { translate, shutter: 360, samples: 32, filter: 'bilinear' };
    const got = await evaluate({ main: dot(8, 16) }, [{ type: 'transform', params }], { frame: 2 });
    const row = Array.from({ length: 32 }, (_, x) => got.at('R', x, 16));
    expect(row.reduce((s, v) => s + v, 0)).toBeCloseTo(1, 4);
    expect(row.filter((v) => v > 0.02).length).toBeGreaterThanOrEqual(5);
  });

  test('a region gives the pixels of the whole', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: -40, max: 40 }),
        fc.double({ min: 0.4, max: 2, noNaN: true }),
        fc.integer({ min: 0, max: 20 }),
        async (rotate, uniform, x0) => {
          const main = { width: 48, height: 48, fill: { R: (x: number, y: number) => ((x * 7 + y * 13) % 17) / 17, G: 0, B: 0 } };
          const steps = [
            { type: 'transform', params: { rotate, uniform } },
            { type: 'blur', params: { size: 1.5 } },
          ];
          const whole = await evaluate({ main }, steps);
          const part = await evaluate({ main }, steps, { region: rect(x0, 10, x0 + 12, 22) });
          for (let y = 10; y < 22; y++)
            for (let x = x0; x < x0 + 12; x++) expect(Math.abs(part.at('R', x, y) - whole.at('R', x, y))).toBeLessThan(1e-5);
        },
      ),
      { numRuns: 12 },
    );
  });
});

describe('conform', () => {
  const shot = flat(64, 36, 0); // the shot takes the format of `main`
  test.each([
    ['fit', 0, 1],
    ['fill', 1, 1],
    ['stretch', 1, 1],
    ['none', 0, 1],
  ])('%s', async (fit, atSide, atMiddle) => {
    const square = flat(40, 40, 1);
    const { makePlan } = await import('../../evaluate/plan');
    const { testShot } = await import('../../testing/evaluate');
    const { STEPS } = await import('..');
    const doc = testShot({ main: square }, [{ type: 'conform', params: { fit } }]);
    const wide = { ...doc, format: { width: shot.width, height: shot.height, pixelAspect: 1 } };
    const plan = makePlan(wide, { tap: { lane: 'main' }, frame: 1, scale: 1, channels: ['A'] }, STEPS);
    expect(plan.root.info.format).toEqual(wide.format);
    const { bounds } = plan.root.info;
    expect(bounds.x0 <= 3).toBe(atSide === 1);
    expect(bounds.x0 <= 32 && bounds.x1 >= 32).toBe(atMiddle === 1);
  });
});

describe('crop', () => {
  test('cuts at the margins, with part coverage on part pixels', async () => {
    const got = await evaluate({ main: flat(10, 10, 1) }, [{ type: 'crop', params: { left: 2.25, right: 3 } }]);
    expect([0, 1, 2, 3, 6, 7].map((x) => got.at('A', x, 5))).toEqual([0, 0, 0.75, 1, 1, 0]);
  });
  test('bounds shrink, so that nothing is worked out outside', async () => {
    const got = await evaluate({ main: flat(100, 100, 1) }, [
      { type: 'crop', params: { left: 90 } },
      { type: 'exposure', params: { stops: 1 } },
    ]);
    expect(got.plan.nodes.find((n) => n.kind === 'step' && n.step.type === 'exposure')!.region).toEqual(rect(90, 0, 100, 100));
  });
});
