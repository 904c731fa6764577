import type { Param } from '../../document/types';
import type { Filling, TestPicture } from '../../testing/evaluate';
import { evaluate } from '../../testing/evaluate';
import type { Values } from '../../testing/scenes';
import { card, H, plain, plate, sceneOf, seen, soft, W } from '../../testing/scenes';

test('a card throws its picture, not its rectangle', async () => {
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

describe('the shadow of a flat card', () => {
  // Pictures are known by their names here, and textures are kept.
  let named = 0;
  /** A card before a wall that takes shadows; how dark the wall becomes along its middle row. */
  const thrown = async (fill: Filling, things: Record<string, Values> = {}, sun: Values = {}): Promise<(x: number) => number> => {
    const lane = `smoke${named++}`;
    const made = await evaluate(
      { main: { ...plate, fill: { R: 1, G: 1, B: 1, A: 1 } }, [lane]: { width: 64, height: 64, fill } },
      [
        sceneOf(
          {
            smoke: { what: 'card', at: [0, 0, 1.5], size: 1 },
            wall: { what: 'catcher', turn: [90, 0, 0], wide: 6, dark: 1 },
            // From the right, so that the card itself does not hide what it throws.
            sun: { what: 'light', light: 'sun', at: [10, 0, 10], blurs: 0.01, ...sun },
            ...things,
          },
          { eye: [0, 0, 6], shadowSize: '2048' },
          { 'smoke.picture': { lane } },
        ),
      ],
      { frame: 1 },
    );
    return (x) => 1 - made.at('R', Math.floor(W / 2 + (96 * x) / 6), H / 2);
  };
  const even = (a: number): Filling => ({ R: 0, G: 0, B: 0, A: a });

  test.each([0.25, 0.6, 1])('is as thin as its picture, which covers %p', async (a) => {
    const dark = await thrown(even(a));
    expect(dark(-1.5)).toBeCloseTo(a, 2);
    expect(dark(-2.4)).toBeCloseTo(0, 2);
    expect(dark(-0.8)).toBeCloseTo(0, 2);
  });

  test('follows the picture from thin to thick, and its opacity', async () => {
    const slope: Filling = { R: 0, G: 0, B: 0, A: (x) => (x + 0.5) / 64 };
    const [whole, half] = [await thrown(slope), await thrown(slope, { smoke: { what: 'card', at: [0, 0, 1.5], size: 1, opacity: 0.5 } })];
    for (const x of [-1.75, -1.5, -1.25]) {
      expect(whole(x)).toBeCloseTo(x + 2, 1);
      expect(half(x)).toBeCloseTo((x + 2) / 2, 1);
    }
  });

  test('two of them take away one after the other', async () => {
    const again = { what: 'card', at: [0, 0, 1.5], size: 1 };
    const made = await evaluate(
      { main: { ...plate, fill: { R: 1, G: 1, B: 1, A: 1 } }, veil: { width: 64, height: 64, fill: even(0.5) } },
      [
        sceneOf(
          {
            a: again,
            b: { ...again, at: [0.5, 0, 2] },
            wall: { what: 'catcher', turn: [90, 0, 0], wide: 6, dark: 1 },
            sun: { what: 'light', light: 'sun', at: [10, 0, 10], blurs: 0.01 },
          },
          { eye: [0, 0, 6] },
          { 'a.picture': { lane: 'veil' }, 'b.picture': { lane: 'veil' } },
        ),
      ],
      { frame: 1 },
    );
    expect(made.at('R', Math.floor(W / 2 - (96 * 1.5) / 6), H / 2)).toBeCloseTo(0.25, 2);
  });

  test('of a large sun is soft at its edge, the wider the sun the more', async () => {
    const width = async (blurs: number): Promise<number> => {
      const dark = await thrown(even(1), {}, { blurs });
      let n = 0;
      for (let x = -2.6; x < -1.5; x += 0.02) if (dark(x) > 0.05 && dark(x) < 0.95) n++;
      return n * 0.02;
    };
    const [sharp, soft, softer] = [await width(0.01), await width(8), await width(16)];
    expect(soft).toBeGreaterThan(sharp + 0.1);
    expect(softer).toBeGreaterThan(1.5 * soft);
  });
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
