import type { TestPicture, TestStep } from '../../testing/evaluate';
import { evaluate } from '../../testing/evaluate';
import type { Values } from '../../testing/scenes';
import { card, H, plain, plate, sceneOf, seen, soft, W } from '../../testing/scenes';

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
