import { describe, expect, test } from '@jest/globals';
import type { Param } from '../../document/types';
import type { Filling, TestPicture, TestStep } from '../../testing/evaluate';
import { evaluate } from '../../testing/evaluate';

const [W, H] = [96, 64];
const plate: TestPicture = { width: W, height: H, fill: { R: 0.2, G: 0.2, B: 0.2, A: 1 } };
const plain = (R: number, G: number, B: number): TestPicture => ({ width: 48, height: 48, fill: { R, G, B, A: 1 } });
const soft: TestPicture = {
  width: 64,
  height: 48,
  fill: Object.fromEntries([
    ...['R', 'G', 'B'].map((c, k) => [c, (x: number, y: number) => 0.5 + 0.3 * Math.sin(x / 7 + k) * Math.cos(y / 6)] as const),
    ['A', 1],
  ]) as Filling,
};

type Values = Record<string, Param>;
const sceneOf = (things: Record<string, Values>, more: Values = {}, taps: NonNullable<TestStep['taps']> = {}): TestStep => ({
  type: 'scene',
  params: {
    seen: 'keyed',
    eye: [0, 0, 3],
    focal: 36,
    filmWidth: 36,
    things: Object.keys(things).map((id) => ({ id, name: id })) as unknown as Param,
    ...Object.fromEntries(Object.entries(things).flatMap(([id, v]) => Object.entries(v).map(([k, p]) => [`${id}.${k}`, p]))),
    ...more,
  },
  taps,
});
const card = { what: 'card', casts: false };
/** Where the camera above shows a place. */
const seen = ([x, y, z]: readonly number[]): [number, number] => [W / 2 + (96 * x!) / (3 - z!), H / 2 - (96 * y!) / (3 - z!)];

describe('a flat card', () => {
  // Not where a pixel is one and a half or two and a half of the picture’s: there it is a matter of rounding how many looks it takes.
  test.each([0.72, 1.3])('of size %p is the picture pinned by its corners, within a code value', async (size) => {
    const turn = 35;
    const [c, s] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
    const [w, h] = [(size * 64) / 48 / 2, size / 2];
    const corners = [
      [-w, h],
      [w, h],
      [w, -h],
      [-w, -h],
    ].map(([x, y]) => seen([0.1 + c * x!, -0.05 + y!, -s * x!]));
    const laid = await evaluate(
      { main: { ...plate, fill: { R: 0, G: 0, B: 0, A: 0 } }, soft },
      [sceneOf({ a: { ...card, at: [0.1, -0.05, 0], turn: [0, turn, 0], size } }, {}, { 'a.picture': { lane: 'soft' } })],
      { frame: 1 },
    );
    const names = ['topLeft', 'topRight', 'bottomRight', 'bottomLeft'];
    const frame = [
      [0, 0],
      [64, 0],
      [64, 48],
      [0, 48],
    ];
    // The same corners from a lane of the picture's own size.
    const pinned = await evaluate(
      { main: soft },
      [{ type: 'cornerPin', params: Object.fromEntries(names.map((n, i) => [n, corners[i]!.map((v, k) => v - frame[i]![k]!)])) }],
      { region: { x0: 0, y0: 0, x1: W, y1: H } },
    );
    let worst = 0;
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++) for (const ch of ['R', 'A']) worst = Math.max(worst, Math.abs(laid.at(ch, x, y) - pinned.at(ch, x, y)));
    expect(worst).toBeLessThan(1 / 255);
  });

  test('shows the same whether laid flat or drawn as triangles, away from its edges', async () => {
    const pictures = { main: plate, soft };
    const taps = { 'a.picture': { lane: 'soft' } };
    const a = await evaluate(pictures, [sceneOf({ a: { ...card, turn: [10, 20, 0], size: 1.4 } }, {}, taps)]);
    const b = await evaluate(pictures, [sceneOf({ a: { ...card, turn: [10, 20, 0], size: 1.4, casts: true } }, {}, taps)]);
    for (let y = 20; y < 44; y += 3)
      for (let x = 36; x < 60; x += 3) expect(Math.abs(a.at('R', x, y) - b.at('R', x, y))).toBeLessThan(0.01);
  });

  test('crossing cards are cut by depth through the step as well', async () => {
    const taps = { 'a.picture': { lane: 'red' }, 'b.picture': { lane: 'green' } };
    const pictures = { main: plate, red: plain(1, 0, 0), green: plain(0, 1, 0) };
    const r = await evaluate(pictures, [
      sceneOf({ a: { ...card, turn: [0, 45, 0], size: 2 }, b: { ...card, turn: [0, -45, 0], size: 2 } }, {}, taps),
    ]);
    expect([r.at('R', 40, 32), r.at('G', 40, 32)]).toEqual([1, 0]);
    expect([r.at('R', 56, 32), r.at('G', 56, 32)]).toEqual([0, 1]);
  });
});

describe('its camera', () => {
  /** A wavy wall about z = −2. */
  const away = (x: number): number => 5 + 0.3 * Math.sin(x / 9);
  const wall: TestPicture = {
    width: W,
    height: H,
    fill: {
      ...plate.fill,
      Z: away,
      'P.X': (x) => ((x + 0.5 - W / 2) / 96) * away(x),
      'P.Y': (x, y) => (-(y + 0.5 - H / 2) / 96) * away(x),
      'P.Z': (x) => 3 - away(x),
    },
  };

  test('is found from a render’s positions, and its depth hides what lies behind', async () => {
    const pictures = { main: wall, white: plain(1, 1, 1) };
    const at = (z: number) =>
      evaluate(pictures, [
        sceneOf({ a: { ...card, at: [0, 0, z], size: 0.5 } }, { seen: 'passes', behind: true }, { 'a.picture': { lane: 'white' } }),
      ]);
    expect((await at(0)).at('R', 48, 32)).toBeCloseTo(1, 3);
    expect((await at(-3)).at('R', 48, 32)).toBeCloseTo(0.2, 3);
  });

  test('without one, and without things, the lane is passed on and it is said', async () => {
    const none = await evaluate({ main: plate }, [{ type: 'scene' }]);
    expect(none.at('R', 5, 5)).toBeCloseTo(0.2, 6);
    expect(none.plan.remarks[0]!.message).toContain('nothing is in it yet');
    const noCamera = await evaluate({ main: plate }, [sceneOf({ a: card }, { seen: 'reading' })]);
    expect(noCamera.plan.remarks[0]!.message).toContain('needs a solved camera');
  });
});

describe('points', () => {
  /** Three dots' worth of surface, the rest not covered: where a wall slopes away. */
  const spots = [
    [20, 40],
    [50, 12],
    [80, 33],
  ] as const;
  const away = (x: number): number => 3 + x / 48;
  const isSpot = (x: number, y: number): boolean => spots.some(([a, b]) => a === x && b === y);
  const at = (k: number) => (x: number, y: number) => (isSpot(x, y) ? k : 0);
  const filled = { R: at(0.9), G: at(0.3), B: at(0.1), A: at(1) };
  const positions: TestPicture = {
    width: W,
    height: H,
    fill: {
      ...filled,
      'P.X': (x) => ((x + 0.5 - W / 2) / 96) * away(x),
      'P.Y': (x, y) => (-(y + 0.5 - H / 2) / 96) * away(x),
      'P.Z': (x) => 3 - away(x),
    },
  };
  const depths: TestPicture = { width: W, height: H, fill: { ...filled, Z: away } };
  const dots = (lane: string, things: Values, more: Values = {}) =>
    evaluate(
      { main: plate, plain: plate, positions, depths },
      [sceneOf({ a: { what: 'points', dots: 'render', dot: 3, ...things } }, more, { 'a.render': { lane } })],
      { frame: 1, channels: more.give ? ['R', 'G', 'B', 'A', 'Z'] : ['R', 'G', 'B', 'A'] },
    );

  test.each(['positions', 'depths'])('of a render’s %s are round dots in its colours where it shows them', async (lane) => {
    const made = await dots(lane, {}, { over: false, give: 'layers' });
    for (const [x, y] of spots) {
      expect([made.at('R', x, y), made.at('G', x, y), made.at('B', x, y), made.at('A', x, y)]).toEqual([
        expect.closeTo(0.9, 4),
        expect.closeTo(0.3, 4),
        expect.closeTo(0.1, 4),
        expect.closeTo(1, 4),
      ]);
      expect(made.at('Z', x, y)).toBeCloseTo(away(x), 3);
      // An octagon of 3 px across: 0.9003 of its disc.
      let covered = 0;
      for (let j = -3; j <= 3; j++) for (let i = -3; i <= 3; i++) covered += made.at('A', x + i, y + j);
      expect(covered).toBeCloseTo(Math.PI * 1.5 ** 2 * 0.9003, 0);
    }
  });

  test('move with their thing, and are as many pixels across wherever they stand', async () => {
    const moved = await dots('positions', { at: [0.5, 0, 0] });
    const [x, y] = spots[1];
    const to = Math.floor(x + (0.5 * 96) / away(x));
    expect(moved.at('R', to, y)).toBeGreaterThan(0.85);
    expect(moved.at('R', x, y)).toBeCloseTo(0.2, 4);
  });

  test('a render without places, or a camera that is not solved, is said', async () => {
    expect((await dots('plain', {})).plan.remarks[0]!.message).toContain('connect a render that has a position or depth pass');
    expect((await dots('plain', { dots: 'camera' })).plan.remarks[0]!.message).toContain('points of the solved camera');
  });
});

test('layers: depth, normals, motion in pixels and ids, over the lane’s own', async () => {
  const r = await evaluate(
    { main: plate, white: plain(1, 1, 1) },
    [
      sceneOf(
        {
          a: {
            ...card,
            size: 1,
            at: {
              keys: [
                { frame: 1, value: [0, 0, 0], ease: 'linear' },
                { frame: 2, value: [0.125, 0, 0], ease: 'linear' },
              ],
            },
          },
        },
        { give: 'layers' },
        { 'a.picture': { lane: 'white' } },
      ),
    ],
    { channels: ['R', 'Z', 'N.Z', 'motion.X', 'objectId.Y'], frame: 1 },
  );
  expect(r.at('Z', 48, 32)).toBeCloseTo(3, 4);
  expect(r.at('N.Z', 48, 32)).toBeCloseTo(1, 6);
  expect(r.at('motion.X', 48, 32)).toBeCloseTo(4, 3);
  expect(r.at('objectId.Y', 48, 32)).toBe(1);
  expect(r.at('Z', 2, 2)).toBe(Infinity);
});

test('a shutter blurs what moves, a lens what is out of focus', async () => {
  const pictures = { main: { ...plate, fill: { R: 0, G: 0, B: 0, A: 0 } }, white: plain(1, 1, 1) };
  const keys = { keys: [0, 1].map((k) => ({ frame: 1 + 9 * k, value: [3 * k, 0, 0], ease: 'linear' as const })) };
  const taps = { 'a.picture': { lane: 'white' } };
  const partly = (r: Awaited<ReturnType<typeof evaluate>>): number =>
    Array.from({ length: W }, (_, x) => r.at('A', x, 32)).filter((v) => v > 0.02 && v < 0.98).length;
  const still = await evaluate(pictures, [sceneOf({ a: { ...card, at: keys } }, {}, taps)], { frame: 3 });
  const moved = await evaluate(pictures, [sceneOf({ a: { ...card, at: keys } }, { shutter: 360, shutterSamples: 16 }, taps)], { frame: 3 });
  const blurred = await evaluate(pictures, [sceneOf({ a: { ...card, at: keys } }, { aperture: 0.3, focus: 1.5, lensSamples: 24 }, taps)], {
    frame: 3,
  });
  expect(partly(still)).toBeLessThan(6);
  expect(partly(moved)).toBeGreaterThan(15);
  expect(partly(blurred)).toBeGreaterThan(8);
  const focused = await evaluate(pictures, [sceneOf({ a: { ...card, at: keys } }, { aperture: 0.3, focus: 3, lensSamples: 24 }, taps)], {
    frame: 3,
  });
  expect(partly(focused)).toBeLessThan(8);
});

test('overscan draws beyond the frame what is seen there', async () => {
  const step = (overscan: number): TestStep => sceneOf({ a: { ...card, size: 9 } }, { overscan }, { 'a.picture': { lane: 'white' } });
  const pictures = { main: plate, white: plain(1, 1, 1) };
  const region = { x0: -20, y0: 0, x1: W, y1: H };
  const wide = await evaluate(pictures, [step(12)], { region });
  const none = await evaluate(pictures, [step(0)], { region });
  const at = (r: Awaited<ReturnType<typeof evaluate>>, x: number): number => r.planes.A![10 * (W + 20) + x + 20]!;
  [at(wide, -10), at(wide, -14), at(none, -10), at(none, 2)].forEach((v, i) => expect(v).toBeCloseTo([1, 0, 0, 1][i]!, 5));
});

test('things that hang on each other in a ring still stand somewhere', async () => {
  const r = await evaluate({ main: plate, white: plain(1, 1, 1) }, [
    sceneOf({ a: { ...card, hangs: 'b' }, b: { what: 'holder', hangs: 'a', at: [0.2, 0, 0] } }, {}, { 'a.picture': { lane: 'white' } }),
  ]);
  expect(Math.max(...r.planes.R!)).toBe(1);
});

test('a picture projected from the camera’s own place is the picture, wherever the surface stands', async () => {
  const full: TestPicture = { ...soft, width: W, height: H };
  const r = await evaluate({ main: plate, full }, [
    sceneOf({ a: { what: 'box', turn: [15, 40, 0], shows: 'thrown', from: 1 } }, {}, { 'a.picture': { lane: 'full' } }),
  ]);
  const own = await evaluate({ main: full }, []);
  let worst = 0;
  for (let y = 26; y < 38; y++) for (let x = 42; x < 54; x++) worst = Math.max(worst, Math.abs(r.at('R', x, y) - own.at('R', x, y)));
  expect(worst).toBeLessThan(0.02);
});

test('what has no picture to be projected says so, until it has one or shows none', async () => {
  const remarksOf = async (change: object, feeds = {}): Promise<string[]> =>
    (
      await evaluate({ main: plate, white: plain(1, 1, 1) }, [sceneOf({ a: { what: 'box', shows: 'thrown', ...change } }, {}, feeds)])
    ).plan.remarks.map((r) => r.message);
  expect(await remarksOf({})).toContainEqual(expect.stringContaining('has no picture to be projected'));
  expect(await remarksOf({}, { 'a.picture': { lane: 'white' } })).toEqual([]);
  // The picture of another frame is one, too.
  expect(await remarksOf({ from: 3, moves: false }, { 'a.picture': { lane: 'white' } })).toEqual([]);
  expect(await remarksOf({ shows: 'laid' })).toEqual([]);
  expect(await remarksOf({ on: false })).toEqual([]);
});

test('a camera that is keyed projects from where it was at the frame that is said', async () => {
  const full: TestPicture = { ...soft, width: W, height: H };
  const eye = { keys: [0, 1].map((k) => ({ frame: 1 + 4 * k, value: [0.3125 * k, 0, 3], ease: 'linear' as const })) };
  const wall = { what: 'card', size: 8, shows: 'thrown', from: 1 };
  const r = await evaluate({ main: plate, full }, [sceneOf({ a: wall }, { eye }, { 'a.picture': { lane: 'full' } })], { frame: 5 });
  const own = await evaluate({ main: full }, []);
  // Ten pixels to the left on a wall three away.
  for (let x = 20; x < 70; x += 5) expect(Math.abs(r.at('R', x, 30) - own.at('R', x + 10, 30))).toBeLessThan(0.01);
});

test('a card throws the outline of its picture, not its own', async () => {
  // A disc over half of the card's height, seen on a catcher behind it by a sun from the front.
  const disc: TestPicture = {
    width: 64,
    height: 64,
    fill: Object.fromEntries(
      ['R', 'G', 'B', 'A'].map((c) => [c, (x: number, y: number) => Math.min(1, Math.max(0, 16.5 - Math.hypot(x - 31.5, y - 31.5)))]),
    ) as Filling,
  };
  const things = {
    disc: { what: 'card', at: [0, 0, 0.5] },
    wall: { what: 'catcher', at: [0, 0, 0], turn: [90, 0, 0], wide: 4, dark: 1 },
    sun: { what: 'light', light: 'sun', at: [10, 0, 10], aim: [0, 0, 0], blurs: 0.01 },
  };
  const { planes } = await evaluate(
    { main: plate, disc },
    [sceneOf(things, { shadowSize: '2048' }, { 'disc.picture': { lane: 'disc' } })],
    { frame: 1 },
  );
  // A sun from 45° at the right throws it half a unit to the left.
  const at = (x: number, y: number): number => {
    const [px, py] = seen([x, y, 0]);
    return planes.R![Math.floor(py) * W + Math.floor(px)]!;
  };
  expect(at(-0.5, -0.05)).toBeLessThan(0.05);
  expect(at(-0.5, 0.2)).toBeLessThan(0.05);
  // Within the card's rectangle, outside of the disc.
  for (const [x, y] of [
    [-0.9, 0.4],
    [-0.9, -0.4],
    [-0.5, 0.33],
  ] as const)
    expect(at(x, y)).toBeGreaterThan(0.15);
});

test('a mirror shows flat cards that stand on it', async () => {
  const things = {
    red: { ...card, at: [0, 0.1, 0], size: 0.4 },
    wet: { what: 'catcher', at: [0, -0.2, 0], wide: 6, mirrors: 4, dark: 0 },
  };
  const taps = { 'red.picture': { lane: 'red' } };
  const low = { eye: [0, 0.05, 3] as const };
  const draw = (some: typeof things | Omit<typeof things, 'wet'>) =>
    evaluate({ main: { ...plate, fill: { R: 0, G: 0, B: 0, A: 1 } }, red: plain(1, 0, 0) }, [sceneOf(some, { ...low }, taps)], {
      frame: 1,
    });
  const [with1, without] = [await draw(things), await draw({ red: things.red })];
  // The card's foot lies at 0.1 above the mirror; its picture in it begins as far below.
  const row = (y: number): number => Math.floor(H / 2 - (96 * (y - 0.05)) / 3);
  const at = (p: typeof with1, y: number): number => p.planes.R![row(y) * W + W / 2]!;
  expect(at(without, 0.1)).toBeGreaterThan(0.95);
  expect(at(without, -0.45)).toBe(0);
  expect(at(with1, -0.45)).toBeGreaterThan(0.2);
  expect(at(with1, -0.25)).toBeLessThan(0.02);
});

test('a card that bends while the shutter is open throws its shadow as it is at each moment', async () => {
  const things = (bend: Param) => ({
    bent: { what: 'card', at: [0, 0, 0.4], size: 0.8, bend },
    wall: { what: 'catcher', at: [0, 0, -0.2], turn: [90, 0, 0], wide: 6, dark: 1 },
    sun: { what: 'light', light: 'sun', at: [8, 0, 10], aim: [0, 0, 0], blurs: 0.01 },
  });
  const draw = async (bend: Param, shutter: number) => {
    const { planes } = await evaluate(
      { main: plate, soft },
      [sceneOf(things(bend), { shutter, shutterSamples: 4 }, { 'bent.picture': { lane: 'soft' } })],
      { frame: 2 },
    );
    return Array.from({ length: W }, (_, x) => planes.R![26 * W + x]!);
  };
  const keyed = { keys: [1, 3].map((frame) => ({ frame, value: frame === 1 ? 0 : 240, ease: 'linear' as const })) };
  const [moving, narrow] = [await draw(keyed, 360), await draw(120, 0)];
  // As the card narrows, so does its shadow: where its side passes, it is dark for a part of the time.
  expect(narrow[14]).toBeLessThan(0.02);
  expect(moving[14]).toBeGreaterThan(0.05);
  expect(moving[14]).toBeLessThan(0.15);
});

test('a rough mirror is sharp at the foot of what stands on it, and the softer the higher that is', async () => {
  const things = {
    post: { what: 'box', at: [0, 0.6, 0], sides: [0.3, 1.2, 0.02], lit: false },
    wet: { what: 'catcher', at: [0, 0, 0], wide: 6, mirrors: 25, dark: 0, blur: 6 },
  };
  const { planes } = await evaluate(
    { main: { ...plate, fill: { R: 0, G: 0, B: 0, A: 1 } } },
    [sceneOf(things, { eye: [0, 0.4, 3], look: [0, 0, 0] }, {})],
    { frame: 1 },
  );
  /** Pixels that the side of its mirror picture takes, from a quarter to three quarters of its height, at a height below it. */
  const softness = (y: number): number => {
    const at = Math.floor(H / 2 - (96 * (y - 0.4)) / 3);
    const row = Array.from({ length: W / 2 }, (_, x) => planes.R![at * W + x]!);
    const most = row[W / 2 - 1]!;
    expect(most).toBeGreaterThan(0.05);
    return row.filter((v) => v > 0.25 * most && v < 0.75 * most).length;
  };
  expect(softness(-0.04)).toBeLessThanOrEqual(1);
  expect(softness(-0.5)).toBeGreaterThan(softness(-0.04));
});
