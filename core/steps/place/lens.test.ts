import { lensMapOf, plainLens } from '../../lens/lens';
import { LENS_MODEL_NAMES } from '../../lens/models';
import { newPoint } from '../../readings/make';
import type { LensReading } from '../../readings/types';
import type { TestPicture, TestStep } from '../../testing/evaluate';
import { evaluate } from '../../testing/evaluate';

const WIDE = {
  model: 'radial2',
  coefficients: { k1: -0.2, k2: 0.04 },
  centre: [50, 29],
  focal: 70,
  squeeze: 1,
  format: { width: 96, height: 60 },
} as const;
const reading: LensReading = {
  kind: 'lens',
  id: 'lens',
  name: 'Wide',
  from: { lane: 'main' },
  channel: 'luma',
  reference: 1,
  range: { first: 1, last: 1 },
  settings: { pattern: 'auto', model: 'auto', mm: 0, sensor: 0, squeeze: 1 },
  frames: [],
  lines: [],
  solved: [{ lens: WIDE, rms: 0.1, max: 0.2, rings: [] }],
};
const noisy = (x: number, y: number): number => ((x * 7919 + y * 104729) % 97) / 97;
const plate: TestPicture = { width: 96, height: 60, fill: { R: noisy, G: (x, y) => noisy(y, x), B: 0.3, A: 1 } };
const card: TestPicture = {
  width: 96,
  height: 60,
  fill: Object.fromEntries(['R', 'G', 'B', 'A'].map((c) => [c, (x: number, y: number) => +(x > 30 && x < 60 && y > 20 && y < 40)])),
};
const straighten: TestStep = { type: 'lens', params: { reading: 'lens' } };
const bend: TestStep = { type: 'lens', params: { reading: 'lens', direction: 'bend' } };
const run = (pictures: Record<string, TestPicture>, steps: TestStep[]) => evaluate(pictures, steps, { readings: [reading] });
const equal = (a: Float32Array, b: Float32Array, at: (i: number) => boolean = () => true): boolean =>
  a.every((v, i) => !at(i) || v === b[i]);

describe('lens', () => {
  test('straightened and bent back is the plate, to the bit', async () => {
    const [was, got] = [await run({ main: plate }, []), await run({ main: plate }, [straighten, bend])];
    for (const c of ['R', 'G', 'B', 'A']) expect(equal(got.planes[c]!, was.planes[c]!)).toBe(true);
    const grown = await run({ main: plate }, [
      { type: 'lens', params: { reading: 'lens', size: 'grown' } },
      { type: 'lens', params: { reading: 'lens', size: 'grown', direction: 'bend' } },
    ]);
    expect(equal(grown.planes.R!, was.planes.R!)).toBe(true);
  });

  test('a pixel of the straight picture is where the lens filmed it', async () => {
    const ramp: TestPicture = { width: 96, height: 60, fill: { R: (x) => (x + 0.5) / 100, G: (_, y) => (y + 0.5) / 100, B: 0 } };
    const got = await run({ main: ramp }, [{ type: 'lens', params: { reading: 'lens', filter: 'catmullRom' } }]);
    const to = new Float64Array(2);
    for (const [x, y] of [
      [12, 9],
      [48, 30],
      [80, 44],
    ] as const) {
      lensMapOf(WIDE).bend(x + 0.5, y + 0.5, to);
      expect(got.at('R', x, y) * 100).toBeCloseTo(to[0]!, 2);
      expect(got.at('G', x, y) * 100).toBeCloseTo(to[1]!, 2);
    }
  });

  test('what leaves the frame is kept beyond it', async () => {
    const got = await run({ main: plate }, [straighten]);
    expect(got.plan.root.info.bounds.x0).toBeLessThan(-2);
    expect(got.plan.root.info.bounds.y1).toBeGreaterThan(62);
    expect(got.plan.root.info.format).toMatchObject({ width: 96, height: 60 });
    const grown = await run({ main: plate }, [{ type: 'lens', params: { reading: 'lens', size: 'grown' } }]);
    expect(grown.plan.root.info.format.width).toBeGreaterThan(100);
  });

  test('of what was joined between, the plate stays to the bit and the rest is resampled once', async () => {
    const join: TestStep = { type: 'join', feeds: ['front'] };
    const was = await run({ main: plate }, []);
    const got = await run({ main: plate, front: card }, [straighten, join, bend]);
    expect(got.plan.nodes.filter((n) => n.kind === 'step').map((n) => n.kind === 'step' && n.step.type)).toEqual(['lens', 'join']);
    const alone = await run({ main: card }, [bend]);
    const untouched = (i: number): boolean => alone.planes.A![i] === 0;
    expect(alone.planes.A!.filter((a) => a === 0).length).toBeGreaterThan(3000);
    for (const c of ['R', 'G', 'B']) expect(equal(got.planes[c]!, was.planes[c]!, untouched)).toBe(true);
    expect(got.at('R', 45, 30)).toBeCloseTo(1, 3);
  });

  test('a colour in between is as good as after it', async () => {
    const grade: TestStep = { type: 'exposure', params: { stops: 1 } };
    const [was, got] = [await run({ main: plate }, [grade]), await run({ main: plate }, [straighten, grade, bend])];
    expect(equal(got.planes.R!, was.planes.R!)).toBe(true);
  });

  test('work that cannot be taken apart: what it did not touch goes out as filmed', async () => {
    const blur: TestStep = { type: 'blur', params: { size: 4 }, mask: { from: 'front', channel: 'A' } };
    const fed = { plate: { lane: 'main', after: '' }, straight: { lane: 'main', after: 'step 0' } };
    const got = await evaluate({ main: plate, front: card }, [straighten, blur, { ...bend, taps: fed }], { readings: [reading] });
    const was = await run({ main: plate }, []);
    let [same, changed] = [0, 0];
    got.planes.R!.forEach((v, i) => (v === was.planes.R![i] ? same++ : changed++));
    expect(same).toBeGreaterThan(4000);
    expect(changed).toBeGreaterThan(400);
    for (const [x, y] of [
      [5, 5],
      [90, 55],
      [80, 10],
    ] as const)
      expect(got.at('R', x, y)).toBe(was.at('R', x, y));
  });

  test('a reading of the straight picture, used before it is straightened, moves what is then straight', async () => {
    const path = [1, 2].map((frame) => ({ frame, x: 30 + 6 * (frame - 1), y: 20 + 3 * (frame - 1), confidence: 1, error: 0 }));
    const point = {
      ...newPoint([30, 20], { id: 'p', from: { lane: 'main', after: 'step 1' }, reference: 1, range: { first: 1, last: 2 } }),
      frames: path,
    };
    const soft: TestPicture = { width: 96, height: 60, fill: { R: (x, y) => 0.5 + 0.3 * Math.sin(x / 5) * Math.cos(y / 6), G: 0, B: 0 } };
    const both = { readings: [reading, point], frame: 2 };
    const got = await evaluate({ main: soft }, [{ type: 'follow', params: { reading: 'p' } }, straighten], both);
    const by = await evaluate({ main: soft }, [straighten, { type: 'transform', params: { translate: [6, 3] } }], both);
    for (const [x, y] of [
      [30, 20],
      [50, 40],
      [70, 25],
    ] as const)
      expect(got.at('R', x, y)).toBeCloseTo(by.at('R', x, y), 2);
    // Used after it, it is a plain shift.
    const after = await evaluate(
      { main: soft },
      [{ type: 'exposure', on: false }, straighten, { type: 'follow', params: { reading: 'p' } }],
      both,
    );
    for (const [x, y] of [
      [30, 20],
      [50, 40],
    ] as const)
      expect(after.at('R', x, y)).toBeCloseTo(by.at('R', x, y), 2);
  });

  test('one whose reading is not solved, or gone, passes the picture through', async () => {
    const was = await run({ main: plate }, []);
    const got = await evaluate({ main: plate }, [straighten], { readings: [{ ...reading, solved: [] }] });
    expect(equal(got.planes.R!, was.planes.R!)).toBe(true);
    const gone = await evaluate({ main: plate }, [straighten], { readings: [] });
    expect(gone.plan.remarks[0]!.message).toMatch(/is no longer there/);
  });

  test('a lens of pictures of another shape is told, once', async () => {
    const tall = { ...reading, solved: [{ ...reading.solved[0]!, lens: { ...WIDE, format: { width: 60, height: 60 } } }] };
    const join: TestStep = { type: 'join', feeds: ['front'] };
    const got = await evaluate({ main: plate, front: card }, [straighten, join, bend], { readings: [tall] });
    expect(got.plan.remarks.map((r) => [r.step, /another shape/.test(r.message)])).toEqual([
      ['step 0', true],
      ['step 2', true],
    ]);
  });

  test('straightening what was joined is one look at all of it, in the frame that it asks for', async () => {
    const join: TestStep = { type: 'join', feeds: ['front'] };
    const moved: TestStep = { type: 'transform', params: { translate: [3, 2] } };
    const got = await run({ main: plate, front: card }, [moved, join, { type: 'lens', params: { reading: 'lens', size: 'grown' } }]);
    expect(got.plan.nodes.filter((n) => n.kind === 'step').map((n) => n.kind === 'step' && n.step.type)).toEqual([
      'transform',
      'join',
      'lens',
    ]);
  });

  test('coefficients that fold inside the frame are told, and what lies beyond is empty', async () => {
    const got = await run({ main: plate }, [{ type: 'lens', params: { from: 'typed', model: 'radial2', k1: -1.2, focal: 0.6 } }]);
    expect(got.plan.remarks[0]!.message).toMatch(/folds \d+ px from its centre, inside the frame/);
    expect(got.at('A', 1, 1)).toBe(0);
    expect(got.at('A', 48, 30)).toBeCloseTo(1, 3);
  });

  test.each(LENS_MODEL_NAMES)('%s: there and back again is the place itself within its valid radius', (model) => {
    const small: Record<string, number> = {
      l1: -0.2,
      k1: -0.15,
      k2: 0.03,
      k3: 0.001,
      k4: 0.02,
      p1: 0.002,
      p2: -0.001,
      turn: 0.1,
      x20: -0.1,
      x02: -0.12,
      y20: -0.15,
      y02: -0.1,
      x40: 0.01,
    };
    const map = lensMapOf({ ...plainLens({ width: 960, height: 540 }, model), focal: 700, coefficients: small });
    const to = new Float64Array(2);
    for (let i = 0; i < 200; i++) {
      const [x, y] = [960 * ((i * 0.618) % 1), 540 * ((i * 0.755) % 1)];
      map.straighten(x, y, to);
      map.bend(to[0]!, to[1]!, to);
      expect(Math.hypot(to[0]! - x, to[1]! - y)).toBeLessThan(1e-6);
    }
  });
});
